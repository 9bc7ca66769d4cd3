// The desk by field: Enter takes a value and goes to the next one, Shift+Enter goes back, Alt+O opens the document.
import { letterWithAlt } from "./keys.js";

document.addEventListener("keydown", (e) => {
  const input = e.target.closest?.("[data-by-field] input[name=text]");
  if (!input) return;
  if (letterWithAlt(e) === "o") {
    e.preventDefault();
    input.form.querySelector("a").click();
    return;
  }
  if (e.key !== "Enter") return;
  e.preventDefault();
  const inputs = [...document.querySelectorAll("[data-by-field] input[name=text]")];
  const to = inputs[inputs.indexOf(input) + (e.shiftKey ? -1 : 1)];
  // What is taken is sent first; its row comes back by itself while the next one is looked at.
  if (!e.shiftKey) input.form.requestSubmit();
  if (to) {
    to.focus();
    to.select();
    to.scrollIntoView({ block: "center" });
  } else if (!e.shiftKey) document.querySelector("#next-field a")?.focus();
});

/** On arrival the first value that needs a look has the focus. */
document.addEventListener("htmx:load", (e) => {
  const list = e.detail.elt.querySelector?.("[data-by-field]");
  (list?.querySelector(".field-value:not(.sure) input[name=text]") ?? list?.querySelector("input[name=text]"))?.focus();
});
