// Shares are drawn here, since styles may not stand in the page; the arrow keys go from station to station.
for (const bar of document.querySelectorAll(".share i")) {
  bar.style.width = `${bar.dataset.share}%`;
}

for (const journey of document.querySelectorAll("svg.journey")) {
  const stations = [...journey.querySelectorAll("a.station")];
  journey.addEventListener("keydown", (event) => {
    const at = stations.indexOf(document.activeElement);
    const next = event.key === "ArrowRight" ? at + 1 : event.key === "ArrowLeft" ? at - 1 : -1;
    if (at >= 0 && next >= 0 && next < stations.length) {
      stations[next].focus();
      event.preventDefault();
    }
  });
}
