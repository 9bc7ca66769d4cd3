// Small behaviour that every place uses. Bigger parts have files of their own; each says in its first line what it is.
import { each, sendToSheet } from "./sheet.js";
import { setUpGrids } from "./grid.js";
import { setUpMarks } from "./marks.js";
import { setUpDesk } from "./desk.js";
import { setUpLeaves } from "./leaves.js";
import { setUpPages } from "./pages.js";
import { setUpThreads } from "./threads.js";
import { setUpTyped } from "./unsaved.js";
import "./composer.js";
import "./terms.js";
import "./byfield.js";
import "./choices.js";
import "./focus.js";

document.addEventListener("alpine:init", () => {
  Alpine.data("menu", () => ({
    close() { this.$root.open = false; },
    leave() {
      this.close();
      this.$root.querySelector("summary").focus();
    },
  }));
});

function setUp(root) {
  each(root, "[data-sort-url]", (list) => Sortable.create(list, {
    handle: ".grip",
    animation: 120,
    onEnd: (e) => { if (e.oldIndex !== e.newIndex) sendToSheet(list.dataset.sortUrl, { key: e.item.dataset.key, to: e.newIndex }); },
  }));
  each(root, "[data-drop]", setUpDrop);
  for (const part of [setUpGrids, setUpMarks, setUpLeaves, setUpDesk, setUpPages, setUpThreads, setUpTyped]) part(root);
}

/** Files dropped on the place go into its file input, and its form is sent. */
function setUpDrop(drop) {
  const input = drop.querySelector("input[type=file]");
  const over = (on) => (e) => { e.preventDefault(); drop.classList.toggle("over", on); };
  drop.addEventListener("dragover", over(true));
  drop.addEventListener("dragleave", over(false));
  drop.addEventListener("drop", (e) => {
    over(false)(e);
    if (e.dataTransfer.files.length === 0) return;
    input.files = e.dataTransfer.files;
    drop.requestSubmit();
  });
}

/** Alt+arrow moves the row of a ledger that has the focus. */
document.addEventListener("keydown", (e) => {
  if (!e.altKey || (e.key !== "ArrowUp" && e.key !== "ArrowDown")) return;
  const row = e.target.closest?.(".ledger-row[data-key]");
  const list = row?.closest("[data-sort-url]");
  if (!list) return;
  e.preventDefault();
  const rows = [...list.children];
  const to = rows.indexOf(row) + (e.key === "ArrowUp" ? -1 : 1);
  if (to < 0 || to >= rows.length) return;
  const id = row.querySelector("summary").id;
  sendToSheet(list.dataset.sortUrl, { key: row.dataset.key, to }).then(() => document.getElementById(id)?.focus());
});

/** An address that names a row opens it. */
document.addEventListener("DOMContentLoaded", () => {
  const row = location.hash.startsWith("#row-") && document.getElementById(location.hash.slice(1));
  if (!row) return;
  row.closest("details").open = true;
  row.focus();
  row.scrollIntoView({ block: "center" });
});

/** "/" goes to the search. */
document.addEventListener("keydown", (e) => {
  if (e.key !== "/" || e.ctrlKey || e.metaKey || /^(INPUT|TEXTAREA|SELECT)$/.test(e.target.tagName)) return;
  e.preventDefault();
  document.getElementById("top-search")?.focus();
});

document.addEventListener("htmx:load", (e) => setUp(e.detail.elt));

/** Shows only the blanks that the chosen kind has. */
function showBlanks(select) {
  for (const blank of select.form.querySelectorAll("[data-for]")) {
    if (blank.closest("form") !== select.form) continue;
    const shown = blank.dataset.for.split(" ").includes(select.value);
    blank.hidden = !shown;
    for (const input of blank.querySelectorAll("input, select")) input.disabled = !shown;
  }
}
document.addEventListener("change", (e) => { if (e.target.matches("select[data-kind]")) showBlanks(e.target); });
document.addEventListener("htmx:load", (e) => {
  for (const select of e.detail.elt.querySelectorAll("select[data-kind]")) showBlanks(select);
});
/** Shows what only one choice needs, such as the condition of “must be filled when …”. */
document.addEventListener("change", (e) => {
  if (!e.target.matches("select[data-shows]")) return;
  const shown = document.getElementById(e.target.dataset.shows);
  shown.hidden = shown.dataset.shownFor !== e.target.value;
});
/** The input that a page asks to be typed in next. */
document.addEventListener("htmx:load", (e) => e.detail.elt.querySelector("[autofocus]")?.focus());
