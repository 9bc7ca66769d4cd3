// Words of a page chosen with the keys: arrows go from word to word, Shift and arrows take in more, Enter takes what is chosen.
import { around, boxOf, grown, put } from "./marks.js";

// After a sheet has come anew, the choice goes on where it was.
let last = 0;

const middle = (b) => ({ x: b.x + b.w / 2, y: b.y + b.h / 2 });

/** The word that lies next in a direction; at the end of a line the one that begins the next. */
function beside(boxes, at, key) {
  const from = middle(boxes[at]), high = boxes[at].h;
  const onLine = (b) => Math.abs(middle(b).y - from.y) < high * 0.7;
  const way = key === "ArrowLeft" || key === "ArrowUp" ? -1 : 1;
  const ahead = (b, axis) => (middle(b)[axis] - from[axis]) * way;
  const nearest = (among, far) => among.reduce((best, i) => (best < 0 || far(boxes[i]) < far(boxes[best]) ? i : best), -1);
  const others = boxes.map((_, i) => i).filter((i) => i !== at);
  if (key === "ArrowLeft" || key === "ArrowRight") {
    const found = nearest(others.filter((i) => onLine(boxes[i]) && ahead(boxes[i], "x") > 0), (b) => ahead(b, "x"));
    if (found >= 0) return found;
    const lines = others.filter((i) => !onLine(boxes[i]) && ahead(boxes[i], "y") > 0);
    const next = nearest(lines, (b) => ahead(b, "y"));
    const line = lines.filter((i) => Math.abs(middle(boxes[i]).y - middle(boxes[next]).y) < high * 0.7);
    return next < 0 ? at : nearest(line, (b) => b.x * way);
  }
  const found = nearest(
    others.filter((i) => !onLine(boxes[i]) && ahead(boxes[i], "y") > 0),
    (b) => ahead(b, "y") + Math.abs(middle(b).x - from.x) * 0.4);
  return found < 0 ? at : found;
}

/** Lets the words of a drawing be chosen with the keys while it has the focus. */
export function chooseWords(svg, taken) {
  const words = [...svg.querySelectorAll(".word")], boxes = words.map(boxOf);
  if (words.length === 0) return;
  const said = document.querySelector("[data-chosen-words]");
  let at = Math.min(last, words.length - 1), begin = at, mark = null;
  // In reading order, as far as the page's words stand in it.
  const chosen = () => words.slice(Math.min(at, begin), Math.max(at, begin) + 1);
  const show = () => {
    if (!mark) {
      mark = document.createElementNS("http://www.w3.org/2000/svg", "rect");
      mark.setAttribute("class", "rubber chosen");
      svg.append(mark);
    }
    put(mark, grown(around(chosen().map(boxOf)), 2));
    mark.scrollIntoView({ block: "nearest", inline: "nearest" });
    if (said) said.textContent = chosen().map((w) => w.dataset.text).join(" ");
  };
  const leave = () => {
    mark?.remove();
    mark = null;
    if (said) said.textContent = "";
  };
  svg.addEventListener("keydown", (e) => {
    if (e.target !== svg || e.altKey || e.ctrlKey) return;
    if (e.key.startsWith("Arrow")) at = beside(boxes, at, e.key);
    else if (e.key === "Home") at = 0;
    else if (e.key === "End") at = words.length - 1;
    else if (e.key === "Enter") taken(boxOf(mark), e);
    else if (e.key === "Escape") begin = at;
    else return;
    e.preventDefault();
    e.stopPropagation();
    if (e.key !== "Enter" && !e.shiftKey) begin = at;
    last = at;
    show();
  });
  svg.addEventListener("focus", show);
  svg.addEventListener("blur", leave);
}
