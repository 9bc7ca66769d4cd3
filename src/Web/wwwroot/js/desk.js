// The desk by document: the focused field and its region on the page belong together.
import { each, sendToSheet } from "./sheet.js";
import { boxOf, shares } from "./boxes.js";
import { letterWithAlt } from "./keys.js";
import { onRegion } from "./marks.js";
import { flush } from "./unsaved.js";
import { chooseWords } from "./words.js";

// Pages on which a place is chosen: to be read into a field, or to say where a value stands.
const Drawn = "svg[data-pick], svg[data-place]";
let focused = null;

const evidenceOf = (field) => field && document.querySelector(`.evidence[data-evidence="${CSS.escape(field)}"]`);

/** Shows which region the focused field was read from. */
function light(field) {
  for (const e of document.querySelectorAll(".evidence")) e.classList.toggle("now", e.dataset.evidence === field);
}

document.addEventListener("focusin", (e) => {
  const field = e.target.closest?.("[data-desk] .field");
  if (!field) return;
  focused = field.dataset.field;
  light(focused);
});

/**
 * Enter goes to the next field; Ctrl+Enter files; Alt+N and Alt+P go through the desk, Alt+G to all pages, Alt+W to the words of the page;
 * Alt+H holds, Alt+B repeats.
 */
document.addEventListener("keydown", (e) => {
  const desk = document.querySelector("[data-desk]");
  const key = letterWithAlt(e);
  if (["n", "p", "g"].includes(key)) {
    const link = document.getElementById({ n: "next", p: "previous", g: "its-pages" }[key]);
    if (link) { e.preventDefault(); link.click(); }
    return;
  }
  // Alt+K parks: why, then Enter.
  if (key === "k" && document.getElementById("park-reason")) {
    e.preventDefault();
    // What was typed before is stored first: its answer brings the form anew.
    flush().then(() => {
      document.getElementById("park").closest("details").open = true;
      document.getElementById("park-reason").focus();
    });
    return;
  }
  if (key === "w" && document.querySelector(Drawn)) {
    e.preventDefault();
    flush().then(() => (evidenceOf(focused)?.closest(Drawn) ?? document.querySelector(Drawn)).focus());
    return;
  }
  // Alt+H keeps a value for the next documents, Alt+B takes that of the document before.
  if ((key === "h" || key === "b") && e.target.matches("[data-desk] .field input")) {
    e.preventDefault();
    const { field } = e.target.closest(".field").dataset;
    const handler = key === "h" ? "Hold" : "AsBefore";
    sendToSheet(`${desk.dataset.desk}?handler=${handler}&field=${encodeURIComponent(field)}`, { text: e.target.value });
    return;
  }
  // Alt+L shows filed documents with the same value beside the page; Escape comes back.
  if (key === "l" && e.target.matches("[data-desk] .field input")) {
    e.preventDefault();
    const { field } = e.target.closest(".field").dataset;
    beside(`${desk.dataset.desk}?handler=Same&field=${encodeURIComponent(field)}&text=${encodeURIComponent(e.target.value)}`);
    return;
  }
  if (e.key === "Escape" && closeBeside()) { e.preventDefault(); return; }
  if (onRows(e)) { e.preventDefault(); return; }
  if (!desk || e.key !== "Enter") return;
  if (e.ctrlKey) {
    e.preventDefault();
    const from = document.activeElement;
    from?.blur();
    // The last value is kept first; then, if nothing stands against it, the document is filed.
    const file = (tries) => {
      if (tries > 0 && document.querySelector(".htmx-request, .htmx-swapping, .htmx-settling")) { setTimeout(file, 50, tries - 1); return; }
      const button = document.querySelector("#file-this button:not(:disabled)");
      if (button) { button.click(); return; }
      // Something stands against it: to the first field of which that is said.
      const said = document.querySelector("[data-desk] .field .said")?.closest(".field").querySelector("input:not([type=hidden])");
      (said ?? from)?.focus();
      said?.scrollIntoView({ block: "center" });
    };
    flush().then(() => setTimeout(file, 50, 200));
    return;
  }
  if (!e.target.matches(".field input")) return;
  e.preventDefault();
  const inputs = [...desk.querySelectorAll(".field input:not([type=hidden])")];
  inputs[inputs.indexOf(e.target) + 1]?.focus();
});

async function beside(url) {
  const answer = await fetch(url);
  if (!answer.ok) return;
  document.getElementById("beside").outerHTML = await answer.text();
  htmx.process(document.getElementById("beside"));
  document.querySelector("#beside button.hit, #beside button")?.focus();
}

function closeBeside() {
  const shown = document.querySelector("#beside:not([hidden])");
  if (!shown) return false;
  document.getElementById(shown.dataset.back)?.focus();
  const empty = Object.assign(document.createElement("div"), { id: "beside", hidden: true });
  shown.replaceWith(empty);
  return true;
}

document.addEventListener("click", (e) => { if (e.target.closest?.("[data-close-beside]")) closeBeside(); });

/** The arrows go through the rows offered under a field, Escape shuts them; true when they did. */
function onRows(e) {
  const field = e.target.closest?.("[data-desk] .field");
  const hits = [...field?.querySelectorAll(".hits .hit") ?? []];
  if (hits.length === 0) return false;
  const at = hits.indexOf(e.target);
  const step = { ArrowDown: 1, ArrowUp: -1 }[e.key];
  if (step) (hits[at + step] ?? field.querySelector("input[name=text]")).focus();
  else if (e.key === "Escape") { field.querySelector("input[name=text]").focus(); field.querySelector(".rows-of").replaceChildren(); }
  else return false;
  return true;
}

// A row that is clicked leaves the focus where it is, so that what was half typed is not kept first.
document.addEventListener("mousedown", (e) => { if (e.target.closest?.(".hits")) e.preventDefault(); });

// Rows are offered while somebody is at the field.
document.addEventListener("focusin", (e) => {
  for (const rows of document.querySelectorAll(".rows-of")) if (!rows.closest(".field").contains(e.target)) rows.replaceChildren();
});

/** From a problem in the margin to its field. */
document.addEventListener("click", (e) => {
  const goto = e.target.closest?.("[data-goto]");
  if (!goto) return;
  e.preventDefault();
  document.getElementById(goto.dataset.goto)?.focus();
});

export function setUpDesk(root) {
  const desk = root.querySelector("[data-desk]");
  each(root, "svg[data-pick]", (svg) => {
    const pick = (box) => {
      const into = document.querySelector("[data-desk]");
      if (!into) return;
      const field = focused ?? into.querySelector(".field").dataset.field;
      sendToSheet(`${svg.dataset.pick}?handler=Pick`, { field, page: svg.dataset.page, ...shares(svg, box) });
    };
    onRegion(svg, pick);
    chooseWords(svg, pick, {
      from: () => evidenceOf(focused)?.closest("svg") === svg ? boxOf(evidenceOf(focused).querySelector("rect")) : null,
      back: () => document.getElementById(`f-${focused}`)?.focus(),
    });
  });
  // A box on a filed page says where a typed value stands.
  each(root, "svg[data-place]", (svg) => {
    const place = (box) => sendToSheet(`${svg.dataset.place}?handler=Place`, {
      field: document.getElementById("place-field").value,
      page: svg.dataset.page,
      ...shares(svg, box),
    });
    onRegion(svg, place);
    chooseWords(svg, place, { back: () => document.getElementById("place-field")?.focus() });
  });
  if (!desk) return;
  // After a pick the field keeps the focus; on arrival the first field with a problem takes it.
  const first = desk.querySelector(".said")?.closest(".field")?.dataset.field ?? desk.querySelector(".field").dataset.field;
  // Of a table its first cell: what is sent for it is no blank.
  const input = desk.querySelector(`.field[data-field="${CSS.escape(desk.dataset.focus || first)}"] input:not([type=hidden])`);
  input?.focus({ preventScroll: !desk.dataset.focus && !desk.querySelector(".said") });
  // What is wrong is typed over at once; which cell of a table is, nobody has said.
  if (!desk.dataset.focus && desk.querySelector(".said") && input?.name === "text") input.select();
}
