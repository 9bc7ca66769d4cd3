// All pages of a document: dragged to their places, or moved, turned and taken out by keys.
import { each, sendToSheet } from "./sheet.js";

const acts = { l: "left", r: "right", o: "over", c: "cut", Delete: "out" };

/** The ticked pages, or the one with the focus when none is ticked. */
function chosen(list, leaf) {
  const ticked = [...list.querySelectorAll("input[name=page]:checked")].map((i) => i.value);
  return ticked.length > 0 ? ticked : [leaf.dataset.page];
}

const mark = () => document.querySelector("#page-acts input[name=mark]").value;

function onKey(list, e) {
  const leaf = e.target.closest("[data-page]");
  if (!leaf || e.ctrlKey || e.metaKey || e.target.matches("input, a")) return;
  const leaves = [...list.querySelectorAll("[data-page]")];
  const step = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
  if (e.key === " ") {
    const box = leaf.querySelector("input");
    box.checked = !box.checked;
  } else if (step && e.altKey)
    sendToSheet(`${list.dataset.pages}?handler=Act`, { mark: mark(), page: chosen(list, leaf), act: step < 0 ? "earlier" : "later" });
  else if (step) leaves[leaves.indexOf(leaf) + step]?.focus();
  else if (acts[e.key] && !e.altKey)
    sendToSheet(`${list.dataset.pages}?handler=Act`, { mark: mark(), page: chosen(list, leaf), act: acts[e.key] });
  else return;
  e.preventDefault();
}

document.addEventListener("keydown", (e) => {
  if (!e.ctrlKey || e.key !== "z" || e.target.matches("input, textarea, select")) return;
  const undo = document.querySelector("[data-pages]") && document.getElementById("undo");
  if (undo) { e.preventDefault(); undo.click(); }
});

export function setUpPages(root) {
  each(root, "[data-pages]", (list) => {
    list.addEventListener("keydown", (e) => onKey(list, e));
    Sortable.create(list, {
      draggable: "[data-page]",
      animation: 120,
      onEnd: (e) => {
        if (e.oldIndex === e.newIndex) return;
        const next = e.item.nextElementSibling;
        const last = list.querySelectorAll("[data-page]").length;
        const before = next ? next.dataset.page : last + 1;
        sendToSheet(`${list.dataset.pages}?handler=Move`, { mark: mark(), page: e.item.dataset.page, before });
      },
    });
    const focus = Math.min(Number(list.dataset.focus), list.querySelectorAll("[data-page]").length);
    if (focus > 0) list.querySelector(`[data-page="${focus}"]`)?.focus();
  });
}
