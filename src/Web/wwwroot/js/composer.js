// The two lines of a convention: in an empty box the arrows move along the line, Backspace and Delete remove a piece.
import { sendToSheet } from "./sheet.js";

document.addEventListener("keydown", (e) => {
  const box = e.target.closest?.("[data-adding]");
  if (!box || box.value !== "" || e.altKey || e.ctrlKey || e.metaKey) return;
  const form = box.form;
  const line = form.closest("[data-line]");
  const at = Number(form.elements.at.value);
  const before = form.previousElementSibling;
  const after = form.nextElementSibling;
  const stand = (to) => {
    form.elements.at.value = to;
    box.focus();
  };
  if (e.key === "ArrowLeft" && before) { before.before(form); stand(at - 1); }
  else if (e.key === "ArrowRight" && after) { after.after(form); stand(at + 1); }
  else if (e.key === "Home" && before) { line.prepend(form); stand(0); }
  else if (e.key === "End" && after) { line.append(form); stand(line.querySelectorAll(".piece").length); }
  else if (e.key === "Backspace" && before) sendToSheet(`?handler=RemovePiece&line=${line.dataset.line}&at=${at - 1}`, {});
  else if (e.key === "Delete" && after) sendToSheet(`?handler=RemovePiece&line=${line.dataset.line}&at=${at}`, {});
  else return;
  e.preventDefault();
});
