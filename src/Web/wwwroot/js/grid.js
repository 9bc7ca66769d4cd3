// Rows of a table field: cells are plain inputs, a hidden input carries them as JSON.
import { each } from "./sheet.js";

const cellsOf = (row) => [...row.querySelectorAll("[data-column]")];

function rowsOf(grid) {
  return [...grid.querySelectorAll("[data-row]")]
    .map((row) => cellsOf(row).map((cell) => [cell.dataset.column, cell.value.trim()]))
    .map((cells) => Object.fromEntries(cells.filter(([, value]) => value !== "")))
    .filter((row) => Object.keys(row).length > 0);
}

const hiddenOf = (grid) => document.getElementById(grid.dataset.grid);

/** Writes the rows into the hidden input, shows the sums, keeps one empty row at the end. */
function gather(grid, told) {
  const hidden = hiddenOf(grid);
  const rows = rowsOf(grid);
  hidden.value = rows.length === 0 ? "" : JSON.stringify(rows);
  for (const sum of grid.querySelectorAll("[data-sum]")) {
    const key = sum.dataset.sum;
    if (!key) continue;
    const numbers = rows.map((row) => Number(row[key] ?? 0));
    const places = Math.max(0, ...rows.map((row) => (row[key] ?? "").split(".")[1]?.length ?? 0));
    sum.textContent = rows.length === 0 ? "" : numbers.some(Number.isNaN) ? "—" : numbers.reduce((a, b) => a + b, 0).toFixed(places);
  }
  const last = grid.querySelector("[data-row]:last-child");
  if (last && cellsOf(last).some((cell) => cell.value.trim() !== "")) addRow(grid);
  if (told) hidden.dispatchEvent(new Event(told, { bubbles: true }));
}

/** Shows the rows that the hidden input holds. */
function show(grid) {
  const rows = JSON.parse(hiddenOf(grid).value || "[]");
  const body = grid.querySelector("tbody");
  while (body.children.length <= rows.length) addRow(grid);
  [...body.children].forEach((row, i) => { for (const cell of cellsOf(row)) cell.value = rows[i]?.[cell.dataset.column] ?? ""; });
  gather(grid);
}

function addRow(grid) {
  const last = grid.querySelector("[data-row]:last-child");
  const row = last.cloneNode(true);
  for (const cell of cellsOf(row)) cell.value = "";
  last.after(row);
  number(grid);
  return row;
}

/** Numbers the rows and their labels anew. */
function number(grid) {
  [...grid.querySelectorAll("[data-row]")].forEach((row, i) => {
    row.querySelector("th").textContent = i + 1;
    row.querySelector("[data-remove-row]").setAttribute("aria-label", `Remove row ${i + 1}`);
    for (const cell of cellsOf(row)) cell.setAttribute("aria-label", cell.getAttribute("aria-label").replace(/row \d+$/, `row ${i + 1}`));
  });
}

function removeRow(grid, row) {
  const next = row.nextElementSibling ?? row.previousElementSibling;
  if (!next) for (const cell of cellsOf(row)) cell.value = "";
  else row.remove();
  number(grid);
  gather(grid, "change");
  next?.querySelector("[data-column]")?.focus();
}

/** Rows of a spreadsheet go in from the cell with the focus. */
function paste(grid, cell, text) {
  const lines = text.replace(/\r\n?/g, "\n").replace(/\n$/, "").split("\n").map((line) => line.split("\t"));
  const said = grid.querySelector("[data-grid-said]");
  const most = Number(grid.dataset.most);
  const rows = [...grid.querySelectorAll("[data-row]")];
  const start = rows.indexOf(cell.closest("[data-row]"));
  if (start + lines.length > most) {
    const [many, taken] = [lines.length.toLocaleString("en"), most.toLocaleString("en")];
    said.textContent = `${many} rows are more than the ${taken} that a table takes; nothing was pasted.`;
    return;
  }
  said.textContent = "";
  const from = cellsOf(rows[start]).indexOf(cell);
  lines.forEach((values, i) => {
    const row = grid.querySelectorAll("[data-row]")[start + i] ?? addRow(grid);
    values.forEach((value, j) => { const into = cellsOf(row)[from + j]; if (into) into.value = value.trim(); });
  });
  gather(grid, "change");
}

function keys(grid, e) {
  const cell = e.target.closest("[data-column]");
  if (!cell) return;
  const row = cell.closest("[data-row]");
  if (e.key === "Enter" && !e.ctrlKey) {
    e.preventDefault();
    e.stopPropagation();
    const all = [...grid.querySelectorAll("[data-column]")];
    const at = all.indexOf(cell);
    gather(grid, "change");
    (all[at + 1] ?? addRow(grid).querySelector("[data-column]")).focus();
  } else if (e.key === "Delete" && e.ctrlKey) {
    e.preventDefault();
    removeRow(grid, row);
  } else if (e.altKey && (e.key === "ArrowUp" || e.key === "ArrowDown")) {
    const other = e.key === "ArrowUp" ? row.previousElementSibling : row.nextElementSibling;
    if (!other) return;
    e.preventDefault();
    e.stopPropagation();
    e.key === "ArrowUp" ? other.before(row) : other.after(row);
    number(grid);
    gather(grid, "change");
    cell.focus();
  }
}

export const setUpGrids = (root) => each(root, "[data-grid]", (grid) => {
  gather(grid);
  const hidden = hiddenOf(grid);
  Object.assign(hidden.dataset, { rows: "", stored: hidden.value });
  hidden.addEventListener("restored", () => show(grid));
  grid.addEventListener("input", () => gather(grid, "input"));
  grid.addEventListener("change", (e) => { e.stopPropagation(); gather(grid, "change"); });
  grid.addEventListener("keydown", (e) => keys(grid, e));
  grid.addEventListener("click", (e) => {
    const button = e.target.closest("[data-remove-row]");
    if (button) removeRow(grid, button.closest("[data-row]"));
  });
  grid.addEventListener("paste", (e) => {
    const text = e.clipboardData.getData("text");
    if (!e.target.matches("[data-column]") || !/[\t\n]/.test(text.trim())) return;
    e.preventDefault();
    paste(grid, e.target, text);
  });
});
