// The findings by keyboard, judged as a selection, and filters that take effect when they change.
import { isTyping } from "./bellator.js";
import "./live.js";

const rows = [...document.querySelectorAll("[data-row]")];
const work = document.getElementById("work");
const selected = document.getElementById("selected");
const verdict = document.getElementById("verdict");
const reason = document.getElementById("reason");
const until = document.getElementById("until-label");
let at = -1;

function go(index) {
  if (rows.length === 0) {
    return;
  }
  rows[at]?.classList.remove("at");
  at = Math.max(0, Math.min(rows.length - 1, index));
  rows[at].classList.add("at");
  rows[at].querySelector("a[data-go]").focus({ preventScroll: true });
  rows[at].scrollIntoView({ block: "nearest" });
}

function tell() {
  const all = work.querySelector("input[name=all]")?.checked;
  const chosen = [...work.querySelectorAll("[data-row] input[type=checkbox]:checked")];
  const count = chosen.reduce((sum, box) => sum + (box.dataset.count ? Number(box.dataset.count) : 1), 0);
  selected.textContent = all ? "All of this choice selected" : count === 0 ? "Nothing selected" : count === 1 ? "1 finding selected" : `${count} findings selected`;
  until.hidden = verdict.value !== "risk accepted";
}

work?.addEventListener("change", (event) => {
  // A cause stands for all its ways.
  if (event.target.name === "cause") {
    for (const box of event.target.closest("[data-row]").querySelectorAll("input[name=finding]")) {
      box.checked = false;
      box.disabled = event.target.checked;
    }
  }
  tell();
});
work?.addEventListener("keydown", (event) => {
  if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) {
    event.preventDefault();
    work.requestSubmit();
  }
});
if (work) {
  tell();
}

const keys = { c: "confirmed", f: "false positive", a: "risk accepted", m: "fixed" };
document.addEventListener("keydown", (event) => {
  const box = event.target.type === "checkbox";
  if (isTyping(event) && !(box && !event.ctrlKey && !event.metaKey && !event.altKey && localStorage.getItem("shortcuts") !== "off")) {
    return;
  }
  if (event.key === "j") {
    go(at + 1);
  } else if (event.key === "k") {
    go(at - 1);
  } else if (event.key === "x" && rows[at]) {
    rows[at].querySelector("input[type=checkbox]").click();
  } else if (event.key === "o" && rows[at]) {
    const ways = rows[at].querySelector("details");
    if (ways) {
      ways.open = !ways.open;
    }
  } else if (event.key === "z") {
    document.getElementById("undo")?.requestSubmit();
  } else if (keys[event.key] && work) {
    event.preventDefault();
    if (rows[at] && !work.querySelector("[data-row] input[type=checkbox]:checked")) {
      rows[at].querySelector("input[type=checkbox]").click();
    }
    verdict.value = keys[event.key];
    tell();
    reason.focus();
  }
});

for (const choice of document.querySelectorAll("#filters select, #filters input[type=checkbox]")) {
  choice.addEventListener("change", () => choice.form.requestSubmit());
}
