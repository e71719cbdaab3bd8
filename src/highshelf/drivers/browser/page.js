// What a person sees on the page, written down as plain HTML: the same that the reader of pages gets over HTTP.
//
// 1. What cannot be seen is left out; a control that is hidden behind its own label stays, since the label is what people press.
// 2. Each control carries its state of this moment and a number (`data-at`), under which it is operated afterwards.
// 3. What only a script makes a control of becomes the plain control that it stands for.
// 4. Controls outside every form belong to a form of their own; each form says under which headings it stands (`hs-step`).
(dialogs) => {
  const MOST_NODES = 40_000, MOST_LETTERS = 3_000_000, LONGEST_NAME = 60;
  const LEFT_OUT = new Set(["script", "style", "template", "noscript", "head", "link", "meta", "canvas", "video", "audio", "object", "embed", "datalist"]);
  const PLAIN = new Set("a abbr address article aside b blockquote br caption center code dd details dfn div dl dt em fieldset figcaption figure footer h1 h2 h3 h4 h5 h6 header hr i img kbd label legend li main mark nav ol optgroup option p pre q s samp section small span strong sub summary sup table tbody td tfoot th thead tr u ul".split(" "));
  const VOID = new Set(["br", "hr", "img", "input"]);
  const KEPT = ["id", "class", "for", "title", "alt", "role", "aria-label", "aria-current", "aria-live", "aria-required", "aria-invalid", "colspan", "scope", "data-step"];
  const BUTTONS = new Set(["submit", "button", "image", "reset"]);
  const elements = [], controls = [], forms = new Map(), put_out = new Set(), out = [];
  let nodes = 0, letters = 0;

  const text = (s) => s.replaceAll("&", "&amp;").replaceAll("<", "&lt;").replaceAll(">", "&gt;").replaceAll('"', "&quot;");
  const put = (s) => { letters += s.length; if (letters < MOST_LETTERS) out.push(s); };
  const put_tag = (tag, facts) => put("<" + tag + Object.entries(facts).filter(([, v]) => v !== null && v !== undefined && v !== false)
    .map(([n, v]) => v === true ? " " + n : ` ${n}="${text(String(v))}"`).join("") + ">");
  const said = (el) => (el.innerText || el.textContent || "").replace(/\s+/g, " ").trim();
  const kept = (el) => Object.fromEntries(KEPT.filter((n) => el.hasAttribute(n)).map((n) => [n, el.getAttribute(n)]));
  const style = (el) => (el.ownerDocument.defaultView || window).getComputedStyle(el);

  function is_seen(el) {
    const s = style(el);
    if (s.display === "none") return false;
    if (s.display === "contents") return true;
    if (s.visibility !== "visible" && s.visibility !== "") return false;
    if (Number(s.opacity) === 0) return false;
    const box = el.getBoundingClientRect();
    const view = el.ownerDocument.defaultView || window;
    if (box.width > 0 && box.height > 0 && (box.right + view.scrollX <= 0 || box.bottom + view.scrollY <= 0)) return false;
    // Folded together: what is in it does not show.
    if (s.overflowY !== "visible" && el.clientHeight === 0 && el.scrollHeight > 0 && s.display !== "inline") return false;
    return true;
  }
  const is_seen_up = (el) => { for (let at = el; at && at.nodeType === 1; at = at.parentElement) if (!is_seen(at)) return false; return true; };
  // A control that its own label stands for: styled boxes and lists hide the real one.
  const is_behind_label = (el) => [...(el.labels || [])].some(is_seen_up);
  const is_off = (el) => el.matches(":disabled") || el.getAttribute("aria-disabled") === "true";

  // What lies over the whole page, and takes every press.
  function veil_of() {
    const modal = [...document.querySelectorAll("dialog[open]")].find((d) => d.matches(":modal"));
    if (modal) return modal;
    const middle = document.elementFromPoint(innerWidth / 2, innerHeight / 2);
    for (let at = middle; at && at !== document.body && at !== document.documentElement; at = at.parentElement) {
      const box = at.getBoundingClientRect();
      const covers = box.width >= innerWidth * 0.9 && box.height >= innerHeight * 0.9 && box.left <= 1 && box.top <= 1;
      // A page that is drawn into one fixed box is no veil: something else has to lie under it.
      if (covers && style(at).position === "fixed" && [...document.body.querySelectorAll("button, input:not([type=hidden]), select, a[href]")].some((e) => !at.contains(e) && is_seen_up(e))) return at;
    }
    return null;
  }
  const veil = veil_of();
  const is_under = (el) => veil !== null && !veil.contains(el) && !el.contains(veil);
  function named(el) {
    const own = el.getAttribute("name") || el.id || el.getAttribute("data-name") || el.getAttribute("aria-label") || el.getAttribute("placeholder") || "";
    return own.trim().slice(0, LONGEST_NAME);
  }
  // Outside forms: where several buttons say the same, each of them is one part's of the page, with the fields that stand there.
  function parts_of() {
    const alike = new Map();
    for (const b of document.querySelectorAll("button, [role=button], input[type=button], input[type=submit]")) {
      const label = said(b) || b.value || "";
      if (label && !b.form && !b.closest("form") && is_seen_up(b)) alike.set(label, [...(alike.get(label) || []), b]);
    }
    return [...alike.values()].filter((all) => all.length > 1).flatMap((all) => all.map((b) => {
      let at = b;
      while (at.parentElement && !all.some((o) => o !== b && at.parentElement.contains(o))) at = at.parentElement;
      return at;
    })).filter((part) => part.querySelector("input:not([type=hidden]), select, textarea"));
  }
  const parts = parts_of();
  function form_of(el) {
    const form = el.form || el.closest("form");
    const key = form || parts.find((p) => p.contains(el)) || el.ownerDocument;
    if (!forms.has(key)) forms.set(key, { id: "hs-form-" + forms.size, element: form || null });
    return forms.get(key).id;
  }
  function mark(el, facts) {
    const at = elements.length;
    elements.push(el);
    controls.push({ at, ...facts });
    return at;
  }

  function put_button(el, label, facts = {}) {
    const form = form_of(el);
    const at = mark(el, { form, name: "", kind: "button", value: label });
    const name = el.getAttribute("name");
    put_tag("button", { ...kept(el), type: el.type === "reset" ? "reset" : "submit", form, "data-at": at, disabled: is_off(el),
      name: name || "hs-press", value: name ? el.value || el.getAttribute("value") || "" : label, ...facts });
    put(text(label));
    put("</button>");
  }
  const face = (el) => said(el) || [...el.querySelectorAll("img[alt], [aria-label], [title]")].map((n) => n.getAttribute("alt") || n.getAttribute("aria-label") || n.getAttribute("title")).find(Boolean)
    || el.getAttribute("aria-label") || el.getAttribute("title") || el.getAttribute("alt") || "";

  function put_input(el) {
    const type = (el.getAttribute("type") || "text").toLowerCase();
    if (type === "file") return;
    if (BUTTONS.has(type)) return put_button(el, type === "image" ? el.alt || el.title || el.value : el.value || el.title || "");
    const form = form_of(el), name = named(el) || "hs-field-" + elements.length;
    const facts = { ...kept(el), type, name, form, required: el.required, autocomplete: el.getAttribute("autocomplete"), placeholder: el.placeholder };
    if (type === "hidden") return put_tag("input", { ...facts, value: el.value });
    const ticks = type === "checkbox" || type === "radio";
    const at = mark(el, { form, name, kind: ticks ? type : "text", value: el.value, checked: el.checked, hidden: !is_seen_up(el) });
    put_tag("input", { ...facts, value: el.value, checked: ticks && el.checked, disabled: is_off(el) || (!ticks && el.readOnly ? null : false), readonly: el.readOnly, "data-at": at });
  }
  function put_select(el) {
    const form = form_of(el), name = named(el) || "hs-field-" + elements.length;
    const at = mark(el, { form, name, kind: "select", value: el.value, chosen: [...el.selectedOptions].map((o) => o.value), hidden: !is_seen_up(el) });
    put_tag("select", { ...kept(el), name, form, placeholder: el.getAttribute("placeholder"), required: el.required, multiple: el.multiple, disabled: is_off(el), "data-at": at });
    for (const one of el.options) { put_tag("option", { value: one.value, selected: one.selected, disabled: one.disabled }); put(text(one.label || one.text)); put("</option>"); }
    put("</select>");
  }
  function put_area(el) {
    const form = form_of(el), name = named(el) || "hs-field-" + elements.length;
    const at = mark(el, { form, name, kind: "text", value: el.value, hidden: false });
    put_tag("textarea", { ...kept(el), name, form, required: el.required, readonly: el.readOnly, disabled: is_off(el), placeholder: el.placeholder, "data-at": at });
    put(text(el.value));
    put("</textarea>");
  }
  // A control of the page's own making that ticks.
  function put_tick(el, role) {
    const form = form_of(el), label = face(el), checked = el.getAttribute("aria-checked") === "true";
    const type = role === "radio" ? "radio" : "checkbox";
    const group = role === "radio" ? el.closest("[role=radiogroup]") : null;
    const name = (group && (named(group) || "hs-group")) || named(el) || label.slice(0, LONGEST_NAME) || "hs-field-" + elements.length;
    const value = el.getAttribute("data-value") || el.getAttribute("value") || (type === "radio" ? label : "on");
    const at = mark(el, { form, name, kind: type === "radio" ? "pick" : "tick", value, checked });
    const by = (el.getAttribute("aria-labelledby") || "").split(/\s+/).map((i) => i && el.ownerDocument.getElementById(i)).filter(Boolean).map(said).join(" ");
    put("<label>");
    put_tag("input", { type, name, value, checked, form, disabled: is_off(el), "data-at": at, required: el.getAttribute("aria-required") === "true" });
    put(text(label || by) + "</label>");
  }
  // A list of the page's own making: its choices stand in it, or in the list that it says it opens.
  function choices_of(el) {
    const opened = window[Symbol.for("hs-choices")];
    if (opened && opened.has(el)) return opened.get(el);
    for (const a of el.attributes) {
      if (!/^\s*\[\s*\{/.test(a.value)) continue;
      try {
        const listed = JSON.parse(a.value).filter((o) => o && "value" in o && !o.is_disabled && !o.disabled);
        if (listed.length) return listed.map((o) => ({ value: String(o.value), label: String(o.label ?? o.text ?? o.value) }));
      } catch { /* no list */ }
    }
    const owned = el.getAttribute("aria-controls") || el.getAttribute("aria-owns");
    const lists = [owned && el.ownerDocument.getElementById(owned), el.querySelector("[role=listbox], ul, ol"), el.nextElementSibling && el.nextElementSibling.matches("[role=listbox], ul, ol") ? el.nextElementSibling : null];
    const list = lists.find(Boolean);
    const rows = list ? [...list.querySelectorAll("[role=option], li")] : [];
    return rows.map((r) => ({ value: r.getAttribute("data-value") ?? r.getAttribute("value") ?? (r.textContent || "").trim(), label: (r.textContent || "").replace(/\s+/g, " ").trim() })).filter((o) => o.label);
  }
  function put_choice(el, choices) {
    const form = form_of(el), name = named(el) || "hs-field-" + elements.length;
    const list = el.querySelector("[role=listbox], ul, ol");
    const shown = (el.value !== undefined && String(el.value)) || el.getAttribute("data-value") || (list ? [...el.children].filter((c) => !c.contains(list)).map(said).join(" ") : said(el));
    const chosen = choices.find((o) => o.value === shown) || choices.find((o) => o.label === shown);
    const at = mark(el, { form, name, kind: "choice", value: chosen ? chosen.value : "", choices });
    const by = (el.getAttribute("aria-labelledby") || "").split(/\s+/).filter((i) => i && i !== el.id)[0];
    put_tag("select", { ...kept(el), role: null, name, form, disabled: is_off(el), "data-at": at, "aria-label": el.getAttribute("aria-label") || (by && el.ownerDocument.getElementById(by) ? said(el.ownerDocument.getElementById(by)) : null) });
    if (!chosen) put_tag("option", { value: "", selected: true }), put("</option>");
    for (const o of choices) { put_tag("option", { value: o.value, selected: o === chosen }); put(text(o.label) + "</option>"); }
    put("</select>");
  }

  const INTERACTIVE = "a[href], button, input, select, textarea, [role=button], [role=link], [contenteditable=true]";
  function leads(el) {
    const href = el.getAttribute("href") || "";
    return /^(?!#|javascript:|mailto:|tel:|data:)./i.test(href.trim()) && el.protocol.startsWith("http");
  }
  // What shows by its pointer that it can be pressed, is short, and has nothing else to press in it.
  function is_pressable(el, tag) {
    const role = el.getAttribute("role");
    if (role === "button" || role === "link" || role === "menuitem") return true;
    if (tag === "a") return !(el.hash && el.ownerDocument.getElementById(decodeURIComponent(el.hash.slice(1)))) && (el.hasAttribute("href") || el.hasAttribute("onclick") || style(el).cursor === "pointer");
    if (tag === "label" || tag === "summary" || tag === "option" || el.querySelector(INTERACTIVE)) return false;
    if (el.hasAttribute("onclick")) return true;
    const above = el.parentElement || (el.getRootNode() || {}).host;
    return above && style(el).cursor === "pointer" && style(above).cursor !== "pointer" && said(el).length > 0 && said(el).length <= 60 && !el.closest("label");
  }

  function walk(node) {
    if (++nodes > MOST_NODES || letters > MOST_LETTERS) return;
    if (node.nodeType === 3) return put(text(node.data));
    if (node.nodeType !== 1) { for (const child of node.childNodes) walk(child); return; }
    const el = node, tag = el.localName;
    if (LEFT_OUT.has(tag)) return;
    const role = el.getAttribute("role");
    if (tag === "input" && el.type === "hidden") return put_input(el);
    // Under a veil there is something to read, and nothing to press.
    if (is_under(el) && (["input", "select", "textarea", "button", "a", "summary"].includes(tag) || is_pressable(el, tag))) return put(text(said(el)) + " ");
    const behind = ["input", "select"].includes(tag) && is_behind_label(el);
    if (!is_seen(el) && !behind) return;
    if (tag === "input") return put_input(el);
    if (tag === "select") return put_select(el);
    if (tag === "textarea") return put_area(el);
    if (tag === "button" || tag === "summary") {
      if (el.getAttribute("aria-haspopup") === "listbox") { const c = choices_of(el); if (c.length) return put_choice(el, c); }
      return put_button(el, face(el));
    }
    if (tag === "a" && leads(el)) {
      const at = mark(el, { form: "", name: "", kind: "link", value: el.href });
      put_tag("a", { ...kept(el), href: el.href, "data-at": at });
      for (const child of el.childNodes) walk(child);
      return put("</a>");
    }
    if (["checkbox", "switch", "radio", "menuitemcheckbox"].includes(role)) return put_tick(el, role);
    if (role === "combobox" || role === "listbox" || el.getAttribute("aria-haspopup") === "listbox" || (tag.includes("-") && (el.hasAttribute("name") || el.hasAttribute("value")))) {
      const choices = choices_of(el);
      if (choices.length) return put_choice(el, choices);
    }
    if (el.isContentEditable && role === "textbox") {
      const form = form_of(el), name = named(el) || "hs-field-" + elements.length;
      const at = mark(el, { form, name, kind: "text", value: said(el), hidden: false });
      return put_tag("input", { ...kept(el), role: null, type: "text", name, form, value: said(el), "data-at": at });
    }
    if (is_pressable(el, tag)) return put_button(el, face(el));
    if (tag === "svg") { const told = el.getAttribute("aria-label") || (el.querySelector("title") || {}).textContent; if (told) put_tag("img", { alt: told }); return; }
    if (tag === "progress") return put(` ${el.value} / ${el.max} `);
    if (tag === "iframe" || tag === "frame") {
      let inside = null;
      try { inside = el.contentDocument && el.contentDocument.body; } catch { /* another origin's */ }
      if (/^https?:/.test(el.src)) { put_tag("iframe", { src: el.src, title: el.title }); put("</iframe>"); }
      if (inside) { put("<section>"); walk(inside); put("</section>"); }
      return;
    }
    const name = tag === "form" ? "form" : PLAIN.has(tag) ? tag : "div";
    if (name === "form") {
      const id = form_of(el);
      put_out.add(id);
      put_tag("form", { class: el.getAttribute("class"), id, action: el.action && typeof el.action === "string" ? el.action : location.href, method: el.method, enctype: el.enctype, "data-at": id });
      put_tag("input", { type: "hidden", name: "hs-step", value: step });
    } else {
      const facts = kept(el);
      if (tag === "fieldset" && el.disabled) facts.disabled = true;
      put_tag(name, facts);
    }
    if (!VOID.has(name)) {
      const inside = el.shadowRoot ? el.shadowRoot.childNodes : tag === "slot" && el.assignedNodes().length ? el.assignedNodes() : el.childNodes;
      for (const child of inside) walk(child);
      put(`</${name}>`);
    }
  }

  const body = document.body || document.documentElement;
  const trees = (root) => [root, ...[...root.querySelectorAll("*")].filter((e) => e.shadowRoot).flatMap((e) => trees(e.shadowRoot))];
  const heads = trees(document).flatMap((t) => [...t.querySelectorAll("h1, h2, h3, h4, legend, [aria-current]")]).filter(is_seen_up).map(said);
  const step = heads.join(" / ").replace(/\d+/g, "#").slice(0, 300);
  walk(body);
  // Forms of controls that are in none, and forms that are not drawn themselves (between a table and its rows).
  const rest = [...forms.values()].filter((f) => !put_out.has(f.id)).map((f) => {
    const [method, action] = f.element ? [f.element.method, typeof f.element.action === "string" ? f.element.action : location.href] : ["post", location.href];
    return `<form id="${f.id}" data-at="${f.id}" ${f.element ? "" : "data-loose"} method="${text(method)}" action="${text(action)}"><input type="hidden" name="hs-step" value="${text(step)}"></form>`;
  }).join("");
  // What was only asked and answered is no alarm.
  const told = dialogs.map(([kind, d]) => `<div ${kind === "alert" ? 'role="alert" ' : ""}class="dialog">${text(d)}</div>`).join("");
  const html = `<!doctype html><html lang="${text(document.documentElement.lang || "")}"><head><title>${text(document.title)}</title></head><body>${told}${out.join("")}${rest}</body></html>`;
  return { elements, told: { html, controls, url: location.href, cut: nodes > MOST_NODES || letters > MOST_LETTERS } };
}
