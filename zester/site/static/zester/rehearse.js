// The rehearsal: the steps played on the drawing, stacks falling apart into piles.
"use strict";

(() => {
  const { steps, colour, side } = JSON.parse(document.getElementById("play-steps").textContent);
  const svg = document.getElementById("play");
  const scale = 400 / side;
  let at = 0;
  let cut = false;
  let timer = null;

  // What lies there before each step: piles by name.
  const tables = [[]];
  for (const step of steps) {
    const piles = tables[tables.length - 1].map((pile) => ({ ...pile }));
    if (step.source === "pile") {
      const pile = piles.find((each) => each.label === step.label && each.kind !== "piece");
      if (pile) pile.count -= step.count;
    }
    for (const made of step.gives) {
      const label = made.label || (made.kind === "keep" ? "keep" : "waste");
      const pile = piles.find((each) => each.kind === made.kind && each.label === label && each.width === made.width && each.height === made.height);
      if (pile) pile.count += made.count;
      else piles.push({ ...made, label });
    }
    tables.push(piles.filter((pile) => pile.count > 0 && pile.kind !== "waste"));
  }

  const node = (name, attributes, text) => {
    const made = document.createElementNS("http://www.w3.org/2000/svg", name);
    for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
    if (text) made.textContent = text;
    svg.append(made);
    return made;
  };

  const fill = (kind) => (kind === "waste" ? "#ebe5d8" : kind === "keep" ? "#fffefb" : colour);

  const drawPiles = (piles) => {
    const small = Math.min(1, 150 / Math.max(1, Math.ceil(piles.length / 5) * 60)) * scale * 0.26;
    let x = 620, y = 24, row = 0;
    for (const pile of piles) {
      const width = Math.max(14, pile.width * small), height = Math.max(10, pile.height * small);
      if (x + Math.max(width, 74) > 1190) { x = 620; y += row + 34; row = 0; }
      for (let k = Math.min(3, pile.count) - 1; k >= 0; k -= 1) node("rect", { x: x + 2 * k, y: y - 2 * k, width, height, fill: fill(pile.kind) });
      const words = pile.kind === "pile" ? `pile ${pile.label}` : pile.label.length > 9 ? `${pile.label.slice(0, 8)}…` : pile.label;
      node("text", { x: x + width / 2, y: y + height + 13, "font-size": 14, "font-weight": pile.kind === "piece" ? 700 : 400 }, `${words} · ${pile.count}`);
      x += Math.max(width, 74) + 16;
      row = Math.max(row, height);
    }
  };

  const draw = () => {
    svg.replaceChildren();
    const step = steps[at];
    drawPiles(tables[cut ? Math.min(at + 1, steps.length) : at]);
    document.getElementById("play-at").value = at;
    document.getElementById("play-where").textContent = at < steps.length ? `${at + 1} of ${steps.length}` : "done";
    if (!step) {
      document.getElementById("play-words").textContent = "Every step is done: count the piles out.";
      return;
    }
    document.getElementById("play-words").textContent = step.words;
    const along = step.axis === "x" ? step.width : step.height;
    const across = step.axis === "x" ? step.height : step.width;
    const left = 60, top = 60 + (400 - across * scale) / 2;
    let from = 0;
    for (let k = 0; k <= step.cuts; k += 1) {
      const length = k < step.cuts ? step.at : along - step.at * step.cuts;
      const gap = cut ? 14 * k : 0;
      const rect = node("rect", { x: left + from * scale, y: top, width: length * scale, height: across * scale, fill: colour });
      requestAnimationFrame(() => { rect.style.transform = `translateX(${gap}px)`; });
      from += length;
    }
    node("path", { d: `M${left} 30V490`, stroke: "#26231d", "stroke-width": 7 });
    node("text", { x: left, y: 508, "font-size": 15 }, "rail");
    if (!cut) {
      for (let k = 1; k <= step.cuts; k += 1) node("path", { d: `M${left + step.at * k * scale} 30V490`, stroke: "#8a4b00", "stroke-width": 3, "stroke-dasharray": "9 5" });
      node("text", { x: left + step.at * scale, y: 20, "font-size": 19, "font-weight": 700 }, step.mark);
    }
    node("text", { x: left + (along * scale) / 2, y: top + (across * scale) / 2, "font-size": 20, "font-weight": 600 }, cut ? "" : step.count > 1 ? `${step.count} ×` : "");
  };

  const move = (by) => {
    if (by > 0) { if (cut) { at = Math.min(at + 1, steps.length); cut = false; } else if (at < steps.length) cut = true; }
    else if (cut) cut = false;
    else if (at > 0) { at -= 1; cut = false; }
    draw();
  };

  const stop = () => { clearTimeout(timer); timer = null; document.getElementById("play-go").textContent = "Play"; };
  const play = () => {
    if (at >= steps.length) { stop(); return; }
    const pace = Number(document.getElementById("play-pace").value);
    timer = setTimeout(() => { move(1); play(); }, Math.max(350, (steps[at].seconds * 500) / pace));
  };
  document.getElementById("play-go").addEventListener("click", (event) => {
    if (timer) { stop(); return; }
    if (at >= steps.length) { at = 0; cut = false; }
    event.currentTarget.textContent = "Pause";
    draw();
    play();
  });
  document.getElementById("play-on").addEventListener("click", () => { stop(); move(1); });
  document.getElementById("play-back").addEventListener("click", () => { stop(); move(-1); });
  document.getElementById("play-at").addEventListener("input", (event) => { stop(); at = Number(event.target.value); cut = false; draw(); });
  draw();
})();
