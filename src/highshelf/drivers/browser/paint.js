// Paint over everything that shows a secret: what is typed into fields, and each place where its text stands.
(secrets) => {
  const cover = (box) => {
    if (!box.width || !box.height) return;
    const over = document.createElement("div");
    over.setAttribute("data-hs-paint", "");
    over.style.cssText = `all:initial;position:absolute;z-index:2147483647;background:#444;left:${box.left + scrollX - 1}px;top:${box.top + scrollY - 1}px;width:${box.width + 2}px;height:${box.height + 2}px`;
    document.documentElement.append(over);
  };
  const shows = (text) => secrets.some((s) => s && text.includes(s));
  for (const field of document.querySelectorAll("input, textarea")) {
    if (field.type === "password" ? field.value : shows(field.value || "")) cover(field.getBoundingClientRect());
  }
  const texts = document.createTreeWalker(document.body || document.documentElement, NodeFilter.SHOW_TEXT);
  for (let node = texts.nextNode(); node; node = texts.nextNode()) {
    // A secret may be cut into several texts by its marks: what stands around it is looked at too.
    const near = node.parentElement ? node.parentElement.textContent : node.data;
    if (near.length > 20000 ? !shows(node.data) : !shows(near)) continue;
    const range = document.createRange();
    range.selectNodeContents(node);
    for (const box of range.getClientRects()) cover(box);
  }
}
