// One step at a time: keys, timers that run on from step to step, minutes since the class began.
(() => {
  const page = document.querySelector("[data-teach]");
  if (!page) return;
  const own = `zester-teach-${page.dataset.teach}`;
  const list = page.querySelector("[data-timers]");
  const DAY = 12 * 3600 * 1000;

  function kept() {
    try {
      const found = JSON.parse(localStorage.getItem(own) || "{}");
      return found.began && Date.now() - found.began < DAY ? found : { began: Date.now(), timers: [] };
    } catch {
      return { began: Date.now(), timers: [] };
    }
  }

  function keep(state) {
    try {
      localStorage.setItem(own, JSON.stringify(state));
    } catch {
      // Without storage timers live as long as the page.
    }
  }

  let state = kept();
  keep(state);

  function left(timer) {
    return Math.round((timer.ends - Date.now()) / 1000);
  }

  function clock(seconds) {
    const most = Math.max(0, seconds);
    return `${Math.floor(most / 60)}:${String(most % 60).padStart(2, "0")}`;
  }

  function show() {
    const now = Math.floor((Date.now() - state.began) / 60000);
    page.querySelector("[data-now]").textContent = `${Math.floor(now / 60)}:${String(now % 60).padStart(2, "0")}`;
    page.querySelector("[data-clock]").hidden = false;
    if (list.children.length !== state.timers.length) {
      list.replaceChildren(
        ...state.timers.map((timer, at) => {
          const row = document.createElement("li");
          const text = document.createElement("span");
          const button = document.createElement("button");
          button.type = "button";
          button.textContent = "×";
          button.setAttribute("aria-label", `Take the timer away: ${timer.name}`);
          button.addEventListener("click", () => {
            state.timers.splice(at, 1);
            keep(state);
            list.replaceChildren();
            show();
          });
          row.append(text, " ", button);
          return row;
        }),
      );
    }
    state.timers.forEach((timer, at) => {
      const row = list.children[at];
      const seconds = left(timer);
      row.classList.toggle("up", seconds <= 0);
      const words = seconds <= 0 ? `${timer.name}: done` : `${timer.name}: ${clock(seconds)}`;
      if (row.firstChild.textContent !== words) row.firstChild.textContent = words;
    });
  }

  page.addEventListener("click", (event) => {
    const button = event.target.closest("[data-timer]");
    if (!button) return;
    state.timers.push({ name: button.dataset.timerName, ends: Date.now() + Number(button.dataset.timer) * 60000 });
    keep(state);
    show();
  });

  page.querySelector("[name=over]")?.addEventListener("click", () => {
    try {
      localStorage.removeItem(own);
    } catch {
      // Nothing was kept.
    }
  });

  document.addEventListener("keydown", (event) => {
    if (event.target.closest("input, textarea, select, dialog") || event.altKey || event.ctrlKey || event.metaKey) return;
    const on = ["ArrowRight", "PageDown"].includes(event.key);
    const back = ["ArrowLeft", "PageUp"].includes(event.key);
    const button = on ? page.querySelector("[data-on]") : back ? page.querySelector("[data-back]:not(:disabled)") : null;
    if (button) {
      event.preventDefault();
      button.click();
    }
  });

  show();
  setInterval(show, 1000);
})();
