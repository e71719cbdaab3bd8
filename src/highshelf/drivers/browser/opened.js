// Lists of the page's own making that show their choices only once they are opened: opened one by one by the driver, and remembered.
(step) => {
  const known = (window[Symbol.for("hs-choices")] ||= new WeakMap());
  const all = (root) => [...root.querySelectorAll("*")].flatMap((e) => (e.shadowRoot ? [e, ...all(e.shadowRoot)] : [e]));
  const shown = (e) => e.getClientRects().length > 0;
  const rows = () => all(document).filter((e) => e.matches("[role=option], [role=listbox] > *, [role=listbox] li") && shown(e) && (e.textContent || "").trim());
  if (step.after !== undefined) {
    const listed = rows().filter((r) => !window[Symbol.for("hs-before")].has(r));
    const texts = listed.map((r) => ({ value: r.getAttribute("data-value") ?? r.getAttribute("value") ?? r.textContent.replace(/\s+/g, " ").trim(), label: r.textContent.replace(/\s+/g, " ").trim() }));
    if (step.element) known.set(step.element, texts.slice(0, 400));
    return texts.length;
  }
  window[Symbol.for("hs-before")] = new Set(rows());
  return all(document).filter((e) => e.matches("[role=combobox], [aria-haspopup=listbox]") && !e.matches("input, select, textarea") && shown(e)
    && !known.has(e) && !e.querySelector("[role=option], li, option") && e.getAttribute("aria-disabled") !== "true" && !e.disabled).slice(0, 8);
}
