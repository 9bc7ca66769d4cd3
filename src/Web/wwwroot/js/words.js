// Words of a page, or a box on it, chosen with the keys: arrows go from word to word, Shift and arrows take in more, Enter takes what is
// chosen. Space lets go of the words: arrows move the box, with Shift they change its size.
import { around, boxOf, grown, put, rubberOn, within } from "./boxes.js";

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

const OfBox = "A box: arrows move it, with Shift they change its size";
const Steps = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/**
 * Lets a place on a drawing be chosen with the keys while it has the focus.
 * @param taken what is done with the box.
 * @param from where to begin; null for where the last choice was.
 * @param back leaves the drawing; null where the focus stays.
 */
export function chooseWords(svg, taken, { from = () => null, back = null } = {}) {
  const words = [...svg.querySelectorAll(".word")], boxes = words.map(boxOf);
  const { width, height } = svg.viewBox.baseVal;
  const said = document.querySelector("[data-chosen-words]");
  let at = Math.min(last, words.length - 1), begin = at, mark = null, free = null;
  // In reading order, as far as the page's words stand in it.
  const chosen = () => words.slice(Math.min(at, begin), Math.max(at, begin) + 1);
  const show = () => {
    mark ??= rubberOn(svg, "chosen");
    put(mark, free ?? grown(around(chosen().map(boxOf)), 2));
    mark.scrollIntoView({ block: "nearest", inline: "nearest" });
    if (said) said.textContent = free ? OfBox : chosen().map((w) => w.dataset.text).join(" ");
  };
  const arrive = () => {
    const near = from();
    if (near && words.length > 0) at = begin = nearestTo(boxes, near);
    if (words.length === 0) free ??= near ?? { x: width * 0.4, y: height * 0.4, w: width * 0.2, h: 30 };
    show();
  };
  const leave = () => {
    mark?.remove();
    mark = null;
    if (said) said.textContent = "";
  };
  svg.addEventListener("keydown", (e) => {
    if (e.target !== svg || e.altKey || e.ctrlKey || e.metaKey) return;
    const step = Steps[e.key];
    if (step && free) free = within(moved(free, step, e.shiftKey), width, height);
    else if (step) at = beside(boxes, at, e.key);
    else if (e.key === "Home" && !free) at = 0;
    else if (e.key === "End" && !free) at = words.length - 1;
    else if (e.key === " " && words.length > 0) free = free ? null : boxOf(mark);
    else if (e.key === "Enter") taken(boxOf(mark), e);
    else if (e.key === "Escape" && free && words.length > 0) free = null;
    else if (e.key === "Escape" && back && begin === at) back();
    else if (e.key === "Escape") begin = at;
    else return;
    e.preventDefault();
    e.stopPropagation();
    if (e.key === "Escape" && document.activeElement !== svg) return;
    if (e.key !== "Enter" && !e.shiftKey) begin = at;
    last = Math.max(at, 0);
    show();
  });
  svg.addEventListener("focus", arrive);
  svg.addEventListener("blur", leave);
}

const moved = (b, [x, y], stretches) =>
  stretches ? { ...b, w: b.w + 6 * x, h: b.h + 6 * y } : { ...b, x: b.x + 6 * x, y: b.y + 6 * y };

/** The word that stands nearest to a place. */
function nearestTo(boxes, place) {
  const to = middle(place), far = (b) => Math.hypot(middle(b).x - to.x, middle(b).y - to.y);
  return boxes.reduce((best, b, i) => (far(b) < far(boxes[best]) ? i : best), 0);
}
