// What every page has: the theme switch, and the key that goes to the search field.
document.getElementById("theme")?.addEventListener("click", () => {
  const root = document.documentElement;
  root.dataset.theme = root.dataset.theme === "dark" ? "light" : "dark";
  localStorage.setItem("theme", root.dataset.theme);
});

/** True while the person types into a field, when single keys belong to the text. */
export function isTyping(event) {
  const at = event.target;
  return event.ctrlKey || event.metaKey || event.altKey
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
