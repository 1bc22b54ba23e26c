// The bench: one step at a time, by keys, tap or pedal. What is ticked waits in the browser until it is sent.
"use strict";

(() => {
  const body = document.body;
  const steps = [...document.querySelectorAll(".bench-step[data-step]:not(.bench-end)")];
  // Where papers are cut in one order: after how many steps of this one others come, and how far those are.
  const overs = [...document.querySelectorAll(".bench-over")];
  const far = {};
  const runs = {};
  document.querySelectorAll(".bench-over [data-known]").forEach((each) => {
    far[each.dataset.paper] = Number(each.dataset.known);
    runs[each.dataset.paper] = Number(each.dataset.number);
  });
  let stayed = -1;
  const end = document.querySelector(".bench-end");
  const run = Number(body.dataset.run);
  const shelf = `bench-${body.dataset.plan}`;
  // After a mishap the numbers of the steps go on.
  const first = Number(body.dataset.first);
  const seconds = steps.map((each) => Number(each.dataset.seconds));
  let done = Number(body.dataset.done);
  // Seconds by a clock that nobody sets.
  let last = performance.now();
  // What came before what, whatever clocks say: counted on from the highest that is known here.
  let turn = Number(body.dataset.turn);

  const { stored } = window.kept;
  const store = (key, value) => {
    if (!window.kept.store(key, value)) say("This browser keeps nothing: ticks are lost if the line is.", true);
  };

  const say = (words, isLost) => {
    const line = document.getElementById("line");
    line.textContent = words;
    line.classList.toggle("lost", Boolean(isLost));
  };

  // What was ticked on this device and did not arrive. Ticks of an ended run go too, in their order.
  const line = window.kept.line({
    shelf, ticks: body.dataset.ticks, state: body.dataset.state, say, every: 3000, heard: (state, queue) => heard(state, queue),
  });
  const mine = line.waiting().filter((tick) => tick.run === run);
  if (mine.length) done = Math.min(mine[mine.length - 1].done, steps.length);
  turn = Math.max(turn, ...mine.map((tick) => tick.turn || 0));

  const minutes = (left) => (left <= 0 ? "nothing left" : left < 90 ? "about a minute left" : `about ${Math.ceil(left / 60)} min left`);

  // The other paper that comes before the next step of this one, if any.
  const other = () => {
    const over = done === stayed ? null : overs.find((each) => Number(each.dataset.over) === done);
    const legs = over ? [...over.querySelectorAll("[data-until]")] : [];
    const leg = legs.find((each) => far[each.dataset.paper] < Number(each.dataset.until));
    overs.forEach((each) => { each.hidden = each !== over || !leg; });
    legs.forEach((each) => { each.hidden = each !== leg; });
    return leg;
  };

  const show = () => {
    const leg = other();
    steps.forEach((each, index) => { each.hidden = index !== done || Boolean(leg); });
    end.hidden = done < steps.length || Boolean(leg);
    document.getElementById("where").textContent = done < steps.length ? `Step ${first + done} of ${first + steps.length - 1}` : "All steps done";
    document.getElementById("left").textContent = minutes(seconds.slice(done).reduce((sum, each) => sum + each, 0));
    const bar = document.querySelector(".bench-progress");
    bar.setAttribute("aria-valuenow", done);
    bar.firstElementChild.style.width = `${steps.length ? (100 * done) / steps.length : 100}%`;
    document.querySelector("[data-back]").disabled = done === 0;
    document.querySelector("[data-next]").disabled = done >= steps.length || Boolean(leg);
    const now = leg || (done < steps.length ? steps[done].querySelector(".bench-words") : end);
    const words = [...now.querySelectorAll("p, li")].map((each) => each.textContent.replace(/\s+/g, " ").trim()).join(" ");
    document.getElementById("told").textContent = `${document.getElementById("where").textContent}. ${words}`;
    speak();
  };

  const tick = (to) => {
    // Another paper's turn: a key or the pedal goes there.
    const leg = to > done ? other() : null;
    if (leg) {
      leg.querySelector("[data-go]").click();
      return;
    }
    if (to < 0 || to > steps.length || to === done) return;
    const now = performance.now();
    const forward = to > done;
    done = to;
    const since = forward ? (now - last) / 1000 : 0;
    last = now;
    turn += 1;
    show();
    line.push({ run, done, turn, at: Date.now(), seconds: since });
  };

  const heard = (state, queue) => {
    if (state.run === run) turn = Math.max(turn, state.turn);
    // Ticked without a line, while somebody else said that something went wrong: the new steps do not know of it.
    const late = queue.filter((each) => each.run !== state.run && each.run === run).length;
    if (late && state.held === "cutting") store(`${shelf}-late`, late);
    if (state.held !== "cutting") {
      say(state.held === "cut" ? "This paper is booked as cut." : "Somebody has stopped cutting this paper.", true);
    } else if (state.run !== run || state.looking) {
      location.reload();
      return;
    } else if (!line.waiting().length && state.done !== done) {
      done = state.done;
      last = performance.now();
      say(`Somebody else is at step ${first + done} of this paper.`);
      show();
    }
    // Something went wrong with another paper of this order: its steps are others now, and come elsewhere.
    if (!queue.length && state.papers.some((each) => each.key in runs && each.run !== runs[each.key])) {
      location.reload();
      return;
    }
    let further = false;
    state.papers.forEach((each) => {
      if (each.key in far && far[each.key] !== each.done && far[each.key] !== Infinity) {
        far[each.key] = each.held === "cutting" ? each.done : Infinity;
        further = true;
      }
    });
    if (further) show();
    const others = state.papers.filter((each) => each.key !== body.dataset.paper && each.held === "cutting");
    document.getElementById("others").textContent = others.length > 3
      ? `${others.length} other papers are being cut`
      : others.map((each) => `${each.name}: ${each.done} of ${each.of}`).join(" · ");
  };

  // Keys, taps, the pedal
  const pedals = stored("bench-pedals", { next: "", back: "" });
  let choosing = "";
  const named = () => ["next", "back"].forEach((way) => {
    document.getElementById(`pedal-${way}`).textContent = pedals[way] ? `key “${pedals[way] === " " ? "Space" : pedals[way]}”` : "none";
  });
  document.addEventListener("keydown", (event) => {
    if (choosing) {
      event.preventDefault();
      if (event.key !== "Escape") {
        pedals[choosing] = event.key;
        if (pedals[choosing === "next" ? "back" : "next"] === event.key) pedals[choosing === "next" ? "back" : "next"] = "";
        store("bench-pedals", pedals);
      }
      document.getElementById("pedal-words").textContent = event.key === "Escape" ? "Nothing was chosen." : "Chosen. It works here from now on.";
      choosing = "";
      named();
      return;
    }
    if (document.querySelector("dialog[open]") || event.ctrlKey || event.metaKey || event.altKey) return;
    const onControl = event.target.closest("button, a, input, summary");
    if (event.key === pedals.next) { event.preventDefault(); tick(done + 1); return; }
    if (event.key === pedals.back) { event.preventDefault(); tick(done - 1); return; }
    if (onControl && (event.key === " " || event.key === "Enter")) return;
    if ([" ", "ArrowRight", "Enter", "PageDown"].includes(event.key)) { event.preventDefault(); if (!event.repeat) tick(done + 1); }
    if (["ArrowLeft", "Backspace", "PageUp"].includes(event.key)) { event.preventDefault(); if (!event.repeat) tick(done - 1); }
  });
  // A tapped button lets go, so that the next Space is not its own too; one that is reached by keys stays where it is.
  const pressed = (event, to) => {
    tick(to);
    if (event.detail) event.currentTarget.blur();
    else if (event.currentTarget.disabled) document.getElementById("main").focus();
  };
  document.querySelector("[data-next]").addEventListener("click", (event) => pressed(event, done + 1));
  document.querySelector("[data-back]").addEventListener("click", (event) => pressed(event, done - 1));
  document.querySelectorAll("[data-pedal]").forEach((button) => button.addEventListener("click", () => {
    choosing = button.dataset.pedal;
    document.getElementById("pedal-words").textContent = "Now press the pedal or a key. Esc leaves it as it is.";
  }));
  document.querySelector("[data-settings]").addEventListener("click", (event) => { named(); window.kept.open(document.getElementById("settings"), event); });
  document.querySelectorAll("[data-close]").forEach((button) => button.addEventListener("click", () => window.kept.close(button.closest("dialog"))));

  // What went wrong: the table is asked for when everything that was ticked has arrived.
  document.querySelector("[data-open-wrong]").addEventListener("click", async (event) => {
    const dialog = document.getElementById("wrong");
    const place = document.getElementById("wrong-choices");
    place.textContent = "Looking at what lies on the table…";
    window.kept.open(dialog, event);
    let trouble = await line.settle();
    let choices = null;
    if (!trouble) [choices, trouble] = await window.kept.piece(body.dataset.wrong);
    if (trouble) {
      place.textContent = `${trouble} Lay the spoiled part aside, go on with another pile, and say it afterwards.`;
      return;
    }
    place.innerHTML = choices;
    const form = place.querySelector("form");
    const counts = () => {
      const what = form.querySelector("[name=what]:checked");
      const most = what ? Number(what.dataset.count) : 0;
      form.querySelectorAll("[name=count]").forEach((each) => {
        if (each.hasAttribute("data-all")) each.value = String(most);
        else each.disabled = Boolean(what) && Number(each.value) > most;
        if (each.disabled) each.checked = false;
      });
    };
    form.addEventListener("change", counts);
    form.addEventListener("submit", () => { form.querySelector("[type=submit]").textContent = "Looking for another way…"; });
    place.querySelector("input")?.focus();
  });

  // What was ticked arrives first, so that the other bench knows of it.
  document.querySelectorAll("[data-go]").forEach((each) => each.addEventListener("click", async (event) => {
    event.preventDefault();
    await line.settle();
    location.assign(each.href);
  }));
  document.querySelectorAll("[data-stay]").forEach((each) => each.addEventListener("click", () => {
    stayed = done;
    show();
    document.getElementById("main").focus();
  }));

  // The voice
  const voice = document.getElementById("voice");
  voice.checked = stored("bench-voice", false);
  const speak = () => {
    if (!voice.checked || !("speechSynthesis" in window)) return;
    speechSynthesis.cancel();
    const step = other() || (done < steps.length ? steps[done].querySelector(".bench-words") : end);
    const words = [...step.querySelectorAll("p, li")].map((each) => each.textContent.trim()).join(". ").replace(/⁄/g, "/").replace(/\s+/g, " ");
    speechSynthesis.speak(new SpeechSynthesisUtterance(words));
  };
  voice.addEventListener("change", () => { store("bench-voice", voice.checked); if (voice.checked) speak(); else window.speechSynthesis?.cancel(); });
  if (!("speechSynthesis" in window)) { voice.disabled = true; voice.nextElementSibling.textContent += " – this browser has none"; }

  // The screen stays awake where the browser can.
  const awake = async () => {
    const words = document.getElementById("awake");
    if (!("wakeLock" in navigator)) { words.textContent = "This browser cannot keep the screen on: set its time-out longer for the evening."; return; }
    try {
      await navigator.wakeLock.request("screen");
      words.textContent = "The screen does not go dark while the bench is open.";
    } catch {
      words.textContent = "The screen may go dark: this device does not allow otherwise now.";
    }
  };
  document.addEventListener("visibilitychange", () => { if (!document.hidden) awake(); });

  show();
  const late = stored(`${shelf}-late`, 0);
  if (late) {
    say(`${late} ticked here came after somebody said that something went wrong: compare the table with these steps.`, true);
    store(`${shelf}-late`, 0);
  }
  awake();
  line.begin();
})();
