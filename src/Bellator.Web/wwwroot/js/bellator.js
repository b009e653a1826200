// What every page has: the theme switch, and the key that goes to the search field.
document.getElementById("theme")?.addEventListener("click", () => {
  const root = document.documentElement;
  root.dataset.theme = root.dataset.theme === "dark" ? "light" : "dark";
  localStorage.setItem("theme", root.dataset.theme);
});

// Speech input and shaky hands press letters by accident: single keys can be switched off (WCAG 2.2, 2.1.4).
const shortcuts = document.getElementById("shortcuts");
if (shortcuts) {
  shortcuts.checked = localStorage.getItem("shortcuts") !== "off";
  shortcuts.addEventListener("change", () => localStorage.setItem("shortcuts", shortcuts.checked ? "on" : "off"));
}

/** True while single keys mean nothing: they belong to a text that is typed, or they are switched off. */
export function isTyping(event) {
  const at = event.target;
  return localStorage.getItem("shortcuts") === "off" || event.ctrlKey || event.metaKey || event.altKey
    || at.isContentEditable || ["TEXTAREA", "SELECT"].includes(at.tagName) || (at.tagName === "INPUT" && at.type !== "radio");
}

document.addEventListener("keydown", (event) => {
  if (event.key === "/" && !isTyping(event)) {
    const find = document.getElementById("find");
    if (find) {
      event.preventDefault();
      find.focus();
    }
  }
});
