// Draws an installer's pages in the browser, each by the script's own means: `data-dress` says which.
const shell = document.currentScript, dress = new Set(shell.dataset.dress.split(" "));
const host = document.getElementById("app");
const root = dress.has("shadow") ? host.attachShadow({ mode: "open" }) : host;
const el = (tag, facts = {}, ...inside) => { const made = Object.assign(document.createElement(tag), facts); made.append(...inside); return made; };

async function ask(url, options = {}) {
  if (dress.has("busy")) root.replaceChildren(el("p", {}, "…"));
  const answer = await fetch(url, { ...options, headers: { ...(options.headers || {}), "X-Piece": "1" } });
  const told = await answer.json();
  if (dress.has("slow")) await new Promise((r) => setTimeout(r, 900));
  draw(told);
}
function draw({ html, url }) {
  const page = new DOMParser().parseFromString(html, "text/html");
  history.replaceState({}, "", url);
  document.title = page.title;
  const fresh = page.querySelector("meta[http-equiv=refresh i]");
  // What belongs to a form beside it (in tables) would lose it on the way here.
  for (const form of page.querySelectorAll("form")) {
    for (const one of [...form.elements]) if (!form.contains(one)) one.setAttribute("form", (form.id ||= "form-" + Math.random().toString(36).slice(2)));
  }
  // So would those of a form that its table has closed.
  let open = "";
  for (const one of page.querySelectorAll("form, input, select, textarea, button")) {
    if (one.localName === "form") open = one.closest("table") && !one.firstChild ? (one.id ||= "form-" + Math.random().toString(36).slice(2)) : "";
    else if (open && !one.form) one.setAttribute("form", open);
  }
  root.replaceChildren(...page.body.childNodes);
  for (const a of root.querySelectorAll("a[href]")) dress_link(a);
  for (const button of root.querySelectorAll("button[onclick], input[onclick]")) {
    const to = /location[^'"]*['"]([^'"]+)/.exec(button.getAttribute("onclick"));
    if (!to || button.closest("form")) continue;
    button.removeAttribute("onclick");
    button.addEventListener("click", () => ask(new URL(to[1], location.href)));
  }
  for (const form of root.querySelectorAll("form")) dress_form(form);
  if (fresh) {
    const [, seconds, to] = /^\s*([\d.]+)\s*(?:;\s*url\s*=\s*['"]?([^'"]*))?/i.exec(fresh.content) || [];
    setTimeout(() => ask(to ? new URL(to, location.href) : location.href), Math.min(Number(seconds || 0), 1) * 1000);
  }
}
function dress_link(a) {
  const to = a.href;
  if (!to.startsWith(location.origin) || !dress.has("links") || to.includes("settings")) return;
  const made = dress.has("hash") ? el("a", { href: "#", className: a.className }) : el("span", { className: a.className });
  made.append(...a.childNodes);
  if (!dress.has("hash")) made.style.cursor = "pointer";
  made.addEventListener("click", (e) => { e.preventDefault(); ask(to); });
  a.replaceWith(made);
}
function fields_of(box) {
  const found = new URLSearchParams();
  // Tables put controls beside the form that they belong to.
  for (const f of new Set([...(box.belong || box.elements || []), ...box.querySelectorAll("input, select, textarea")])) {
    if (!f.isConnected) continue;
    const name = f.dataset.bound || f.name;
    if (!name || f.disabled || ["submit", "button", "image", "reset", "file"].includes(f.type)) continue;
    if ((f.type === "checkbox" || f.type === "radio") && !f.checked) continue;
    found.append(name, f.value);
  }
  for (const f of box.querySelectorAll("[data-own]")) if (f.dataset.ticks === undefined || f.getAttribute("aria-checked") === "true") found.append(f.dataset.own, f.dataset.value);
  for (const f of box.querySelectorAll("[name]")) if (f.localName.includes("-")) found.append(f.getAttribute("name"), f.value ?? f.getAttribute("value") ?? "");
  return found;
}
function send(box, facts, pressed) {
  if (dress.has("confirm") && !confirm("Go on with these entries?")) return;
  const given = fields_of(box);
  if (pressed && pressed.name) given.append(pressed.name, pressed.value);
  const to = pressed && pressed.to ? new URL(pressed.to, location.href) : new URL(facts.action, location.href);
  if (facts.method === "post") return ask(to, { method: "POST", body: given });
  to.search = given.toString();
  return ask(to);
}
function dress_form(form) {
  const facts = { action: form.getAttribute("action") || location.href, method: (form.getAttribute("method") || "get").toLowerCase() };
  const off = (b) => ({ name: b.name, value: b.value, to: b.getAttribute("formaction") });
  if (!dress.has("loose")) {
    form.submit = () => send(form, facts, null);
    form.addEventListener("submit", (e) => { e.preventDefault(); send(form, facts, e.submitter && off(e.submitter)); });
    dress_fields(form);
    return shut(form);
  }
  // Controls outside belong to it as well.
  for (const one of form.id ? root.querySelectorAll(`[form="${form.id}"]`) : []) if (!form.contains(one)) form.append(one);
  const box = el("div", { className: form.className });
  for (const a of form.querySelectorAll("[onclick*=submit]")) {
    a.removeAttribute("onclick");
    a.addEventListener("click", (e) => { e.preventDefault(); send(box, facts, null); });
  }
  box.belong = [...form.elements];
  box.append(...form.childNodes);
  form.replaceWith(box);
  const buttons = "button, input[type=submit], input[type=button], input[type=image]";
  for (const button of new Set([...box.querySelectorAll(buttons), ...box.belong.filter((b) => b.matches(buttons) && root.contains(b))])) {
    if (button.type === "reset" || button.type === "button") continue;
    const pressed = off(button);
    const text = button.tagName === "INPUT" ? button.value || button.alt : null;
    const made = dress.has("divs") && !button.disabled ? el("div", { className: button.className }) : el("button", { type: "button", className: button.className, disabled: button.disabled });
    if (text) made.append(text); else made.append(...button.childNodes);
    for (const n of ["title", "aria-label"]) if (button.hasAttribute(n)) made.setAttribute(n, button.getAttribute(n));
    if (dress.has("divs") && !button.disabled) { made.setAttribute("role", "button"); made.tabIndex = 0; }
    made.addEventListener("click", () => send(box, facts, pressed));
    button.replaceWith(made);
  }
  dress_fields(box);
  return shut(box);
}
function dress_fields(box) {
  if (dress.has("bound")) for (const f of box.querySelectorAll("input:not([type=hidden]):not([type=radio]):not([type=submit]):not([type=button]):not([type=image]), textarea")) { f.dataset.bound = f.name; if (!f.id) f.id = f.name; f.removeAttribute("name"); }
  if (dress.has("own lists")) for (const list of box.querySelectorAll("select:not([multiple])")) own_list(list);
  if (dress.has("own boxes")) for (const tick of box.querySelectorAll("input[type=checkbox]")) own_box(tick);
}
function own_list(list) {
  const rows = [...list.options].map((o) => { const li = el("li", {}, o.text); li.setAttribute("role", "option"); li.dataset.value = o.value; return li; });
  const chosen = list.selectedOptions[0], face = el("span", {}, chosen ? chosen.text : ""), options = el("ul", {}, ...rows);
  options.setAttribute("role", "listbox");
  options.style.display = "none";
  const made = el("div", { id: list.id, tabIndex: 0 }, face, options);
  made.setAttribute("role", "combobox");
  made.setAttribute("data-name", list.name);
  made.dataset.own = list.name;
  made.dataset.value = list.value;
  made.style.cursor = "pointer";
  face.addEventListener("click", () => (options.style.display = options.style.display ? "" : "none"));
  for (const li of rows) li.addEventListener("click", () => { made.dataset.value = li.dataset.value; face.textContent = li.textContent; options.style.display = "none"; made.dispatchEvent(new Event("change", { bubbles: true })); });
  list.replaceWith(made);
}
function own_box(tick) {
  // The real one is there and cannot be seen: its label is pressed.
  const label = tick.closest("label") || (tick.id && root.querySelector(`label[for="${tick.id}"]`));
  if (label) { tick.style.opacity = "0"; tick.style.position = "absolute"; return; }
  const made = el("span", { tabIndex: 0, textContent: tick.checked ? "☑" : "☐" });
  made.setAttribute("role", "checkbox");
  made.setAttribute("aria-checked", String(tick.checked));
  made.setAttribute("data-name", tick.name || tick.dataset.bound);
  Object.assign(made.dataset, { own: tick.name || tick.dataset.bound, value: tick.value, ticks: "" });
  made.addEventListener("click", () => { const on = made.getAttribute("aria-checked") !== "true"; made.setAttribute("aria-checked", String(on)); made.textContent = on ? "☑" : "☐"; });
  tick.replaceWith(made);
}
function shut(box) {
  if (!dress.has("shut")) return;
  const typed = [...box.querySelectorAll("input, textarea")].filter((f) => !["hidden", "checkbox", "radio", "submit", "button", "image", "file"].includes(f.type));
  const ways = [...box.querySelectorAll("button, input[type=submit]")].filter((b) => b.type !== "reset" && !b.disabled);
  const needed = typed.filter((f) => f.required);
  if (!needed.length || !ways.length) return;
  const look = () => ways.forEach((b) => (b.disabled = needed.some((f) => !f.value)));
  for (const f of typed) f.addEventListener("input", look);
  look();
}
ask(location.href);
