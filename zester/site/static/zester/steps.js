// The order of a card's steps: moved by drag, by buttons and by keys; kept when the form is sent.
(() => {
  const form = document.getElementById("own-steps");
  if (!form) return;
  const list = form.querySelector("ol");
  const told = form.querySelector("[data-moved]");
  const rows = () => [...list.children];

  function move(row, down) {
    const other = down ? row.nextElementSibling : row.previousElementSibling;
    if (!other) return;
    down ? other.after(row) : other.before(row);
    told.textContent = `Step ${rows().indexOf(row) + 1} of ${rows().length}`;
    form.dataset.changed = "true";
  }

  form.addEventListener("click", (event) => {
    const button = event.target.closest("button[name=move]");
    if (button) {
      event.preventDefault();
      move(button.closest("[data-step]"), button.value.startsWith("down"));
      button.focus();
    }
    if (event.target.closest("[data-add-step]")) {
      const row = document.getElementById("own-step").content.firstElementChild.cloneNode(true);
      const taken = rows().map((each) => Number((each.querySelector("[name=step]").value.match(/^own-(\d+)$/) || [])[1] || 0));
      const key = `own-${Math.max(0, ...taken) + 1}`;
      for (const field of row.querySelectorAll("[name], button")) {
        if (field.name === "step") field.value = key;
        else if (field.name === "move") field.value = field.value.replace("own-0", key);
        else field.name = field.name.replace("own-0", key);
      }
      list.append(row);
      row.querySelector("[name^=say]").focus();
    }
  });

  form.addEventListener("keydown", (event) => {
    const row = event.target.closest("[data-step]");
    if (row && event.altKey && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
      event.preventDefault();
      const at = document.activeElement;
      move(row, event.key === "ArrowDown");
      at.focus();
    }
  });

  let dragged = null;
  form.addEventListener("pointerdown", (event) => {
    const grip = event.target.closest("[data-grip]");
    if (!grip) return;
    event.preventDefault();
    dragged = grip.closest("[data-step]");
    dragged.classList.add("dragged");
    grip.setPointerCapture(event.pointerId);
  });
  form.addEventListener("pointermove", (event) => {
    if (!dragged) return;
    const over = rows().find((row) => {
      const box = row.getBoundingClientRect();
      return row !== dragged && event.clientY >= box.top && event.clientY <= box.bottom;
    });
    if (!over) return;
    const box = over.getBoundingClientRect();
    const below = rows().indexOf(over) > rows().indexOf(dragged);
    if (below ? event.clientY > box.top + box.height / 2 : event.clientY < box.top + box.height / 2) {
      below ? over.after(dragged) : over.before(dragged);
      form.dataset.changed = "true";
    }
  });
  for (const end of ["pointerup", "pointercancel"]) {
    form.addEventListener(end, () => {
      if (dragged) dragged.classList.remove("dragged");
      dragged = null;
    });
  }
  form.querySelector("[data-add-step]").hidden = false;
})();
