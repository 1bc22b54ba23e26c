// The packing table: ticks by tap and key that wait in the browser until they are sent; a scanner that types.
"use strict";

(() => {
  const place = document.querySelector("[data-mode]");
  if (!place) return;
  const mode = place.dataset.mode;
  // One queue for all tables of a class: whoever leaves one before everything is sent sends it from the next.
  const shelf = `pack-${place.dataset.class}`;

  const say = (words, isLost) => {
    const line = document.getElementById("line");
    if (!line) return;
    line.textContent = words;
    line.classList.toggle("lost", Boolean(isLost));
  };
  // A scanner types the address of a bag, a kit or a pile, and Enter.
  let typed = "";
  let typedAt = 0;
  const scanned = (text) => {
    const found = /(\/classes\/\d+\/(?:pack\/(?:bag|kit)|cut)\/[\w-]+\/)(#count)?$/.exec(text.trim());
    if (!found) return false;
    location.href = found[1] + (found[2] || "");
    return true;
  };
  const scan = (event) => {
    const now = event.timeStamp;
    if (now - typedAt > 120) typed = "";
    typedAt = now;
    if (event.key === "Enter") return scanned(typed);
    // An address holds no space, so that Space ticks, however fast.
    if (event.key.length === 1 && event.key !== " ") typed += event.key;
    return false;
  };

  // What was ticked here and can be taken back, the last last.
  const mine = [];
  const here = new Set();
  const line = window.kept.line({
    shelf, ticks: place.dataset.ticks, state: place.dataset.state, say, every: 2500, heard: (state, queue) => {
      queue.forEach((each) => { if (each.on && here.has(each.key) && state.took[each.key]) mine.push(state.took[each.key]); });
      table.hear(state);
    },
  });
  const { waiting } = line;
  const tick = (kind, what, on) => here.add(line.push({ kind, what, on }));

  const others = (state) => {
    const spot = document.getElementById("others");
    if (spot) spot.textContent = `${state.bags[0]} of ${state.bags[1]} bags · ${state.kits[0]} of ${state.kits[1]} kits${state.short ? ` · ${state.short} short` : ""}`;
  };
  const meter = (done, of) => {
    const bar = document.querySelector(".bench-progress");
    bar.setAttribute("aria-valuenow", done);
    bar.firstElementChild.style.width = `${of ? (100 * done) / of : 0}%`;
  };

  // One stack of alike bags
  const stack = () => {
    const of = Number(place.dataset.total);
    let done = Number(place.dataset.done);
    const show = () => {
      document.getElementById("where").textContent = `${done} of ${of}`;
      meter(done, of);
      document.getElementById("now").hidden = done >= of;
      document.getElementById("end").hidden = done < of;
      document.querySelector("[data-next]").disabled = done >= of;
      document.querySelector("[data-back]").disabled = done === 0 || !mine.length;
    };
    const hear = (state) => {
      if (state.gone) { say("Something else goes into these bags now: leave the table and look again.", true); return; }
      const left = waiting().filter((each) => each.on && each.what === place.dataset.what).length;
      done = Math.min(of, state.stack[0] + left);
      if (state.next) {
        document.getElementById("for").textContent = state.next.for;
        document.getElementById("notes").textContent = state.next.notes.join("; ");
      }
      others(state);
      show();
    };
    const next = () => {
      const onward = document.querySelector("[data-onward]");
      if (done >= of) { if (!waiting().length) onward.click(); return; }
      done += 1;
      show();
      tick("stack", place.dataset.what, true);
    };
    const back = () => {
      if (!mine.length || waiting().length) return;
      done -= 1;
      show();
      tick("thing", mine.pop(), false);
    };
    show();
    return { hear, next, back };
  };

  // One kit
  const kit = () => {
    const buttons = [...document.querySelectorAll(".pack-tick")];
    const whole = document.querySelector("[data-kit]");
    const bags = buttons.filter((each) => each !== whole);
    const pressed = (each) => each.getAttribute("aria-pressed") === "true";
    const show = () => {
      const done = buttons.filter(pressed).length;
      meter(done, buttons.length);
      const all = bags.every(pressed);
      whole.disabled = !all;
      document.querySelector("[data-back]").disabled = !mine.length;
      const end = all && pressed(whole);
      whole.lastChild.textContent = end ? "Packed" : "Kit is packed";
      const where = document.getElementById("where");
      where.replaceChildren(...(end ? [onward()] : [`${bags.filter(pressed).length} of ${bags.length} bags`]));
    };
    const onward = () => {
      const link = document.querySelector("body > [data-onward]").cloneNode(true);
      link.hidden = false;
      return link;
    };
    const hear = (state) => {
      if (state.gone) { say("This kit is not wanted any more: leave the table and look again.", true); return; }
      const asked = new Map(waiting().map((each) => [each.what, each.on]));
      const done = new Set(state.done);
      buttons.forEach((each) => {
        const what = each.dataset.thing;
        each.setAttribute("aria-pressed", String(asked.has(what) ? asked.get(what) : done.has(what)));
      });
      others(state);
      show();
    };
    const set = (each, on) => {
      each.setAttribute("aria-pressed", String(on));
      show();
      tick("thing", each.dataset.thing, on);
    };
    const next = () => {
      const open = [...bags, whole].find((each) => !pressed(each));
      if (open) set(open, true);
      else if (!waiting().length) document.querySelector("#where [data-onward]")?.click();
    };
    const back = () => {
      if (!mine.length || waiting().length) return;
      const what = mine.pop();
      const button = buttons.find((each) => each.dataset.thing === what);
      if (button) set(button, false);
    };
    buttons.forEach((each) => each.addEventListener("click", () => { if (!each.disabled) set(each, !pressed(each)); each.blur(); }));
    show();
    return { hear, next, back };
  };

  // The board: all of it at a glance
  const board = () => {
    const draw = (row, done) => {
      const of = Number(row.dataset.total);
      row.querySelector(".pack-meter span").style.width = `${of ? (100 * done) / of : 0}%`;
      row.querySelector("[data-words]").textContent = `${done} of ${of}`;
    };
    const rows = [...document.querySelectorAll("[data-stack]")];
    rows.forEach((row) => draw(row, Number.parseInt(row.querySelector("[data-words]").textContent, 10)));
    const tiles = [...document.querySelectorAll(".pack-tiles [data-kit]")];
    const find = document.getElementById("find");
    const found = document.getElementById("found");
    const shown = () => tiles.filter((each) => !each.hidden);
    find.addEventListener("input", () => {
      const words = find.value.toLowerCase().split(/\s+/).filter(Boolean);
      tiles.forEach((each) => { each.hidden = !words.every((word) => each.textContent.toLowerCase().includes(word)); });
      found.textContent = words.length ? (shown().length ? `${shown().length} of ${tiles.length}` : "Nobody of that name.") : "";
    });
    find.addEventListener("keydown", (event) => {
      if (event.key !== "Enter") return;
      event.preventDefault();
      if (!scanned(find.value) && find.value.trim() && shown().length) shown()[0].querySelector("a").click();
    });
    const hear = (state) => {
      const sum = (name, words) => { document.querySelector(`[data-sum=${name}]`).textContent = words; };
      sum("bags", `${state.bags[0]} of ${state.bags[1]}`);
      sum("kits", `${state.kits[0]} of ${state.kits[1]}`);
      const short = document.querySelector("[data-sum=short]");
      short.hidden = !state.short;
      short.querySelector("b").textContent = state.short;
      rows.forEach((row) => { if (row.dataset.stack in state.stacks) draw(row, state.stacks[row.dataset.stack]); });
      tiles.forEach((each) => {
        const [now, words] = state.each[each.dataset.kit] || ["", "not wanted any more"];
        each.className = now;
        each.querySelector("[data-words]").textContent = words;
      });
    };
    return { hear, next: () => {}, back: () => {} };
  };

  const table = { stack, kit, board }[mode]();

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.target.closest("input, select, textarea")) return;
    // Before other keys: a scanner's digits are no stations.
    const inScan = event.timeStamp - typedAt < 120 && typed.length > 0;
    if (scan(event)) { event.preventDefault(); event.stopImmediatePropagation(); return; }
    if (inScan && event.key.length === 1 && event.key !== " ") { event.preventDefault(); event.stopImmediatePropagation(); return; }
    if (mode === "board" || document.querySelector("dialog[open]")) return;
    if (event.target.closest("button, a, summary") && (event.key === " " || event.key === "Enter")) return;
    if ([" ", "ArrowRight", "Enter", "PageDown"].includes(event.key)) { event.preventDefault(); if (!event.repeat) table.next(); }
    if (["ArrowLeft", "Backspace", "PageUp"].includes(event.key)) { event.preventDefault(); if (!event.repeat) table.back(); }
  }, true);
  document.querySelector("[data-next]")?.addEventListener("click", (event) => { table.next(); event.currentTarget.blur(); });
  document.querySelector("[data-back]")?.addEventListener("click", (event) => { table.back(); event.currentTarget.blur(); });

  // Something is missing: how many, and on to what that means.
  const dialog = document.getElementById("missing");
  document.querySelectorAll("[data-missing]").forEach((button) => button.addEventListener("click", (event) => {
    dialog.querySelector("[name=thing]").value = button.dataset.missing;
    dialog.querySelector("[data-thing]").textContent = button.dataset.missing;
    window.kept.open(dialog, event);
    dialog.querySelector("[type=submit]").focus();
  }));
  document.querySelectorAll("[data-close]").forEach((button) => button.addEventListener("click", () => window.kept.close(button.closest("dialog"))));

  line.begin();
})();
