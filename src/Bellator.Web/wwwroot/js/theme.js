// Runs before the page is drawn, so that it does not flash in the other colours.
(() => {
  const kept = localStorage.getItem("theme");
  const dark = kept ? kept === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.theme = dark ? "dark" : "light";
})();
