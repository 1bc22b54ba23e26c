// What is ticked waits in the browser until it is sent: it outlives a closed lid and a lost line.
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

  // Send a queue: the answer, null if it was refused, undefined if nobody is signed in. Throws where there is no line.
  const post = async (url, state, queue) => {
    const answer = await fetch(url, {
      method: "POST",
      body: JSON.stringify(queue),
      headers: { "Content-Type": "application/json", "X-CSRFToken": document.querySelector("meta[name=csrf-token]").content },
    });
    if (answer.redirected || answer.status === 401 || answer.status === 403) {
      // Signed in again, this page needs another key for what it sends: what waits is kept while it is loaded anew.
      const again = await fetch(state, { headers: { "X-Requested-With": "fetch" } });
      if (again.ok && !again.redirected) location.reload();
      return undefined;
    }
    if (!answer.ok && answer.status !== 400) throw new Error("not kept");
    return answer.ok ? answer.json() : null;
  };

  // Ticks that are sent while there is a line, first in, first out; where nothing waits, a look at how all stands.
  // `heard` is told each answer, and what it answers if that was a queue.
  const line = ({ shelf, ticks, state, say, heard, every }) => {
    const key = `${shelf}-waiting`;
    let sending = false;
    let lost = false;
    let pushed = 0;
    const waiting = () => stored(key, []);
    const keep = (queue) => {
      if (!store(key, queue)) say("This browser keeps nothing: ticks are lost if the line is.", true);
    };
    const back = (words) => {
      if (lost) say(words);
      lost = false;
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
          lost = true;
          say("Sign in again in another tab; what you tick is kept here.", true);
          return false;
        }
        const gone = new Set(queue.map((each) => each.key));
        keep(waiting().filter((each) => !gone.has(each.key)));
        if (answer) heard(answer, queue);
        back("Back on the line; everything is sent.");
        return true;
      } catch {
        lost = true;
        say(`No line: ${waiting().length} ticked and kept here, sent later.`, true);
        return false;
      } finally {
        sending = false;
        if (!lost && waiting().length) send();
      }
    };
    // Two tabs of one browser have one queue: they send in turns.
    const send = async () => {
      if (sending || !waiting().length) return true;
      sending = true;
      return navigator.locks ? navigator.locks.request(shelf, sendAll) : sendAll();
    };
    const listen = async () => {
      if (document.hidden || !(await send()) || waiting().length) return;
      const before = pushed;
      try {
        const answer = await fetch(state, { headers: { Accept: "application/json", "X-Requested-With": "fetch" } });
        if (!answer.ok || answer.redirected) return;
        const now = await answer.json();
        // What was asked before a tick knows nothing of it.
        if (before === pushed) heard(now, []);
        back("Back on the line.");
      } catch {
        lost = true;
        say("No line: go on, what you tick is kept here.", true);
      }
    };
    const begin = () => {
      window.addEventListener("online", send);
      document.addEventListener("visibilitychange", listen);
      listen();
      setInterval(listen, every);
    };
    return { waiting, push, send, begin };
  };
  return { stored, store, line };
})();
