// Boxes with more in them than they show are read to their end: some pages let nobody go on before.
() => {
  let moved = 0;
  for (const box of document.querySelectorAll("div, section, article, textarea, pre, main, ul, ol, dl, fieldset")) {
    if (box.scrollHeight <= box.clientHeight + 4 || box.clientHeight < 40 || box.scrollTop > 0) continue;
    if (!/auto|scroll/.test(getComputedStyle(box).overflowY) && box.localName !== "textarea") continue;
    box.scrollTop = box.scrollHeight;
    if (++moved >= 20) break;
  }
  return moved;
}
