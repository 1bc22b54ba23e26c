// Small helpers; every page works without them except where it says so.
(() => {
  "use strict";

  // ? shows the keys; 1 to 5 go to the stations. Not while typing.
  const typing = (target) => target.closest("input, textarea, select, [contenteditable]");
  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
    const keys = document.getElementById("keys");
    if (event.key === "?" && keys) {
      event.preventDefault();
      keys.showModal();
    } else if (/^[1-5]$/.test(event.key) && !document.querySelector("dialog[open]")) {
      document.querySelectorAll(".thread a")[Number(event.key) - 1]?.click();
    } else if (event.key === "f" && !document.querySelector("dialog[open]")) {
      document.querySelector("[data-fit]:not(:disabled)")?.click();
    }
  });
  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-show-keys]")) document.getElementById("keys").showModal();
    if (event.target.closest("[data-print]")) window.print();
  });

  // htmx sends the CSRF token of the page with everything it posts.
  document.addEventListener("htmx:configRequest", (event) => {
    event.detail.headers["X-CSRFToken"] = document.querySelector("meta[name=csrf-token]").content;
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
  const HURRY = 120;
  let hurryUntil = 0;
  const due = new WeakMap();
  const ask = () => {
    const now = performance.now();
    if (document.visibilityState !== "visible") return;
    document.querySelectorAll("[data-poll]").forEach((part) => {
      const wait = Math.min(Number(part.dataset.poll), now < hurryUntil ? HURRY : Infinity);
      const since = due.get(part) ?? now;
      if (!due.has(part)) due.set(part, now);
      if (now - since < wait) return;
      due.set(part, now);
      htmx.trigger(part, "poll");
    });
  };
  setInterval(ask, 40);
  document.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.requestConfig?.verb === "post") hurryUntil = performance.now() + 2500;
  });

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
})();
