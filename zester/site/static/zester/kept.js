// What bench and packing table share: ticks wait in the browser until they are sent, and outlive a closed lid and a lost line.
"use strict";

window.kept = (() => {
  const stored = (key, otherwise) => {
    try {
      const value = localStorage.getItem(key);
      return value === null ? otherwise : JSON.parse(value);
    } catch {
      return otherwise;
    }
  };
  // Whether this browser keeps anything.
  const store = (key, value) => {
    try {
      localStorage.setItem(key, JSON.stringify(value));
      return true;
    } catch {
      return false;
    }
  };
  // crypto.randomUUID is only there over HTTPS and on one's own machine.
  const uuid = () => {
    if (crypto.randomUUID) return crypto.randomUUID();
    const bytes = crypto.getRandomValues(new Uint8Array(16));
    bytes[6] = (bytes[6] & 15) | 64;
    bytes[8] = (bytes[8] & 63) | 128;
    const hex = [...bytes].map((each) => each.toString(16).padStart(2, "0")).join("");
    return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join("-");
  };
  const device = stored("bench-device", null) || `device ${Math.floor(Math.random() * 900 + 100)}`;
  store("bench-device", device);

  // A line that hangs is a lost one.
  const patience = () => AbortSignal.timeout?.(30000);
  const look = (url) => fetch(url, { headers: { "X-Requested-With": "fetch" }, signal: patience() });

  // Send a queue: the answer, null if it was refused, undefined if nobody is signed in. Throws where there is no line.
  const post = async (url, state, queue) => {
    const answer = await fetch(url, {
      // What arrives twice is known by its key.
      signal: patience(),
      method: "POST",
      body: JSON.stringify(queue),
      headers: { "Content-Type": "application/json", "X-CSRFToken": document.querySelector("meta[name=csrf-token]").content },
    });
    if (answer.redirected || answer.status === 401 || answer.status === 403) {
      // Signed in again, this page needs another key for what it sends: what waits is kept while it is loaded anew.
      const again = await look(state);
      if (again.ok && !again.redirected) location.reload();
      return undefined;
    }
    // Closed meanwhile: the page says so, and what was ticked is not so.
    if (answer.status === 409) location.reload();
    if (!answer.ok && ![400, 409].includes(answer.status)) throw new Error("not kept");
    return answer.ok ? answer.json() : null;
  };

  const NO_LINE = "There is no line now.";
  // Kept by the worker (worker.js): how old what is shown is.
  const since = Number(document.body.dataset.kept ?? 0);
  const age = () => {
    if (!since) return "";
    const old = Math.round((Date.now() - since) / 60000);
    const at = new Date(since).toLocaleString([], { weekday: "short", hour: "2-digit", minute: "2-digit" });
    return ` What is shown is ${old < 90 ? `${old} min` : `${Math.round(old / 60)} hours`} old, of ${at}.`;
  };
  const RESTS = 60000;
  const AT_REST = 15000;
  const SIGNED_OUT = "You are signed out here: sign in again in another tab.";
  // Ticks that are sent while there is a line, first in, first out; where nothing waits, a look at how all stands.
  // `heard` is told each answer, and what it answers if that was a queue. `settle` comes to an end when nothing waits, or
  // with the words why it cannot be sent.
  const line = ({ shelf, ticks, state, say, heard, every }) => {
    const key = `${shelf}-waiting`;
    let sending = null;
    let lost = "";
    let pushed = 0;
    const waiting = () => stored(key, []);
    const keep = (queue) => {
      if (!store(key, queue)) say("This browser keeps nothing: ticks are lost if the line is.", true);
    };
    const back = (words) => {
      if (lost) say(words);
      lost = "";
    };
    const push = (tick) => {
      const full = { key: uuid(), device, ...tick };
      pushed += 1;
      keep([...waiting(), full]);
      send();
      return full.key;
    };
    const sendAll = async () => {
      const queue = waiting();
      try {
        if (!queue.length) return true;
        const answer = await post(ticks, state, queue);
        if (answer === undefined) {
          // It is tried again with the next look, not at once.
          lost = SIGNED_OUT;
          say("Sign in again in another tab; what you tick is kept here.", true);
          return false;
        }
        const gone = new Set(queue.map((each) => each.key));
        keep(waiting().filter((each) => !gone.has(each.key)));
        if (answer) heard(answer, queue);
        back("Back on the line; everything is sent.");
        return true;
      } catch {
        lost = NO_LINE;
        say(`No line: ${waiting().length} ticked and kept here, sent later.${age()}`, true);
        return false;
      }
    };
    // Two tabs of one browser have one queue: they send in turns.
    const send = async () => {
      if (!sending && !waiting().length) return true;
      sending ||= (navigator.locks ? navigator.locks.request(shelf, sendAll) : sendAll()).finally(() => {
        sending = null;
        if (!lost && waiting().length) send();
      });
      return sending;
    };
    const settle = async () => {
      while (sending || waiting().length) if (!(await send())) return lost;
      return "";
    };
    const listen = async () => {
      if (document.hidden || !(await send()) || waiting().length) return;
      const before = pushed;
      try {
        const answer = await look(state);
        if (!answer.ok || answer.redirected) return;
        const now = await answer.json();
        // What was asked before a tick knows nothing of it.
        if (before === pushed) heard(now, []);
        back("Back on the line.");
        // What was kept may be old; what is there now is shown.
        if (since) location.reload();
      } catch {
        lost = NO_LINE;
        say(`No line: go on, what you tick is kept here.${age()}`, true);
      }
    };
    const begin = () => {
      window.addEventListener("online", send);
      document.addEventListener("visibilitychange", listen);
      listen();
      // Where nobody has done anything for a minute a look now and then is enough.
      let heardAt = performance.now();
      ["pointerdown", "keydown", "visibilitychange"].forEach((kind) => document.addEventListener(kind, () => {
        heardAt = performance.now();
      }));
      let looked = performance.now();
      setInterval(() => {
        const now = performance.now();
        if (now - looked < (now - heardAt > RESTS ? AT_REST : every)) return;
        looked = now;
        listen();
      }, 500);
    };
    return { waiting, push, settle, begin };
  };
  // A dialog gives the focus back to what had it. Of a tapped button the next Space would open it again: that Space is
  // meant for the next step.
  const open = (dialog, event) => {
    if (event.detail) event.currentTarget.blur();
    dialog.addEventListener("close", () => leave(dialog), { once: true });
    dialog.showModal();
  };
  // What was pressed in a dialog has the focus until the next frame is drawn, though it is gone: on a slow machine the
  // next step's key would go there, and be lost.
  const leave = (dialog) => {
    if (dialog.contains(document.activeElement)) document.activeElement.blur();
  };
  const close = (dialog) => {
    dialog.close();
    leave(dialog);
  };
  // A piece of a page; or, the other way round, why there is none.
  const piece = async (url) => {
    try {
      const answer = await look(url);
      if (answer.redirected || answer.status === 401) return [null, SIGNED_OUT];
      return answer.ok ? [await answer.text(), ""] : [null, "Zester could not answer: try again in a moment."];
    } catch {
      return [null, NO_LINE];
    }
  };
  // The worker keeps this page, what draws it, and the pages it leads to, so that they open without a line.
  // A page that the worker itself has fetched it has kept already.
  const fetched = Boolean(navigator.serviceWorker?.controller);
  const toKeep = async () => {
    if (!navigator.serviceWorker) return;
    try {
      await navigator.serviceWorker.register("/worker.js");
      const { active } = await navigator.serviceWorker.ready;
      const drawn = performance.getEntriesByType("resource").map((each) => each.name).filter((url) => url.includes("/static/"));
      const onward = [...document.querySelectorAll("a[data-keep]")].map((each) => each.getAttribute("href"));
      const here = fetched ? [] : [location.pathname];
      active.postMessage({ assets: [...new Set(drawn)], pages: [...here, ...onward] });
    } catch {
      // No secure line, or a browser that keeps nothing: ticks still wait in the page.
    }
  };
  window.addEventListener("load", toKeep);
  return { stored, store, line, open, close, piece };
})();
