// The design desk: the list typed by the keys, the table, the drawing. Sums are made by the server.
"use strict";

(() => {
  const list = document.getElementById("cut-list");
  if (!list) return;
  const book = document.getElementById("notebook");
  const at = book.dataset.card;
  const offers = document.getElementById("offers");
  const known = JSON.parse(document.getElementById("list-words").textContent);
  const say = (text) => {
    document.getElementById("said").textContent = text;
  };

  // ---- The text and its lines -------------------------------------------------------------------------------------
  const lineAt = (place) => list.value.slice(0, place).split("\n").length - 1;
  const startOf = (line) => list.value.split("\n").slice(0, line).reduce((sum, text) => sum + text.length + 1, 0);
  const textOf = (line) => list.value.split("\n")[line] ?? "";
  const here = () => lineAt(list.selectionStart);

  // Everything that changes the text goes through the editor's own undo.
  const put = (from, to, text) => {
    const before = document.activeElement;
    list.focus({ preventScroll: true });
    list.setSelectionRange(from, to);
    const done = text ? document.execCommand("insertText", false, text) : from === to || document.execCommand("delete");
    if (!done) {
      list.setRangeText(text, from, to, "end");
      list.dispatchEvent(new Event("input", { bubbles: true }));
    }
    if (before !== list && before?.isConnected && !before.closest("[data-mend]")) before.focus({ preventScroll: true });
  };
  const putLine = (line, text, caret) => {
    const from = startOf(line);
    const old = textOf(line);
    if (text === old) return;
    // Only what differs is replaced, so that the caret and the undo stay close to the change.
    let head = 0;
    while (head < old.length && old[head] === text[head]) head += 1;
    let tail = 0;
    while (tail < old.length - head && tail < text.length - head && old.at(-1 - tail) === text.at(-1 - tail)) tail += 1;
    put(from + head, from + old.length - tail, text.slice(head, text.length - tail));
    if (caret !== undefined) list.setSelectionRange(from + caret, from + caret);
  };
  const ask = async (action, data) => {
    const body = new URLSearchParams(data);
    const token = document.querySelector("meta[name=csrf-token]").content;
    const headers = { "X-CSRFToken": token, "X-Requested-With": "fetch" };
    const answer = await fetch(`${at}${action}/`, { method: "POST", body, headers }).catch(() => null);
    if (!answer?.ok) {
      window.zester.failed(answer?.status ?? 0, action, null, answer ? window.zester.numberOf(answer) : "");
      throw new Error(action);
    }
    return answer;
  };

  // Other signs that end a line, as word processors have them, would count as a line here and as none there.
  list.addEventListener("input", () => {
    const odd = /[\u000b\u000c\u001c-\u001e\u0085\u2028\u2029]/g;
    if (!odd.test(list.value)) return;
    const place = list.selectionStart;
    list.value = list.value.replace(odd, "\n");
    list.setSelectionRange(place, place);
  });
  // Long lines wrap, and so do the answers: every row is as high as the answer that needs most room for each row of its
  // line, so that line and answer stay beside each other.
  const mirror = document.createElement("div");
  mirror.className = "list-mirror";
  mirror.setAttribute("aria-hidden", "true");
  list.parentElement.append(mirror);
  let rowsOf = [];
  const rowOf = (line) => rowsOf.slice(0, line).reduce((sum, rows) => sum + rows, 0);
  const arrange = () => {
    const readings = document.getElementById("readings");
    if (!readings || !list.offsetParent) return;
    const style = getComputedStyle(list);
    mirror.style.width = `${list.clientWidth - parseFloat(style.paddingLeft) - parseFloat(style.paddingRight)}px`;
    mirror.replaceChildren(
      ...list.value.split("\n").map((text) => {
        const line = document.createElement("div");
        line.textContent = text || "\u200b";
        return line;
      })
    );
    const high = parseFloat(getComputedStyle(mirror).lineHeight);
    rowsOf = [...mirror.children].map((line) => Math.max(1, Math.round(line.offsetHeight / high)));
    book.style.removeProperty("--row");
    const least = parseFloat(style.lineHeight);
    const items = [...readings.children].filter((item) => item.dataset.line);
    items.forEach((item) => {
      item.style.height = "auto";
      item.classList.remove("long");
    });
    // Two lines at most, and more on demand; what is wrong is read whole.
    const short = items.map((item) => {
      const rows = rowsOf[Number(item.dataset.line)] ?? 1;
      const what = item.querySelector(".what");
      const long = what && !item.matches(".bad, .faulty") && what.offsetHeight > 2.6 * parseFloat(getComputedStyle(what).lineHeight) * rows;
      return long ? rows : 0;
    });
    items.forEach((item, at) => {
      if (!short[at]) return;
      item.style.setProperty("--lines", 2 * short[at]);
      item.classList.add("long");
    });
    const needs = items.map((item) => item.offsetHeight / (rowsOf[Number(item.dataset.line)] ?? 1));
    const row = Math.ceil(Math.max(least, ...needs));
    if (row > least) book.style.setProperty("--row", `${row}px`);
    items.forEach((item) => (item.style.height = `${row * (rowsOf[Number(item.dataset.line)] ?? 1)}px`));
    list.style.height = "auto";
    list.style.height = `${Math.max(list.scrollHeight, row * rowOf(rowsOf.length))}px`;
  };
  list.addEventListener("input", arrange);
  window.addEventListener("resize", arrange);
  document.addEventListener("htmx:afterSettle", arrange);
  document.fonts?.ready.then(arrange);
  arrange();

  // ---- Saving -----------------------------------------------------------------------------------------------------
  // The state's paragraph is a new one after every answer, so it is looked up each time.
  const state = (text, unsaved) => {
    const words = document.getElementById("save-state");
    if (!words) return;
    if (text) words.textContent = text;
    if (unsaved) words.dataset.unsaved = "";
    else delete words.dataset.unsaved;
  };
  window.addEventListener("beforeunload", (event) => {
    if (document.querySelector("[data-unsaved]")) event.preventDefault();
  });
  list.addEventListener("input", () => state("Saving…", true));
  // Why is said above, and sending again is looked after there (zester.js).
  list.addEventListener("htmx:sendError", () => state("Not saved: Zester cannot be reached", true));
  list.addEventListener("htmx:responseError", () => state("Not saved", true));
  // An answer to an older text does not mean that the newest is saved.
  let sent = list.value;
  let parts = {};
  list.addEventListener("htmx:configRequest", (event) => {
    sent = list.value;
    event.detail.parameters.set("shown_parts", JSON.stringify(parts));
  });
  document.addEventListener("zester:parts", (event) => {
    parts = { ...event.detail };
    // What stands there of saving is changed here, so it is always sent anew.
    delete parts.state;
    delete parts.elt;
  });
  list.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.successful && list.value !== sent) state("Saving…", true);
  });
  const again = () => htmx.trigger(list, "retry");
  // Whoever is quicker than the scripts has typed before anybody listened.
  document.addEventListener("DOMContentLoaded", () => {
    if (list.value === list.defaultValue) return;
    state("Saving…", true);
    again();
  });

  // ---- Words offered ----------------------------------------------------------------------------------------------
  let chosen = -1;
  const close = () => {
    offers.hidden = true;
    offers.replaceChildren();
    list.removeAttribute("aria-activedescendant");
    chosen = -1;
  };
  // The words before the caret, longest first: “tele”, or “star ch” for a name of two words.
  const typed = () => {
    const line = textOf(here()).slice(0, list.selectionStart - startOf(here()));
    const words = line.match(/[\p{L}][\p{L}'-]*(?:\s[\p{L}'-]+){0,2}$/u)?.[0] ?? "";
    const single = words.split(/\s/);
    return single.map((_, k) => single.slice(k).join(" ")).filter((part) => part.length > 1);
  };
  const matching = (every) => {
    const mine = [...document.querySelectorAll("#readings [data-name]")].map((row) => row.dataset.name);
    const begun = typed();
    const before = textOf(here()).slice(0, list.selectionStart - startOf(here()));
    // A line begins with a name, not with a paper; a paper written out wants nothing more.
    const first = !/\S\s/.test(before);
    if (begun.some((part) => known.papers.some((paper) => paper.toLowerCase() === part.toLowerCase()))) return null;
    const all = [...(first ? [] : [...known.papers, ...known.tools]), ...new Set(mine), ...known.words];
    for (const part of begun) {
      const wanted = part.toLowerCase();
      const found = all.filter((word) => {
        const name = word.toLowerCase();
        return name !== wanted && (name.startsWith(wanted) || (known.papers.includes(word) && name.includes(` ${wanted}`)));
      });
      if (found.length) return { part, found: found.slice(0, 7) };
    }
    return every ? { part: "", found: known.papers.slice(0, 9) } : null;
  };
  const choose = (index) => {
    chosen = index;
    [...offers.children].forEach((item, k) => item.setAttribute("aria-selected", String(k === index)));
    list.setAttribute("aria-activedescendant", offers.children[index].id);
  };
  const ruler = document.createElement("canvas").getContext("2d");
  const offer = (every) => {
    const found = matching(every);
    if (!found || list.selectionStart !== list.selectionEnd) return close();
    offers.replaceChildren(
      ...found.found.map((word, k) => {
        const item = document.createElement("li");
        item.id = `offer-${k}`;
        item.setAttribute("role", "option");
        item.textContent = word;
        item.dataset.part = found.part;
        return item;
      })
    );
    const style = getComputedStyle(list);
    ruler.font = style.font;
    const before = textOf(here()).slice(0, list.selectionStart - startOf(here()) - found.part.length);
    const left = parseFloat(style.paddingLeft) + ruler.measureText(before).width - list.scrollLeft;
    offers.style.left = `${Math.max(0, Math.min(left, list.clientWidth - 180))}px`;
    offers.style.top = `${(rowOf(here()) + (rowsOf[here()] ?? 1)) * parseFloat(style.lineHeight)}px`;
    offers.hidden = false;
    choose(0);
    if (every) say(`${found.found.length} words, ${found.found[0]} first`);
  };
  const take = (item) => {
    const part = item.dataset.part;
    const word = item.textContent;
    close();
    put(list.selectionStart - part.length, list.selectionStart, `${word} `);
    close();
  };
  list.addEventListener("input", (event) => {
    if (event.inputType === "insertText" && event.data && /\p{L}/u.test(event.data)) offer(false);
    else close();
  });
  list.addEventListener("blur", () => setTimeout(close, 150));
  offers.addEventListener("mousedown", (event) => {
    const item = event.target.closest("li");
    if (!item) return;
    event.preventDefault();
    take(item);
  });
  document.querySelectorAll("[data-paper-name]").forEach((button) =>
    button.addEventListener("click", () => {
      const before = list.value.slice(0, list.selectionStart);
      const space = before && !/\s$/.test(before) ? " " : "";
      list.focus();
      put(list.selectionStart, list.selectionEnd, `${space}${button.dataset.paperName} `);
    })
  );

  // ---- Keys of the list -------------------------------------------------------------------------------------------
  const moveLine = (step) => {
    const line = here();
    const lines = list.value.split("\n");
    const other = line + step;
    if (other < 0 || other >= lines.length) return;
    const caret = list.selectionStart - startOf(line);
    const top = Math.min(line, other);
    const from = startOf(top);
    put(from, from + lines[top].length + 1 + lines[top + 1].length, `${lines[top + 1]}\n${lines[top]}`);
    const place = startOf(other) + caret;
    list.setSelectionRange(place, place);
    say(`Line ${other + 1}`);
  };
  const copyLine = (step) => {
    const line = here();
    const caret = list.selectionStart - startOf(line);
    const end = startOf(line) + textOf(line).length;
    put(end, end, `\n${textOf(line)}`);
    const place = startOf(line + (step > 0 ? 1 : 0)) + caret;
    list.setSelectionRange(place, place);
    say("Line copied");
  };
  // One step after the other, each on the text the one before has left.
  let stepping = Promise.resolve();
  const stepLength = (steps) => {
    stepping = stepping.then(() => stepOnce(steps)).catch(() => say("It could not be stepped"));
  };
  const stepOnce = async (steps) => {
    const line = here();
    const text = textOf(line);
    const caret = list.selectionStart - startOf(line);
    const answer = await (await ask("step", { line: text, caret, steps })).json();
    if (textOf(line) !== text) return;
    putLine(line, answer.line, answer.caret);
    say(answer.line);
  };
  const nextView = () => {
    const tabs = [...document.querySelectorAll("[data-view]")];
    const now = tabs.findIndex((tab) => tab.getAttribute("aria-pressed") === "true");
    tabs[(now + 1) % tabs.length]?.click();
  };
  const mend = (group) => {
    const wanted = group ? `[data-group="${group}"]` : ':not([data-group="middles"])';
    const own = document.querySelector(`[data-finding~="${here()}"]${wanted} [data-mend]`);
    const any = document.querySelector(`.findings li${wanted} [data-mend]`) ?? (group ? null : document.querySelector("[data-mend]"));
    const button = own ?? any;
    if (button) button.click();
    else say(group ? "No hidden middle is offered" : "Nothing to mend");
  };
  // A question is answered by its number, the one about this line first.
  const question = () => document.querySelector(`[data-question~="${here()}"]`) ?? document.querySelector("[data-question]");
  const answer = (number) => {
    const button = question()?.querySelectorAll("[data-mend]")[number - 1];
    if (button) button.click();
    else say("Nothing is asked that this answers");
  };
  const shelve = (kind) => {
    const own = question()?.querySelector(`[data-put-on-shelf][data-kind="${kind}"]`);
    const button = own ?? document.querySelector(`[data-put-on-shelf][data-kind="${kind}"]`);
    if (button) button.click();
    else say("No line lacks a paper");
  };
  const putOnShelf = async (button) => {
    const { putOnShelf: name, kind } = button.dataset;
    const done = await (await ask("put-on-shelf", { name, kind })).json();
    if (done.error) {
      button.insertAdjacentText("afterend", ` ${done.error}`);
      return say(done.error);
    }
    known.papers.push(done.name);
    // What the class counts is another now, though the text is the same.
    const shelved = Object.assign(document.createElement("input"), { type: "hidden", name: "shelved", value: "1" });
    book.append(shelved);
    list.addEventListener("htmx:afterRequest", () => shelved.remove(), { once: true });
    const place = document.getElementById("shelved");
    const link = Object.assign(document.createElement("a"), { href: done.page, textContent: "Change what it is" });
    place.replaceChildren(`✓ ${done.said}. `, link);
    place.hidden = false;
    say(done.said);
    again();
    list.focus();
  };
  const toCard = (step) => {
    const tabs = [...document.querySelectorAll(".card-tabs a")];
    tabs[tabs.findIndex((tab) => tab.hasAttribute("aria-current")) + step]?.click();
  };
  const arrows = { ArrowUp: -1, ArrowDown: 1 };
  const keys = (event) => {
    const step = arrows[event.key];
    if (!offers.hidden && !event.altKey && !event.ctrlKey && !event.metaKey) {
      if (step) choose((chosen + step + offers.children.length) % offers.children.length);
      else if (event.key === "Tab" && !event.shiftKey) take(offers.children[chosen]);
      else if (event.key === "Escape") close();
      else return false;
      return true;
    }
    if (event.altKey && !event.ctrlKey) {
      if (step) return (event.shiftKey ? copyLine(step) : moveLine(step)), true;
      // A key held down answers one question, not the ones after it too.
      if (event.repeat) return true;
      if (event.key === "Enter") return mend(""), true;
      if (/^Digit[1-9]$/.test(event.code)) return answer(Number(event.code.slice(5))), true;
      if (event.code === "KeyS") return shelve("card"), true;
      if (event.code === "KeyP") return shelve("patterned"), true;
      if (event.key.toLowerCase() === "m") return mend("middles"), true;
      if (event.key.toLowerCase() === "v") return nextView(), true;
      if (event.key === "PageUp" || event.key === "PageDown") return toCard(event.key === "PageUp" ? -1 : 1), true;
    }
    if (event.ctrlKey && !event.altKey) {
      if (step) return stepLength(-step), true;
      if (event.key === " ") return offer(true), true;
    }
    return false;
  };
  list.addEventListener("keydown", (event) => {
    if (keys(event)) event.preventDefault();
  });

  // ---- The piece whose line the caret is on is lit in the drawing -------------------------------------------------
  const light = () => {
    const row = document.querySelector(`#readings [data-line="${here()}"]`);
    document.dispatchEvent(new CustomEvent("zester:light", { detail: row?.dataset.piece ?? null }));
    tellCost(row?.dataset.piece);
  };
  // What the line being written costs in sheets, as soon as that was looked for.
  const tellCost = (handle) => {
    const words = handle ? document.querySelector(`#line-costs [data-cost="${CSS.escape(handle)}"]`)?.textContent : "";
    const place = document.getElementById("line-cost");
    if (!place) return;
    place.textContent = words ? `${handle}: ${words}` : "";
    place.hidden = !words;
  };
  document.addEventListener("htmx:afterSwap", (event) => {
    if (event.detail.target?.id === "strip" && document.activeElement === list) light();
  });
  document.addEventListener("selectionchange", () => {
    if (document.activeElement === list) light();
  });
  const toLine = (handle) => {
    const row = document.querySelector(`#readings [data-piece="${CSS.escape(handle)}"]`);
    if (!row) return;
    list.focus();
    const place = startOf(Number(row.dataset.line)) + textOf(Number(row.dataset.line)).length;
    list.setSelectionRange(place, place);
    light();
  };
  document.getElementById("notebook").addEventListener("click", (event) => {
    const row = event.target.closest("#readings [data-piece]");
    if (row) toLine(row.dataset.piece);
  });

  // ---- The drawing: its views, pieces moved by keys and by dragging -------------------------------------------------
  let focused = null;
  document.addEventListener("htmx:beforeSwap", () => {
    focused = document.activeElement?.closest?.(".layer")?.dataset.piece ?? null;
  });
  const refocus = () => {
    // Whoever has gone on meanwhile stays there.
    const lost = !document.activeElement || document.activeElement === document.body;
    if (focused && lost) document.querySelector(`#drawing .layer[data-piece="${CSS.escape(focused)}"]`)?.focus();
    else if (document.activeElement === list) light();
  };
  document.addEventListener("htmx:oobAfterSwap", (event) => {
    if (event.detail.target?.id === "drawing") refocus();
  });
  list.addEventListener("htmx:afterRequest", refocus);
  document.addEventListener("htmx:afterSettle", (event) => {
    if (event.detail.elt?.id !== "readings" && event.detail.target?.id !== "readings") return;
    refocus();
    focused = null;
  });
  const move = async (layer, across, down) => {
    if (!across && !down) return;
    const data = { cut_list: list.value, shown: document.getElementById("shown").value, number: layer.dataset.number, across, down };
    const moved = await (await ask("move", data)).json();
    if (moved.error) return say(moved.error);
    putLine(moved.line, moved.text);
    say(moved.text);
  };
  const sides = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  let moving = Promise.resolve();
  document.addEventListener("keydown", (event) => {
    const layer = event.target.closest?.("#drawing .layer");
    if (!layer || event.altKey) return;
    if (event.ctrlKey && (event.key === "z" || event.key === "y")) {
      // The same undo as in the list; the piece keeps the focus.
      event.preventDefault();
      list.focus({ preventScroll: true });
      document.execCommand(event.key === "z" ? "undo" : "redo");
      layer.focus({ preventScroll: true });
    }
    if (event.ctrlKey) return;
    const layers = [...layer.closest("svg").querySelectorAll(".layer[data-piece]")];
    if (sides[event.key] && layer.hasAttribute("data-movable")) {
      event.preventDefault();
      const [across, down] = sides[event.key].map((side) => side * (event.shiftKey ? 8 : 1));
      moving = moving.then(() => move(layer, across, down)).catch(() => say("It could not be moved"));
    } else if (event.key === "PageDown" || event.key === "PageUp") {
      event.preventDefault();
      const next = layers[layers.indexOf(layer) + (event.key === "PageDown" ? 1 : -1)];
      if (!next) return;
      layer.setAttribute("tabindex", "-1");
      next.setAttribute("tabindex", "0");
      next.focus();
    } else if (event.key === "Enter") {
      event.preventDefault();
      toLine(layer.dataset.piece);
    }
  });
  let held = null;
  document.addEventListener("pointerdown", (event) => {
    const layer = event.target.closest?.("#drawing .layer[data-movable]");
    if (!layer || event.button) return;
    const svg = layer.ownerSVGElement;
    held = { layer, x: event.clientX, y: event.clientY, scale: svg.getScreenCTM().a, mark: Number(svg.dataset.mark), across: 0, down: 0 };
    layer.setPointerCapture(event.pointerId);
  });
  document.addEventListener("pointermove", (event) => {
    if (!held) return;
    held.across = Math.round((event.clientX - held.x) / held.scale / held.mark);
    held.down = Math.round((event.clientY - held.y) / held.scale / held.mark);
    held.layer.setAttribute("transform", `translate(${held.across * held.mark} ${held.down * held.mark})`);
  });
  const letGo = (event) => {
    if (!held) return;
    const { layer, across, down } = held;
    held = null;
    layer.removeAttribute("transform");
    if (event.type === "pointerup") move(layer, across, down).catch(() => say("It could not be moved"));
  };
  document.addEventListener("pointerup", letGo);
  document.addEventListener("pointercancel", letGo);

  // A picture of the drawing is made from its SVG file, at 300 dots an inch.
  const download = (url, name) => {
    const link = document.createElement("a");
    link.href = url;
    link.download = name;
    link.click();
  };
  const savePng = async (address) => {
    const drawn = await fetch(address);
    const svg = await drawn.text();
    const [, width, height] = svg.match(/ width="([\d.]+)mm" height="([\d.]+)mm"/).map(Number);
    const image = new Image();
    image.src = URL.createObjectURL(new Blob([svg], { type: "image/svg+xml" }));
    await image.decode();
    const canvas = document.createElement("canvas");
    canvas.width = Math.round((width / 25.4) * 300);
    canvas.height = Math.round((height / 25.4) * 300);
    canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
    const name = drawn.headers.get("Content-Disposition").match(/filename="(.+)\.svg"/)[1];
    canvas.toBlob((blob) => download(URL.createObjectURL(blob), `${name}.png`), "image/png");
  };

  // ---- The list as a table ----------------------------------------------------------------------------------------
  const table = document.getElementById("table");
  const drawTable = async () => {
    table.innerHTML = await (await ask("table", { cut_list: list.value })).text();
  };
  const toggle = document.querySelector("[data-toggle-table]");
  toggle.addEventListener("click", async () => {
    const show = table.hidden;
    if (show) await drawTable();
    table.hidden = !show;
    book.classList.toggle("visually-hidden", show);
    list.tabIndex = show ? -1 : 0;
    toggle.setAttribute("aria-pressed", String(show));
    (show ? table.querySelector("input, textarea") : list)?.focus();
    if (!show) arrange();
  });
  table.addEventListener("change", async (event) => {
    const row = event.target.closest("tr");
    const data = { kind: row.dataset.kind === "blank" || row.dataset.kind === "unread" ? "unread" : row.dataset.kind };
    // The time is a word of the line, too: it is sent where it was chosen, else the words stay as they are typed.
    const cells = event.target.name === "when" ? "input, textarea, select" : "input, textarea";
    row.querySelectorAll(cells).forEach((cell) => (data[cell.name] = cell.value.replace(/\s*\n\s*/g, " ")));
    const written = await (await ask("cells", data)).json();
    event.target.toggleAttribute("aria-invalid", Boolean(written.error));
    state(written.error ? `Not saved: ${written.error}` : "", Boolean(written.error));
    if (!written.error) putLine(Number(row.dataset.row), written.text);
    if (!written.error && event.target.name === "when") {
      await drawTable();
      table.querySelector(`tr[data-row="${row.dataset.row}"] [name=when]`)?.focus();
    }
  });
  table.addEventListener("click", async (event) => {
    if (event.target.closest("[data-add-row]")) {
      put(list.value.length, list.value.length, `${list.value && !list.value.endsWith("\n") ? "\n" : ""}Piece 1 x 1 `);
      await drawTable();
      [...table.querySelectorAll("tr")].at(-1).querySelector("input, textarea")?.focus();
    }
    const row = event.target.closest("[data-remove-row]")?.closest("tr");
    if (row) {
      const line = Number(row.dataset.row);
      const from = startOf(line);
      const last = line === list.value.split("\n").length - 1;
      put(last ? Math.max(0, from - 1) : from, from + textOf(line).length + (last ? 0 : 1), "");
      await drawTable();
    }
  });

  // A cell holds one line, however it wraps: Enter leaves it.
  table.addEventListener("keydown", (event) => {
    if (event.key !== "Enter" || !event.target.matches("textarea")) return;
    event.preventDefault();
    event.target.blur();
    event.target.focus();
  });
  // Undo by its keys in the table, too: a cell that is being typed in undoes its own letters, else the list does.
  table.addEventListener("keydown", (event) => {
    const key = event.key.toLowerCase();
    if (!(event.ctrlKey || event.metaKey) || event.altKey || !["z", "y"].includes(key)) return;
    const cell = event.target.closest("input, textarea");
    if (cell && cell.value !== cell.defaultValue) return;
    event.preventDefault();
    const place = { row: event.target.closest("tr")?.dataset.row, name: cell?.name };
    undoList(key === "y" || event.shiftKey ? "redo" : "undo", async () => {
      await drawTable();
      const cellThen = table.querySelector(`tr[data-row="${place.row}"] [name="${place.name}"]`) ?? table.querySelector("input, textarea");
      cellThen?.focus();
    });
  });
  const undoList = (what, after) => {
    list.focus({ preventScroll: true });
    document.execCommand(what);
    setTimeout(after, 50);
  };
  // And from anywhere on the page but a field.
  document.addEventListener("keydown", (event) => {
    if (!(event.ctrlKey || event.metaKey) || event.altKey || event.defaultPrevented) return;
    if (!["z", "y"].includes(event.key.toLowerCase()) || event.target.closest("input, textarea, select, dialog")) return;
    if (event.target.closest(".layer") || document.querySelector(".notice form[data-undo]")) return;
    event.preventDefault();
    undoList(event.key.toLowerCase() === "y" || event.shiftKey ? "redo" : "undo", () => {
      if (!table.hidden) drawTable();
    });
  });

  // ---- Buttons ----------------------------------------------------------------------------------------------------
  const replaceAll = (text) => put(0, list.value.length, text);
  const shown = (name, value) => {
    document.getElementById(name).value = value;
    again();
  };
  const notesTaken = () => {
    const rows = [...document.querySelectorAll(".understood tbody tr")].filter((row) => row.querySelector(":checked"));
    const lines = rows.map((row) => row.querySelector("input[type=text]").value);
    const before = list.value && !list.value.endsWith("\n") ? "\n" : "";
    document.getElementById("paste").close();
    if (lines.length) put(list.value.length, list.value.length, before + lines.join("\n"));
    document.getElementById("notes").value = "";
    document.getElementById("understood").replaceChildren();
    list.focus();
    say(`${lines.length} lines taken`);
  };
  document.addEventListener("click", async (event) => {
    const button = event.target.closest?.("button, a");
    if (!button) return;
    const data = button.dataset;
    if ("putOnShelf" in data) putOnShelf(button).catch(() => say("It could not be put on the shelf"));
    else if ("choose" in data) {
      const row = button.closest("tr");
      row.querySelector("input[type=text]").value = data.choose;
      row.querySelector("input[type=checkbox]").checked = true;
      row.classList.remove("bad");
    } else if ("mend" in data) {
      // What was offered when the page came may be about a line that has moved since.
      const at = "mendWas" in data ? list.value.split("\n").indexOf(data.mendWas) : Number(data.mendLine);
      if (at < 0) return say("That line says something else by now");
      putLine(at, data.mend);
      JSON.parse(data.mendOthers ?? "[]").forEach(([line, text]) => putLine(line, text));
      list.focus();
      say(`${button.textContent}: ${data.mend}`);
      if (!table.hidden) drawTable();
    } else if ("view" in data) shown("view", data.view);
    else if ("png" in data) savePng(data.png);
    else if ("do" in data) {
      list.focus();
      document.execCommand(data.do);
      if (!table.hidden) setTimeout(drawTable, 50);
    } else if ("show" in data) document.getElementById(data.show).showModal();
    else if ("close" in data) button.closest("dialog").close();
    else if ("takeNotes" in data) notesTaken();
    else if ("sizes" in data) {
      replaceAll((await (await ask("sizes", { cut_list: list.value })).json()).text);
      say("Borders are written out");
    } else if ("keepMine" in data) {
      event.preventDefault();
      const force = document.createElement("input");
      Object.assign(force, { type: "hidden", name: "force", value: "1" });
      book.append(force);
      list.addEventListener("htmx:afterRequest", () => force.remove(), { once: true });
      again();
    } else if ("takeOther" in data) state("", false);
  });
  document.addEventListener("change", (event) => {
    if (event.target.matches("[data-version-shown]")) shown("shown", event.target.value);
  });
})();
