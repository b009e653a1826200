// One finding by keyboard: a letter chooses a verdict, j and k go to the neighbours, n and p walk the steps of the trace.
import { isTyping } from "./bellator.js";
import "./live.js";

const links = [...document.querySelectorAll("#neighbours li a")];
const current = links.findIndex((link) => link.getAttribute("aria-current") === "page");
const steps = [...document.querySelectorAll(".trace > li")];
let step = -1;

links[current]?.scrollIntoView({ block: "nearest" });
for (const mark of document.querySelectorAll(".stop mark")) {
  const pre = mark.closest("pre");
  if (mark.offsetLeft + mark.offsetWidth > pre.clientWidth) {
    pre.scrollLeft = mark.offsetLeft - 60;
  }
}

document.getElementById("reason")?.addEventListener("keydown", (event) => {
  if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) {
    event.preventDefault();
    event.target.form.requestSubmit();
  }
});

for (const used of document.querySelectorAll("[data-reason]")) {
  used.addEventListener("click", () => {
    document.getElementById("reason").value = used.dataset.reason;
    document.getElementById("reason").focus();
  });
}

const until = document.querySelector("#verdict .until");
function showUntil() {
  until.hidden = document.querySelector("#verdict input[name=verdict]:checked")?.value !== "risk accepted";
}
document.getElementById("verdict")?.addEventListener("change", showUntil);
if (until) {
  showUntil();
}

document.addEventListener("keydown", (event) => {
  if (isTyping(event)) {
    return;
  }
  if (event.key === "j" || event.key === "k") {
    links[current + (event.key === "j" ? 1 : -1)]?.click();
    return;
  }
  if (event.key === "n" || event.key === "p") {
    step = Math.max(0, Math.min(steps.length - 1, step + (event.key === "n" ? 1 : -1)));
    steps[step].focus();
    return;
  }
  const choice = document.querySelector(`#verdict input[data-key="${CSS.escape(event.key)}"]`);
  if (choice) {
    event.preventDefault();
    choice.checked = true;
    showUntil();
    document.getElementById("reason").focus();
  }
});
