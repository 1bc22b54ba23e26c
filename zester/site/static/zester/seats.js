// The chart of sheets and cost against people. The figures stand in the page; nothing is reckoned here.
"use strict";

(() => {
  const ink = "#26231d", zest = "#d9891a", sea = "#2b6475";

  const draw = () => {
    const data = document.getElementById("seats-data"), canvas = document.getElementById("seats-chart");
    if (!data || !canvas || canvas.dataset.drawn) return;
    canvas.dataset.drawn = "yes";
    const told = JSON.parse(data.textContent);
    const next = told.now + told.free + 1;
    const free = (index) => index >= told.now && index < next;
    new Chart(canvas, {
      data: {
        labels: told.people,
        datasets: [
          {
            type: "line", stepped: "before", label: "Sheets", data: told.sheets, yAxisID: "sheets", borderColor: ink,
            backgroundColor: ink, borderWidth: 2,
            pointRadius: told.people.map((_, index) => (free(index) || index === next ? 6 : 2)),
            pointStyle: told.people.map((_, index) => (index === next ? "rectRot" : "circle")),
            pointBackgroundColor: told.people.map((_, index) => (free(index) ? zest : ink)),
          },
          {
            type: "line", stepped: "before", label: "Cost of packs", data: told.cost.map(Number), yAxisID: "cost",
            borderColor: sea, backgroundColor: sea, borderDash: [5, 4], borderWidth: 2, pointRadius: 2,
          },
        ],
      },
      options: {
        animation: false,
        maintainAspectRatio: false,
        interaction: { mode: "index", intersect: false },
        scales: {
          x: { title: { display: true, text: `people; ${told.people[told.now]} come now, filled marks: the same sheets serve them; the diamond: the next step`, color: ink }, ticks: { color: ink } },
          sheets: { position: "left", title: { display: true, text: "sheets", color: ink }, ticks: { precision: 0, color: ink } },
          cost: { position: "right", title: { display: true, text: `cost of packs, ${told.currency}`, color: sea }, grid: { drawOnChartArea: false }, ticks: { color: sea } },
        },
        plugins: { legend: { position: "top", labels: { color: ink, usePointStyle: true } } },
      },
    });
  };

  document.addEventListener("DOMContentLoaded", draw);
  document.addEventListener("htmx:afterSwap", draw);
})();
