// Pages beside what was read from them: larger and smaller, dragged, and brought to the place of the field in focus.
import { each } from "./sheet.js";

const Least = 1, Most = 6, Step = 1.25;
// How large pages are shown stays from document to document, and where one was looked at while its sheet is shown anew.
let zoom = Number(sessionStorage.getItem("leaf-zoom")) || Least;
const seen = new Map();

const frameOf = () => document.querySelector("[data-leaves]");

/** Shows the pages at a size; the point under the pointer, or the middle, stays where it is. */
function show(frame, size, at) {
  const box = frame.getBoundingClientRect();
  const x = at ? at.clientX - box.left : frame.clientWidth / 2, y = at ? at.clientY - box.top : frame.clientHeight / 2;
  const across = (frame.scrollLeft + x) / frame.scrollWidth, down = (frame.scrollTop + y) / frame.scrollHeight;
  zoom = Math.min(Most, Math.max(Least, size));
  sessionStorage.setItem("leaf-zoom", zoom);
  frame.style.setProperty("--zoom", zoom);
  frame.scrollTo(across * frame.scrollWidth - x, down * frame.scrollHeight - y);
  for (const said of document.querySelectorAll("[data-leaf-size]")) said.textContent = `${Math.round(zoom * 100)} %`;
}

const sizes = { in: () => zoom * Step, out: () => zoom / Step, fit: () => Least };

/** Brings a mark on a page into view when it is not. */
function bring(mark) {
  const frame = mark?.closest("[data-leaves]");
  if (!frame) return;
  const f = frame.getBoundingClientRect(), m = mark.getBoundingClientRect();
  if (m.left >= f.left && m.right <= f.right && m.top >= f.top && m.bottom <= f.bottom) return;
  const calm = matchMedia("(prefers-reduced-motion: reduce)").matches;
  const [left, top] = [m.left + m.width / 2 - f.left - f.width / 2, m.top + m.height / 2 - f.top - f.height / 2];
  frame.scrollBy({ left, top, behavior: calm ? "auto" : "smooth" });
}

/** The pages are dragged with Shift or the middle button; where nothing is drawn on them, by any. */
function drag(frame, e) {
  // What is no page is the scroll bar.
  const drags = e.button === 1 || e.button === 0 && (e.shiftKey || !e.target.closest("[data-pick], [data-marks], [data-place]"));
  if (e.target === frame || !drags) return;
  e.preventDefault();
  e.stopPropagation();
  let last = e;
  frame.classList.add("dragged");
  const move = (m) => {
    frame.scrollBy(last.clientX - m.clientX, last.clientY - m.clientY);
    last = m;
  };
  const up = () => {
    frame.classList.remove("dragged");
    window.removeEventListener("pointermove", move);
    window.removeEventListener("pointerup", up);
  };
  window.addEventListener("pointermove", move);
  window.addEventListener("pointerup", up);
}

document.addEventListener("keydown", (e) => {
  const size = e.altKey && !e.ctrlKey && { "+": "in", "=": "in", "-": "out", 0: "fit" }[e.key];
  const frame = size && frameOf();
  if (!frame) return;
  e.preventDefault();
  show(frame, sizes[size]());
});

document.addEventListener("focusin", (e) => {
  const looks = e.target.closest?.("[data-looks-at]");
  if (looks) bring(document.querySelector(looks.dataset.looksAt));
});

/** Marks the small picture of the page that fills most of the frame, and keeps it in view among many. */
function mark(frame) {
  const thumbs = document.querySelector("[data-thumbs]");
  if (!thumbs) return;
  const f = frame.getBoundingClientRect();
  const shown = (leaf) => { const l = leaf.getBoundingClientRect(); return Math.min(l.bottom, f.bottom) - Math.max(l.top, f.top); };
  const [first, ...others] = frame.querySelectorAll(".page-view");
  const most = others.reduce((best, leaf) => shown(leaf) > shown(best) ? leaf : best, first);
  for (const thumb of thumbs.children) {
    const isIt = thumb.hash === `#${most.id}`;
    if (isIt === (thumb.ariaCurrent === "true")) continue;
    thumb.ariaCurrent = isIt ? "true" : null;
    if (isIt) thumbs.scrollTo({ left: thumb.offsetLeft - thumbs.clientWidth / 2 + thumb.clientWidth / 2 });
  }
}

export function setUpLeaves(root) {
  each(root, "[data-leaves]", (frame) => {
    frame.addEventListener("pointerdown", (e) => drag(frame, e), { capture: true });
    frame.addEventListener("wheel", (e) => {
      if (!e.ctrlKey) return;
      e.preventDefault();
      show(frame, zoom * (e.deltaY < 0 ? Step : 1 / Step), e);
    }, { passive: false });
    frame.addEventListener("scroll", () => {
      seen.set(location.pathname, [frame.scrollLeft, frame.scrollTop]);
      mark(frame);
    }, { passive: true });
    const before = seen.get(location.pathname);
    show(frame, zoom);
    if (before) frame.scrollTo(...before);
    mark(frame);
  });
  // Only the frame moves: what a person types into stays where it is.
  each(root, "[data-thumbs]", (thumbs) => thumbs.addEventListener("click", (e) => {
    const leaf = e.target.closest("a") && document.querySelector(e.target.closest("a").hash);
    const frame = leaf?.closest("[data-leaves]");
    if (!frame) return;
    e.preventDefault();
    frame.scrollTo({ top: frame.scrollTop + leaf.getBoundingClientRect().top - frame.getBoundingClientRect().top });
  }));
  each(root, "[data-leaf-tools]", (tools) => {
    tools.hidden = false;
    tools.addEventListener("click", (e) => {
      const size = e.target.closest("[data-size]")?.dataset.size;
      if (size) show(frameOf(), sizes[size]());
    });
  });
}
