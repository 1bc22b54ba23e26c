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
  return { stored, store, uuid, device, post };
})();
