// Yield and what was left, class by class. The figures stand in the page; nothing is reckoned here.
"use strict";

document.addEventListener("DOMContentLoaded", () => {
  const ink = "#26231d", sea = "#2b6475";
  const data = document.getElementById("log-data"), canvas = document.getElementById("log-chart");
  if (!data || !canvas) return;
  const told = JSON.parse(data.textContent);
  new Chart(canvas, {
    data: {
      labels: told.names,
      datasets: [
        {
          type: "line", label: "Yield, %", data: told.used.map((share) => (share === null ? null : Number(share))), yAxisID: "used",
          borderColor: ink, backgroundColor: ink, pointRadius: 5, borderWidth: 2,
        },
        { type: "bar", label: `Left, ${told.currency}`, data: told.left.map(Number), yAxisID: "left", borderColor: sea, borderWidth: 2, backgroundColor: "#e6e0d2" },
      ],
    },
    options: {
      animation: false,
      maintainAspectRatio: false,
      scales: {
        x: { ticks: { color: ink } },
        used: { position: "left", min: 0, max: 100, title: { display: true, text: "yield, %", color: ink }, ticks: { color: ink } },
        left: { position: "right", title: { display: true, text: `left, ${told.currency}`, color: sea }, grid: { drawOnChartArea: false }, ticks: { color: sea } },
      },
      plugins: { legend: { position: "top", labels: { color: ink, usePointStyle: true } } },
    },
  });
});
