// The token bench: the raster of bits, and the search for a secret that can be watched and ended.
import { lines } from "./ndjson.js";

const raster = document.getElementById("raster");
if (raster) {
  const rows = raster.dataset.rows.split(" ");
  const scale = Math.max(1, Math.min(4, Math.floor(420 / raster.width)));
  const [width, height] = [raster.width, raster.height];
  const draw = () => {
    const colours = getComputedStyle(document.documentElement);
    raster.width = width * scale;
    raster.height = height * scale;
    const context = raster.getContext("2d");
    context.fillStyle = colours.getPropertyValue("--sheet");
    context.fillRect(0, 0, raster.width, raster.height);
    context.fillStyle = colours.getPropertyValue("--ink");
    rows.forEach((row, y) => {
      for (let x = 0; x < row.length; x++) {
        if (row[x] === "1") {
          context.fillRect(x * scale, y * scale, scale, scale);
        }
      }
    });
  };
  draw();
  new MutationObserver(draw).observe(document.documentElement, { attributes: true, attributeFilter: ["data-theme"] });
}

const form = document.getElementById("secret");
const [start, stop, share, text] = ["search-start", "search-stop", "search-share", "search-text"].map((id) => document.getElementById(id));
let search = null;

function tell(line) {
  const tried = (line.tried ?? 0).toLocaleString("en").replaceAll(",", " ");
  if (line.error) {
    text.textContent = line.error;
  } else if (!line.over) {
    text.textContent = `${tried} tried`;
  } else if (typeof line.secret === "string") {
    text.replaceChildren("Its secret is ", Object.assign(document.createElement("code"), { textContent: line.secret || "(empty)" }), `, found with ${tried} guesses: anybody can make tokens.`);
  } else {
    text.textContent = line.complete ? `Not among the ${tried} secrets that were tried.` : `Not among the ${tried} that were tried until the time was up.`;
  }
}

start?.addEventListener("click", async () => {
  search = new AbortController();
  start.hidden = true;
  stop.hidden = share.hidden = false;
  stop.focus();
  try {
    await lines(await fetch("?handler=Search", { method: "POST", body: new FormData(form), signal: search.signal }), tell);
  } catch (problem) {
    text.textContent = problem.name === "AbortError" ? "Cancelled." : "The search broke off; try again.";
  } finally {
    search = null;
    start.hidden = false;
    stop.hidden = share.hidden = true;
    start.focus();
  }
});
stop?.addEventListener("click", () => search?.abort());
