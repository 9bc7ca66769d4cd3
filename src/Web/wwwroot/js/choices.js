// What is chosen with the arrow keys is taken when one is done choosing, with Enter or on leaving: until then nobody is told of a change.
// What only shows other blanks is shown at once.
const waits = (e) => e.target.matches?.("select:not([data-kind], [data-shows])");
let arrows = null;
document.addEventListener("keydown", (e) => {
  if (!waits(e)) return;
  // Space and Alt open the list, in which one is done with a click or Enter.
  if (e.altKey || e.key === " ") arrows = null;
  else if (["ArrowUp", "ArrowDown", "Home", "End", "PageUp", "PageDown"].includes(e.key) || e.key.length === 1) arrows = e.target;
  if (e.key !== "Enter") return;
  if (e.target.dataset.chosen) { e.preventDefault(); takeChosen(e.target); } else arrows = null;
});
window.addEventListener("change", (e) => {
  if (!waits(e) || arrows !== e.target) return;
  e.stopImmediatePropagation();
  e.target.dataset.chosen = "yes";
}, { capture: true });
document.addEventListener("focusout", (e) => {
  if (e.target.dataset?.chosen) takeChosen(e.target);
  arrows = null;
});
function takeChosen(select) {
  delete select.dataset.chosen;
  arrows = null;
  select.dispatchEvent(new Event("change", { bubbles: true }));
}
/** A choice that is a question by itself is asked as soon as it is made; the page that answers comes with the focus on it. */
document.addEventListener("change", (e) => {
  if (!e.target.matches("select[data-send]")) return;
  sessionStorage.setItem("chosen", JSON.stringify([location.pathname, e.target.id]));
  e.target.form.requestSubmit();
});
document.addEventListener("DOMContentLoaded", () => {
  const [page, id] = JSON.parse(sessionStorage.getItem("chosen") ?? "[]");
  sessionStorage.removeItem("chosen");
  if (page === location.pathname) document.getElementById(id)?.focus({ preventScroll: true });
});
