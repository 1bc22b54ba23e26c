// What is kept for when there is no line (worker.js) is one account's: it goes when that signs out, or another comes.
"use strict";

(() => {
  const whose = document.body.dataset.user ?? "";
  const letGo = () => window.caches?.delete("zester-pages");
  try {
    if (localStorage.getItem("zester:user") !== whose) letGo();
    localStorage.setItem("zester:user", whose);
  } catch {
    letGo();
  }
  document.addEventListener("submit", (event) => {
    if (event.target.matches("[data-sign-out]")) letGo();
  });
})();
