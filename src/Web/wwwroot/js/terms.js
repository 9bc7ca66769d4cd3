// The tree of a vocabulary: a term moves onto its broader one by drag, or with Alt and the arrows.
import { sendToSheet } from "./sheet.js";

const moved = (url, id, below) => sendToSheet(url, { id, below: below ?? "" });

document.addEventListener("dragstart", (e) => {
  const term = e.target.closest?.("[data-term]");
  if (term) e.dataTransfer.setData("text/x-term", term.dataset.term);
});
document.addEventListener("dragover", (e) => {
  const over = e.target.closest?.(".terms [data-term], .terms");
  if (!over || !e.dataTransfer.types.includes("text/x-term")) return;
  e.preventDefault();
  for (const marked of document.querySelectorAll(".terms .over")) marked.classList.remove("over");
  if (over.dataset.term) over.classList.add("over");
});
document.addEventListener("drop", (e) => {
  const tree = e.target.closest?.(".terms");
  const id = e.dataTransfer.getData("text/x-term");
  if (!tree || !id) return;
  e.preventDefault();
  const onto = e.target.closest("[data-term]")?.dataset.term;
  if (onto !== id) moved(tree.dataset.moveUrl, id, onto);
});

document.addEventListener("keydown", (e) => {
  const term = e.target.closest?.(".terms [data-term]");
  if (!term) return;
  const all = [...term.closest(".terms").querySelectorAll("[data-term]")];
  const step = e.key === "ArrowDown" ? 1 : e.key === "ArrowUp" ? -1 : 0;
  if (step && !e.altKey) {
    e.preventDefault();
    all[all.indexOf(term) + step]?.focus();
    return;
  }
  if (!e.altKey || (e.key !== "ArrowRight" && e.key !== "ArrowLeft")) return;
  e.preventDefault();
  const url = term.closest(".terms").dataset.moveUrl;
  const item = term.closest("li");
  const above = item.previousElementSibling?.querySelector(":scope > [data-term]");
  const broader = item.parentElement.closest("li")?.querySelector(":scope > [data-term]");
  if (e.key === "ArrowRight" && above) moved(url, term.dataset.term, above.dataset.term).then(() => refocus(term.dataset.term));
  if (e.key === "ArrowLeft" && broader) moved(url, term.dataset.term, broader.dataset.broader).then(() => refocus(term.dataset.term));
});

const refocus = (id) => document.querySelector(`[data-term="${CSS.escape(id)}"]`)?.focus();
