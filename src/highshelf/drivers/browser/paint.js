// Two steps, so that no secret is ever told to a page: without `boxes` it gives its texts and where they stand, with them it covers these.
(boxes) => {
  const MOST = 20_000, LONGEST = 20_000;
  if (boxes) {
    for (const [left, top, width, height] of boxes) {
      const over = document.createElement("div");
      over.setAttribute("data-hs-paint", "");
      over.style.cssText = `all:initial;position:absolute;z-index:2147483647;background:#444;left:${left - 1}px;top:${top - 1}px;width:${width + 2}px;height:${height + 2}px`;
      document.documentElement.append(over);
    }
    return [];
  }
  const found = [];
  const place = (box, dx, dy) => [box.left + scrollX + dx, box.top + scrollY + dy, box.width, box.height];
  // What is typed in a field of a password is covered whatever it is.
  const look = (root, dx, dy) => {
    for (const field of root.querySelectorAll("input, textarea")) {
      if (field.value) found.push({ text: field.value, always: field.type === "password", boxes: [place(field.getBoundingClientRect(), dx, dy)] });
    }
    const texts = (root.ownerDocument || root).createTreeWalker(root, NodeFilter.SHOW_TEXT);
    for (let node = texts.nextNode(); node && found.length < MOST; node = texts.nextNode()) {
      if (!node.data.trim()) continue;
      // A secret may be cut into several texts by its marks: what stands around it is looked at too.
      const near = node.parentElement ? node.parentElement.textContent : node.data;
      const range = node.ownerDocument.createRange();
      range.selectNodeContents(node);
      found.push({ text: near.length > LONGEST ? node.data : near, always: false, boxes: [...range.getClientRects()].map((b) => place(b, dx, dy)) });
    }
    for (const el of root.querySelectorAll("*")) {
      if (el.shadowRoot) look(el.shadowRoot, dx, dy);
      if (el.localName !== "iframe") continue;
      try {
        const at = el.getBoundingClientRect();
        if (el.contentDocument && el.contentDocument.body) look(el.contentDocument.body, dx + at.left, dy + at.top);
      } catch { /* another origin's */ }
    }
  };
  look(document.body || document.documentElement, 0, 0);
  return found;
}
