// What is wrong with the page as it is drawn now: too wide, clipped, small, tiny, one text over another.
(least) => {
  const found = [];
  const seen = (e) => {
    const box = e.getBoundingClientRect();
    return e.checkVisibility({ visibilityProperty: true }) && box.width > 1 && box.height > 1 && !e.closest(".visually-hidden, svg, #readings .long");
  };
  const name = (e) => `${e.tagName.toLowerCase()}.${e.className} “${(e.textContent || e.name || "").trim().slice(0, 30)}”`;
  const wide = document.documentElement.scrollWidth;
  if (wide > innerWidth) found.push(`the page is ${wide} px wide`);
  document.querySelectorAll("input").forEach((e) => {
    const digits = e.type === "number" || e.inputMode === "numeric";
    if (seen(e) && digits && e.value && e.scrollWidth > e.clientWidth + 1) found.push(`its digits do not fit: ${e.name} ${e.value}`);
  });
  document.querySelectorAll("button, input:not([type=hidden]), select, summary, .btn, textarea").forEach((e) => {
    if (!seen(e) || (e.matches("[type=checkbox], [type=radio]") && e.closest("label"))) return;
    const box = e.getBoundingClientRect();
    if (Math.min(box.width, box.height) < least - 0.5) found.push(`small: ${name(e)} ${box.width.toFixed(0)} × ${box.height.toFixed(0)}`);
  });
  const texts = [];
  document.querySelectorAll("body *").forEach((e) => {
    const own = [...e.childNodes].filter((node) => node.nodeType === 3 && node.textContent.trim());
    if (!own.length || !seen(e) || (e.closest("details:not([open])") && !e.closest("summary")) || e.matches("details:not([open])")) return;
    if (parseFloat(getComputedStyle(e).fontSize) < 13) found.push(`tiny: ${name(e)} ${getComputedStyle(e).fontSize}`);
    own.forEach((node) => {
      const range = document.createRange();
      range.selectNodeContents(node);
      // A box that scrolls shows only what is within it.
      const within = [];
      for (let box = e; box && box !== document.body; box = box.parentElement) {
        const style = getComputedStyle(box);
        if (style.position === "sticky" || style.position === "fixed") return;
        if (style.overflowX !== "visible" || style.overflowY !== "visible") within.push(box.getBoundingClientRect());
      }
      [...range.getClientRects()].forEach((rect) => {
        const box = within.reduce((all, one) => ({ left: Math.max(all.left, one.left), right: Math.min(all.right, one.right), top: Math.max(all.top, one.top), bottom: Math.min(all.bottom, one.bottom) }), rect);
        // Half of a line is the air between lines.
        if (box.right - box.left > 4 && box.bottom - box.top > 8) texts.push({ ...{ left: box.left + 2, right: box.right - 2, top: box.top + 5, bottom: box.bottom - 5 }, e });
      });
    });
  });
  texts.sort((one, other) => one.top - other.top);
  texts.forEach((one, at) => {
    for (let k = at + 1; k < texts.length && texts[k].top < one.bottom; k += 1) {
      const other = texts[k];
      if (one.e !== other.e && one.left < other.right && other.left < one.right) found.push(`one over the other: ${name(one.e)} and ${name(other.e)}`);
    }
  });
  return [...new Set(found)].slice(0, 12);
}
