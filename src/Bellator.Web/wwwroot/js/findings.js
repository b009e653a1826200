// The list of findings by keyboard, and filters that take effect when they change.
import { isTyping } from "./bellator.js";

const rows = [...document.querySelectorAll("#findings tbody tr")];
let at = -1;

function go(index) {
  if (rows.length === 0) {
    return;
  }
  rows[at]?.classList.remove("at");
  at = Math.max(0, Math.min(rows.length - 1, index));
  rows[at].classList.add("at");
  rows[at].querySelector("a").focus({ preventScroll: true });
  rows[at].scrollIntoView({ block: "nearest" });
}

document.addEventListener("keydown", (event) => {
  if (isTyping(event)) {
    return;
  }
  if (event.key === "j") {
    go(at + 1);
  } else if (event.key === "k") {
    go(at - 1);
  }
});

for (const select of document.querySelectorAll("#filters select")) {
  select.addEventListener("change", () => select.form.requestSubmit());
}
