// Small helpers; every page works without them except where it says so.
"use strict";

(() => {

  // ? shows the keys; 1 to 5 go to the stations. Not while typing.
  const typing = (target) => target.closest("input, textarea, select, [contenteditable]");
  // Whoever speaks to the machine, or rests a hand on it, may do without keys of one letter (WCAG 2.2, 2.1.4).
  const single = () => window.localStorage.getItem("zester:single-keys") !== "off";
  const switched = document.getElementById("single-keys");
  if (switched) {
    switched.checked = single();
    switched.addEventListener("change", () => window.localStorage.setItem("zester:single-keys", switched.checked ? "on" : "off"));
  }
  // What was done to come here is undone first: a field that nothing was typed into has nothing to undo.
  let touched = false;
  document.addEventListener("input", () => { touched = true; });
  document.addEventListener("keydown", (event) => {
    const undoes = (event.ctrlKey || event.metaKey) && !event.altKey && !event.shiftKey && event.key.toLowerCase() === "z";
    if (typing(event.target) && !(undoes && !touched)) return;
    if ((event.ctrlKey || event.metaKey) && !event.altKey && event.key.toLowerCase() === "z" && !event.shiftKey) {
      const undo = document.querySelector(".notice form[data-undo] button");
      if (undo && !document.querySelector("dialog[open]")) {
        event.preventDefault();
        undo.click();
      }
      return;
    }
    if (event.ctrlKey || event.metaKey || event.altKey || !single()) return;
    const keys = document.getElementById("keys");
    if (event.key === "?" && keys) {
      event.preventDefault();
      keys.showModal();
    } else if (event.key === "/" && !document.querySelector("dialog[open]")) {
      event.preventDefault();
      document.querySelector("[data-find]")?.click();
    } else if (/^[1-5]$/.test(event.key) && !document.querySelector("dialog[open]")) {
      document.querySelectorAll(".thread a")[Number(event.key) - 1]?.click();
    } else if (event.key === "f" && !document.querySelector("dialog[open]")) {
      document.querySelector("[data-fit]:not(:disabled)")?.click();
    }
  });
  document.documentElement.classList.add("scripted");
  document.addEventListener("click", (event) => {
    const menu = event.target.closest("[data-menu]");
    if (menu) menu.setAttribute("aria-expanded", String(menu.getAttribute("aria-expanded") !== "true"));
  });
  // Where somebody is, as the browser's clock says.
  const asked = document.querySelector("[data-zone]");
  if (asked) {
    const zone = Intl.DateTimeFormat().resolvedOptions().timeZone ?? "";
    asked.elements.zone.value = zone;
    asked.querySelector("[data-zone-words]").textContent = zone ? `, time of ${zone.replaceAll("_", " ")}` : "";
  }
  // Cautions are one line that opens; printed they are whole.
  document.querySelectorAll("main:not(.bench-main) p.caution:not(:has(*))").forEach((caution) => {
    const words = caution.textContent.replace(/\s+/g, " ").trim();
    const [first, rest] = [words.slice(0, words.search(/[.;] /) + 1), words.slice(words.search(/[.;] /) + 2)];
    if (!first || caution.clientHeight < 3 * parseFloat(getComputedStyle(caution).lineHeight)) return;
    const box = document.createElement("details");
    box.className = caution.className;
    const summary = document.createElement("summary");
    summary.textContent = first.replace(/;$/, "…");
    box.append(summary, rest);
    caution.replaceWith(box);
  });
  window.addEventListener("beforeprint", () => document.querySelectorAll("details.caution, details.printed").forEach((box) => (box.open = true)));
  // Where one is, is seen in a row that scrolls.
  document.querySelectorAll(".card-tabs [aria-current]").forEach((tab) => {
    const row = tab.closest(".card-tabs");
    row.scrollLeft = tab.offsetLeft + tab.offsetWidth - row.clientWidth;
  });
  // What scrolls in itself is reached by keys, too.
  const scrollers = () => {
    document.querySelectorAll(".leaf, .sideways, .ho-card").forEach((box) => {
      const scrolls = box.scrollWidth > box.clientWidth + 1 && getComputedStyle(box).overflowX === "auto";
      if (scrolls && !box.querySelector("a, button, input, select, textarea, summary")) box.tabIndex = 0;
      else if (box.tabIndex === 0) box.removeAttribute("tabindex");
    });
  };
  window.addEventListener("load", scrollers);
  window.addEventListener("resize", scrollers);
  // A long page has a list of what is on it, which stays.
  document.querySelectorAll("[data-contents]").forEach((page) => {
    const heads = [...page.querySelectorAll("h2")];
    if (page.scrollHeight < 2 * window.innerHeight || heads.length < 3) return;
    const list = document.createElement("nav");
    list.className = "contents no-print";
    list.setAttribute("aria-label", "On this page");
    heads.forEach((head, at) => {
      head.id ||= `part-${at}`;
      head.classList.add("stands");
      const link = document.createElement("a");
      link.href = `#${head.id}`;
      link.textContent = head.firstChild.textContent.trim();
      list.append(link);
    });
    page.before(list);
  });
  // ---- Long lists: only what holds all the words, in the order of a heading or of a choice --------------------------
  const rowsOf = (list) => [...(list.tBodies?.[0] ?? list).children];
  const sift = (field) => {
    const words = field.value.toLowerCase().split(/\s+/).filter(Boolean);
    let shown = 0;
    document.querySelectorAll(field.dataset.sieve).forEach((list) => {
      rowsOf(list).forEach((row) => {
        // What is ticked stays in sight: it is what a button below is about.
        row.hidden = !row.querySelector(":checked") && !words.every((word) => row.textContent.toLowerCase().includes(word));
        if (!row.hidden) shown += 1;
      });
    });
    const told = document.getElementById("told");
    if (told) told.textContent = words.length ? `${shown} shown` : "";
  };
  document.addEventListener("input", (event) => {
    if (event.target.matches("[data-sieve]")) sift(event.target);
  });
  const compare = (one, other) => one.localeCompare(other, undefined, { numeric: true, sensitivity: "base" });
  const sorted = (list, wordsOf, down) => {
    const rows = rowsOf(list).sort((one, other) => compare(wordsOf(one), wordsOf(other)));
    (list.tBodies?.[0] ?? list).append(...(down ? rows.reverse() : rows));
  };
  document.querySelectorAll("table[data-sorts]").forEach((table) => {
    table.querySelectorAll("thead th[data-sort]").forEach((head) => {
      const button = document.createElement("button");
      button.type = "button";
      button.className = "sort";
      button.append(...head.childNodes);
      head.append(button);
      button.addEventListener("click", () => {
        const down = head.getAttribute("aria-sort") === "ascending";
        table.querySelectorAll("[aria-sort]").forEach((other) => other.removeAttribute("aria-sort"));
        head.setAttribute("aria-sort", down ? "descending" : "ascending");
        sorted(table, (row) => row.cells[head.cellIndex].textContent.trim(), down);
      });
    });
  });
  document.addEventListener("change", (event) => {
    const choice = event.target.closest("[data-order]");
    if (!choice) return;
    const [key, down] = choice.value.split(" ");
    document.querySelectorAll(choice.dataset.order).forEach((list) => sorted(list, (row) => row.dataset[key] ?? "", Boolean(down)));
  });
  // The help: only what holds all the words that are looked for.
  const search = document.querySelector("[data-help-search]");
  if (search) {
    const topics = [...document.querySelectorAll(".topic")];
    const found = document.getElementById("help-found");
    search.addEventListener("input", () => {
      const words = search.value.toLowerCase().split(/\s+/).filter(Boolean);
      const hits = topics.filter((topic) => {
        const text = topic.textContent.toLowerCase();
        const hit = words.every((word) => text.includes(word));
        topic.hidden = !hit;
        return hit;
      });
      found.hidden = !words.length;
      found.textContent = hits.length ? `${hits.length} of ${topics.length}` : "Nothing holds all of these words. Try fewer, or others.";
    });
  }
  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-show-keys]")) document.getElementById("keys").showModal();
    if (event.target.closest("[data-print]")) window.print();
  });

  // htmx sends the CSRF token of the page with everything it posts.
  const token = document.querySelector("meta[name=csrf-token]");
  document.addEventListener("htmx:configRequest", (event) => {
    event.detail.headers["X-CSRFToken"] = token.content;
  });

  // What could not be sent or was not taken is said, kept on the page, and sent again: by and by while Zester cannot be
  // reached or is busy, and as soon as somebody is signed in again.
  const trouble = document.getElementById("trouble");
  const waiting = new Map();
  const say = (words, button) => {
    asking = Boolean(button);
    if (trouble.dataset.words === words) return;
    trouble.dataset.words = words;
    trouble.replaceChildren(words, ...(button ? [button] : []));
    trouble.hidden = !words;
  };
  const sendAgain = () => {
    const all = [...waiting.values()];
    waiting.clear();
    all.forEach((again) => again());
  };
  let later = 0;
  const OFFLINE = "Zester cannot be reached. What you typed stays here; it is sent again in a moment.";
  const BUSY = "Zester is busy and could not save that. What you typed stays here; it is sent again in a moment.";
  const LOST = "That was not saved: something went wrong in Zester. What you typed stays here; copy it before you leave.";
  const inAMoment = (words) => {
    say(words);
    clearTimeout(later);
    later = setTimeout(sendAgain, 3000);
  };
  const dialog = document.getElementById("sign-in");
  let asking = false;
  let wasAt = null;
  // How often in a row the page got a token that should have done.
  let renewed = 0;
  // One answer for all: signed in meanwhile (in another window) needs only the new token; else a button asks, which
  // does not take the keys away from whoever is typing.
  const signIn = async () => {
    if (!dialog) return;
    const answer = await fetch(dialog.querySelector("form").dataset.state).catch(() => null);
    if (!answer?.ok) return inAMoment(OFFLINE);
    const found = await answer.json();
    if (taken(found)) return;
    if (!dialog.open && !asking) wasAt = document.activeElement;
    const button = document.createElement("button");
    Object.assign(button, { type: "button", className: "btn btn-primary btn-sm ms-auto", textContent: "Sign in again" });
    button.addEventListener("click", () => dialog.showModal());
    const mine = document.body.dataset.user;
    const why = found.user ? `This page is ${mine}\u2019s, but ${found.user} is signed in now` : "Your time was up";
    say(`${why}; what you type now is not saved yet. It stays here.`, button);
  };
  const taken = (found) => {
    token.content = found.token;
    document.querySelectorAll("input[name=csrfmiddlewaretoken]").forEach((field) => (field.value = found.token));
    if (found.user !== document.body.dataset.user) return false;
    renewed += 1;
    if (dialog.open) {
      dialog.close();
      wasAt?.focus({ preventScroll: true });
    }
    say("");
    sendAgain();
    return true;
  };
  dialog?.querySelector("form").addEventListener("submit", async (event) => {
    event.preventDefault();
    const form = event.target;
    const error = document.getElementById("sign-in-error");
    const headers = { "X-CSRFToken": token.content, "X-Requested-With": "fetch" };
    const answer = await fetch(form.action, { method: "POST", body: new FormData(form), headers }).catch(() => null);
    const found = answer?.ok ? await answer.json() : { error: answer?.status === 429 ? "Too many wrong passwords. Wait five minutes." : "That did not work. Try once more." };
    form.querySelector("[type=password]").value = "";
    error.textContent = found.error ?? "";
    error.hidden = !found.error;
    if (!found.error) taken(found);
  });
  dialog?.querySelector("[data-not-now]").addEventListener("click", () => dialog.close());
  document.addEventListener("visibilitychange", () => {
    if (asking && document.visibilityState === "visible") signIn();
  });
  // Why a request did not do what it should, and what follows; `again` sends it once more.
  const failed = (status, key, again, words) => {
    if (again) waiting.set(key, again);
    if (status === 0) inAMoment(OFFLINE);
    else if ((status === 401 || status === 403) && renewed < 3) signIn();
    else if (status === 401) inAMoment(BUSY);
    else if (status === 503 || status === 502 || status === 504) inAMoment(BUSY);
    else say(status === 404 ? "This was removed in another window. What you typed stays here; copy it before you leave." : words ? `${LOST} (${words})` : LOST);
  };
  const numberOf = (answer) => {
    const number = answer?.getResponseHeader?.("X-Request-Number") ?? answer?.headers?.get("X-Request-Number");
    return number ? `request ${number}` : "";
  };
  window.zester = { failed, numberOf, settled: () => waiting.size || say("") };
  // What asked, not what would have been shown in its place.
  const sender = (event) => event.detail.requestConfig?.elt ?? event.detail.elt;
  document.addEventListener("htmx:sendError", (event) => {
    const part = sender(event);
    failed(0, part, () => part.isConnected && htmx.trigger(part, part.dataset.poll ? "poll" : "retry"));
  });
  document.addEventListener("htmx:responseError", (event) => {
    const part = sender(event);
    const posted = event.detail.requestConfig.verb === "post";
    if (!posted && event.detail.xhr.status >= 500) return;
    failed(event.detail.xhr.status, part, () => part.isConnected && htmx.trigger(part, part.dataset.poll ? "poll" : "retry"), numberOf(event.detail.xhr));
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.successful) renewed = 0;
    if (event.detail.successful && trouble && !trouble.hidden && !asking) window.zester.settled();
  });

  // A form that stays open learns what is stored now, and which of its fields another window has changed.
  document.addEventListener("zester:stored", (event) => {
    Object.entries(event.detail.seen).forEach(([id, value]) => (document.getElementById(id).value = value));
    Object.entries(event.detail.fields).forEach(([id, value]) => {
      const field = document.getElementById(id);
      if (field && field !== document.activeElement) field.value = value;
    });
  });

  // A piece on a sheet finds its line in the list and the other way round.
  const light = (handle, on) => {
    if (!handle) return;
    document.querySelectorAll(`[data-piece="${CSS.escape(handle)}"]`).forEach((part) => part.classList.toggle("lit", on));
  };
  const pieceOf = (event) => event.target.closest?.("[data-piece]");
  let lit = null;
  const show = (piece, scroll) => {
    const handle = piece?.dataset.piece ?? null;
    if (handle === lit) return;
    light(lit, false);
    lit = handle;
    light(lit, true);
    if (scroll && lit) {
      const list = `.piece-list [data-piece="${CSS.escape(lit)}"]`;
      const other = document.querySelector(piece.closest("svg") ? list : `svg [data-piece="${CSS.escape(lit)}"]`);
      other?.scrollIntoView({ block: "nearest" });
    }
  };
  // Only a mouse that really moves counts: scrolling a piece into view slides others under a mouse at rest.
  let mouseAt = "";
  document.addEventListener("mousemove", (event) => {
    const at = `${event.screenX},${event.screenY}`;
    if (at !== mouseAt) show(pieceOf(event), false);
    mouseAt = at;
  });
  document.addEventListener("zester:light", (event) => {
    light(lit, false);
    lit = event.detail;
    light(lit, true);
  });
  document.addEventListener("focusin", (event) => {
    if (pieceOf(event)) show(pieceOf(event), true);
  });
  document.addEventListener("click", (event) => {
    const piece = pieceOf(event);
    if (!piece) return;
    lit = null;
    show(piece, true);
  });
  // One stop of the Tab key for each sheet; the arrow keys walk over its pieces.
  document.addEventListener("keydown", (event) => {
    const part = event.target.closest?.(".sheet-part");
    if (!part || !event.key.startsWith("Arrow")) return;
    const parts = [...part.closest("svg").querySelectorAll(".sheet-part")];
    const step = event.key === "ArrowRight" || event.key === "ArrowDown" ? 1 : -1;
    const next = parts[parts.indexOf(part) + step];
    if (!next) return;
    event.preventDefault();
    part.setAttribute("tabindex", "-1");
    next.setAttribute("tabindex", "0");
    next.focus();
  });

  // The paper form: the swatches follow the colour, fields that do not apply are hidden.
  const colour = document.getElementById("id_colour");
  if (colour) {
    document.querySelectorAll("[data-colour]").forEach((button) =>
      button.addEventListener("click", () => {
        colour.value = button.dataset.colour;
        colour.dispatchEvent(new Event("input", { bubbles: true }));
      })
    );
    const recolour = () => {
      const channels = [1, 3, 5].map((k) => parseInt(colour.value.slice(k, k + 2), 16));
      const dark = channels[0] * 0.2126 + channels[1] * 0.7152 + channels[2] * 0.0722 < 110;
      const ink = channels.map((c) => Math.round(c + ((dark ? 255 : 0) - c) * 0.34));
      document.querySelectorAll(".repeats .swatch").forEach((swatch) => {
        swatch.style.setProperty("--paper", colour.value);
        swatch.style.setProperty("--repeat-ink", `rgb(${ink.join(",")})`);
      });
    };
    colour.addEventListener("input", recolour);
    recolour();
    const follow = () => {
      const typed = document.getElementById("id_sheet").value === "typed";
      document.getElementById("typed-size").hidden = !typed;
      document.getElementById("side-b").hidden = document.querySelector("[name=back]:checked")?.value !== "other";
      const counted = document.querySelector("[name=supply]:checked")?.value === "on_hand";
      document.getElementById("on-hand").hidden = !counted;
    };
    document.querySelectorAll("#id_sheet, [name=supply], [name=back]").forEach((field) => field.addEventListener("change", follow));
    follow();
  }

  // Parts that are kept current ask now and then whether anything has changed, and more often right after something
  // was sent. A page that nobody looks at asks nothing.
  const HURRY = 150;
  // Whoever types on does not want sheets yet. A page that asks for them has its class counted, so the longer answers
  // take just now the longer it waits; those of an undo are known at once.
  const NOT_BEFORE = 180;
  const TIMES = 6;
  const AT_MOST = 600;
  const sent = new WeakMap();
  document.addEventListener("htmx:beforeSend", (event) => sent.set(event.detail.xhr, performance.now()));
  const rest = (xhr) => Math.min(AT_MOST, Math.max(NOT_BEFORE, TIMES * (performance.now() - (sent.get(xhr) ?? 0))));
  let undone = false;
  document.addEventListener("input", (event) => (undone = Boolean(event.inputType?.startsWith("history"))));
  const HURRIES = 2500;
  let posted = -HURRIES;
  const due = new WeakMap();
  const RESTS = 60000;
  const AT_REST = 15000;
  let touchedAt = performance.now();
  ["pointerdown", "keydown", "visibilitychange"].forEach((kind) => document.addEventListener(kind, () => (touchedAt = performance.now())));
  // The longer nothing has come of it, the less often: a proof that takes ten seconds need not be asked for fifty times.
  const patience = (part, since) => {
    const own = Number(part.dataset.poll);
    // Where nobody has done anything for a minute and nothing is worked out, a look now and then is enough.
    if (own >= 2000 && performance.now() - touchedAt > RESTS) return Math.max(own, AT_REST);
    const wait = since < HURRIES ? Math.min(own, HURRY) : own;
    return wait < 1000 ? Math.min(800, wait + since / 10) : wait;
  };
  const ask = () => {
    const now = performance.now();
    if (document.visibilityState !== "visible" || asking) return;
    document.querySelectorAll("[data-poll]").forEach((part) => {
      if (!due.has(part)) due.set(part, now);
      if (now - due.get(part) < patience(part, now - posted)) return;
      due.set(part, now);
      htmx.trigger(part, "poll");
    });
  };
  setInterval(ask, 40);
  // What counts for nothing changes no sheets.
  let uncounted = false;
  document.addEventListener("zester:uncounted", () => (uncounted = true));
  document.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.requestConfig?.verb !== "post") return;
    if (!uncounted) {
      posted = performance.now();
      const from = undone ? posted - HURRY : posted + rest(event.detail.xhr) - HURRY;
      document.querySelectorAll("[data-poll]").forEach((part) => due.set(part, from));
    }
    uncounted = false;
  });

  // A part that is put in anew keeps the focus where it was, on what is the same there. And what has changed of it is
  // told to a screen reader: in one place that stays, since a live region that is put in anew says nothing.
  let at = null;
  const likes = (element) => {
    if (element.id) return `#${CSS.escape(element.id)}`;
    const name = ["href", "name", "aria-label", "data-piece"].find((each) => element.hasAttribute(each));
    return name ? `${element.localName}[${name}="${CSS.escape(element.getAttribute(name))}"]` : element.localName;
  };
  document.addEventListener("htmx:beforeSwap", (event) => {
    const focused = document.activeElement;
    if (!event.detail.target?.contains?.(focused) || !event.detail.target.id || focused === event.detail.target) return;
    const inside = likes(focused);
    at = { part: event.detail.target.id, inside, number: [...event.detail.target.querySelectorAll(inside)].indexOf(focused) };
  });
  const told = new Map();
  const tell = () => document.querySelectorAll("[data-tell]").forEach((part) => {
    const words = part.dataset.tell.replace(/\s+/g, " ").trim();
    const before = told.get(part.id);
    told.set(part.id, words);
    const place = document.getElementById("told");
    if (before !== undefined && before !== words && place) place.textContent = words;
  });
  document.addEventListener("htmx:afterSettle", () => {
    if (at && (!document.activeElement || document.activeElement === document.body)) {
      document.getElementById(at.part)?.querySelectorAll(at.inside)[at.number]?.focus({ preventScroll: true });
    }
    at = null;
    tell();
  });
  tell();

  // The change of each paper's sheets since this sitting began: since the class was opened in this tab.
  const since = (strip) => {
    const key = `zester-sheets-${strip.dataset.class}`;
    const papers = [...strip.querySelectorAll("[data-paper]")];
    const begun = JSON.parse(sessionStorage.getItem(key) ?? "null");
    if (!begun) {
      const settled = papers.length && papers.every((paper) => paper.dataset.sheets !== "");
      if (settled) sessionStorage.setItem(key, JSON.stringify(Object.fromEntries(papers.map((p) => [p.dataset.paper, Number(p.dataset.sheets)]))));
      return;
    }
    papers.forEach((paper) => {
      if (paper.dataset.sheets === "") return;
      const more = Number(paper.dataset.sheets) - (begun[paper.dataset.paper] ?? 0);
      const words = more > 0 ? `+${more}` : more < 0 ? `\u2212${-more}` : "";
      const place = paper.querySelector("[data-delta]");
      place.textContent = words;
      place.title = words ? `${words} since you opened this class` : "";
    });
  };
  document.addEventListener("htmx:afterSwap", () => {
    const strip = document.querySelector("#strip[data-class]");
    if (strip) since(strip);
  });

  // What was typed into a form that saves by itself before the scripts were there is saved now, not with the next key.
  document.addEventListener("DOMContentLoaded", () => {
    const field = document.activeElement;
    const early = field?.form?.hasAttribute("hx-post") && field.id !== "cut-list" && field.value !== field.defaultValue;
    if (early) field.dispatchEvent(new Event("input", { bubbles: true }));
  });

  // What takes a while says so on its button; back on the page it can be pressed again.
  document.addEventListener("submit", ({ submitter }) => {
    if (!submitter?.dataset.wait) return;
    submitter.dataset.said = submitter.textContent;
    setTimeout(() => Object.assign(submitter, { textContent: submitter.dataset.wait, disabled: true }));
  });
  addEventListener("pageshow", () => {
    document.querySelectorAll("[data-said]").forEach((button) => {
      Object.assign(button, { textContent: button.dataset.said, disabled: false });
    });
  });
})();
