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
})();
