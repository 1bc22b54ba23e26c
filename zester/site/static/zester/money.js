// Where the money of a class goes. The figures stand in the page; nothing is reckoned here.
"use strict";

document.addEventListener("DOMContentLoaded", () => {
  const ink = "#26231d", sea = "#2b6475";
  const data = document.getElementById("money-data"), canvas = document.getElementById("money-chart");
  if (!data || !canvas) return;
  const told = JSON.parse(data.textContent);
  const short = told.names.map((name) => (name.length > 28 ? `${name.slice(0, 27)}…` : name));
  const last = told.names.length - 1;
  new Chart(canvas, {
    type: "bar",
    data: {
      labels: short,
      datasets: [{
        data: told.amounts.map(Number), borderColor: ink, borderWidth: 1,
        // What is left is filled, what is spent is light: read without colour, too.
        backgroundColor: told.names.map((_, index) => (index === last ? sea : "#e6e0d2")),
      }],
    },
    options: {
      indexAxis: "y",
      animation: false,
      maintainAspectRatio: false,
      scales: { x: { title: { display: true, text: told.currency, color: ink }, ticks: { color: ink } }, y: { ticks: { color: ink, autoSkip: false } } },
      plugins: { legend: { display: false } },
    },
  });
});
