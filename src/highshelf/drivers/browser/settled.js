// What changes while a page is still at work: its text, its controls' states, and whether it says that it is busy.
() => {
  const body = document.body;
  if (!body) return "";
  const all = body.innerText || "";
  const states = [...body.querySelectorAll("input, select, textarea, button")].slice(0, 500).map((e) => (e.disabled ? "-" : "+") + (e.type === "checkbox" || e.type === "radio" ? e.checked : "")).join("");
  let sum = 0;
  for (let i = 0; i < Math.min(all.length, 200_000); i++) sum = (sum * 31 + all.charCodeAt(i)) | 0;
  return [document.readyState, all.length, sum, states].join(" ");
}
