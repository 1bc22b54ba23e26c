// The casting table: every choice is a move, sent as it is made; sheets can be dragged to a letter.
(() => {
  // One move after the other: each answer is the whole table.
  let moves = Promise.resolve();
  const send = (form, values) => {
    const token = form.querySelector("[name=csrfmiddlewaretoken]").value;
    const address = form.dataset.moves;
    const sent = { target: "#casting", swap: "outerHTML", values: { ...values, csrfmiddlewaretoken: token } };
    // The first move of all begins a casting, and the next ones go to that.
    moves = moves.then(() => window.htmx.ajax("POST", document.querySelector("#casting [data-moves]")?.dataset.moves ?? address, sent)).catch(() => {});
  };
  document.addEventListener("change", (event) => {
    const form = event.target.closest("[data-moves]");
    if (!form) return;
    if (event.target.type === "radio") send(form, { act: "letter", letter: event.target.name.slice(7), paper: event.target.value });
    if (event.target.dataset.stock) send(form, { act: "letter", letter: event.target.dataset.stock, paper: event.target.value });
    if (event.target.name === "piece") send(form, { act: "piece", handle: event.target.dataset.handle, paper: event.target.value });
  });
  document.addEventListener("submit", (event) => {
    const form = event.target.closest("[data-moves]");
    const button = event.submitter;
    if (!form || !button) return;
    event.preventDefault();
    if (button.name === "swap") send(form, { act: "swap", letter: form.elements.one.value, with: form.elements.other.value });
    else send(form, { act: button.name, what: button.value });
  });
  // What is open stays open when the table is drawn anew.
  let open = [];
  document.addEventListener("htmx:beforeSwap", () => { open = [...document.querySelectorAll("#casting details[open]")].map((each) => each.id); });
  document.addEventListener("htmx:afterSwap", () => open.forEach((id) => document.getElementById(id)?.setAttribute("open", "")));
  // A sheet that is dragged to a letter is cast as it.
  let dragged = "";
  const column = (event) => event.target.closest?.("[data-letter]");
  document.addEventListener("dragstart", (event) => {
    dragged = event.target.closest?.("[data-sheet]")?.dataset.sheet ?? "";
    event.dataTransfer?.setData("text/plain", dragged);
  });
  document.addEventListener("dragover", (event) => {
    if (!dragged || !column(event)) return;
    event.preventDefault();
    column(event).classList.add("dropping");
  });
  document.addEventListener("dragleave", (event) => column(event)?.classList.remove("dropping"));
  document.addEventListener("drop", (event) => {
    const letter = column(event);
    if (!dragged || !letter) return;
    event.preventDefault();
    document.getElementById(`cast-${letter.dataset.letter}-${dragged}`)?.click();
    dragged = "";
  });
  document.addEventListener("keydown", (event) => {
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z" || event.target.matches("input[type=text], textarea")) return;
    const button = document.getElementById(event.shiftKey ? "cast-redo" : "cast-undo");
    if (!button) return;
    event.preventDefault();
    button.click();
  });
})();
