// The bench for stored passwords: results come into the page without losing the chosen file, and a search can be watched and ended.
import { lines } from "./ndjson.js";

const form = document.getElementById("values");
const result = document.getElementById("result");
let search = null;

function post(more = {}) {
  const data = new FormData(form);
  for (const [name, value] of Object.entries(more)) {
    data.set(name, value);
  }
  return { method: "POST", body: data, headers: { "X-Requested-With": "bellator" } };
}

async function look() {
  search?.abort();
  result.setAttribute("aria-busy", "true");
  try {
    const answer = await fetch("?handler=Rate", post());
    if (!answer.ok) {
      throw new Error(answer.status === 413 ? "The file is too large." : `The server answered ${answer.status}.`);
    }
    result.innerHTML = await answer.text();
  } catch (problem) {
    result.replaceChildren(Object.assign(document.createElement("p"), { className: "problem", role: "alert", textContent: problem.message }));
  } finally {
    result.removeAttribute("aria-busy");
  }
}

form?.addEventListener("submit", (event) => {
  if (event.submitter?.hasAttribute("formaction")) {
    return;
  }
  event.preventDefault();
  look();
});
result?.addEventListener("change", (event) => {
  if (event.target.matches("select")) {
    look();
  }
});

// A new file has columns of its own.
document.getElementById("table")?.addEventListener("change", () => {
  result.querySelector(".choosing")?.remove();
  look();
});

const units = [[1, "second", "seconds"], [60, "minute", "minutes"], [3600, "hour", "hours"], [86400, "day", "days"], [31557600, "year", "years"]];

function say(seconds) {
  if (!(seconds >= 1)) {
    return Number.isNaN(seconds) ? "" : "less than a second";
  }
  if (seconds >= 1e6 * 31557600) {
    return "more than a million years";
  }
  const [of, one, many] = units.findLast(([size]) => seconds >= size);
  const number = seconds / of;
  return number < 1.5 ? `1 ${one}` : `${Math.round(number).toLocaleString("en").replaceAll(",", " ")} ${many}`;
}

result?.addEventListener("input", (event) => {
  if (!event.target.matches(".rate, #alphabet, #length")) {
    return;
  }
  const count = Number(document.getElementById("alphabet").value) ** Number(document.getElementById("length").value);
  for (const row of result.querySelectorAll("table.schemes tbody tr")) {
    const rate = row.querySelector(".rate");
    if (rate) {
      row.querySelector(".time").textContent = say(count / Number(rate.value));
    }
  }
  result.querySelector("table.schemes th:last-child").textContent = `${document.getElementById("length").value} of ${document.getElementById("alphabet").value} signs`;
});

function tell(line) {
  const text = document.getElementById("search-text");
  const share = document.getElementById("search-share");
  if (line.error) {
    text.textContent = line.error;
    return;
  }
  if (!line.over) {
    share.value = line.total ? line.tried / line.total : 0;
    text.textContent = `${line.tried.toLocaleString("en").replaceAll(",", " ")} guesses, ${line.found} found`;
    return;
  }
  text.textContent = `${line.passwords.length} found with ${line.tried.toLocaleString("en").replaceAll(",", " ")} guesses in ${line.seconds} s${line.ended ? `; it ended because ${line.ended}` : ""}.`;
  const list = document.getElementById("search-found");
  list.replaceChildren(...line.passwords.map((found) => {
    result.querySelector(`.person[data-row="${found.index}"]`)?.classList.add("found");
    const item = document.createElement("li");
    const password = Object.assign(document.createElement("code"), { textContent: found.password });
    item.append(`${found.owner}: `, password, found.how ? ` (${found.how})` : "");
    return item;
  }));
}

async function run() {
  const [start, stop, share] = ["search-start", "search-stop", "search-share"].map((id) => document.getElementById(id));
  search = new AbortController();
  start.hidden = true;
  stop.hidden = share.hidden = false;
  stop.focus();
  try {
    const answer = await fetch("?handler=Search", { ...post({ seconds: document.getElementById("seconds").value }), signal: search.signal });
    await lines(answer, tell);
  } catch (problem) {
    document.getElementById("search-text").textContent = problem.name === "AbortError" ? "Cancelled." : "The search broke off; try again.";
  } finally {
    search = null;
    start.hidden = false;
    stop.hidden = share.hidden = true;
    start.focus();
  }
}

result?.addEventListener("click", (event) => {
  if (event.target.id === "search-start") {
    run();
  } else if (event.target.id === "search-stop") {
    search?.abort();
  }
});
