// Marks on a page picture: words picked by click or drag, zones drawn, moved, resized and nudged.
// Places are sent as shares of the page, so they hold at any size.
import { each, sendToSheet } from "./sheet.js";
import { around, boxOf, grown, put, rubberOn, shares } from "./boxes.js";
import { chooseWords } from "./words.js";

/** Where a pointer is in the drawing's own units. */
function pointIn(svg, e) {
  const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.getScreenCTM().inverse());
  return { x: p.x, y: p.y };
}

const stretched = (box, dx, dy) => ({ ...box, w: Math.max(8, box.w + dx), h: Math.max(8, box.h + dy) });

const wordsIn = (svg, b) => [...svg.querySelectorAll(".word")].filter((word) => {
  const w = boxOf(word), cx = w.x + w.w / 2, cy = w.y + w.h / 2;
  return cx >= b.x && cx <= b.x + b.w && cy >= b.y && cy <= b.y + b.h;
});

/**
 * Draws a box while the pointer is down, then hands it over; a plain click hands over the word under it, or chooses the
 * zone under it. Only a chosen zone is moved by dragging, so that another can be drawn across it.
 */
export function onRegion(svg, taken) {
  svg.addEventListener("pointerdown", (e) => {
    const zone = e.target.closest(".zone");
    if (e.button !== 0 || (zone && zone === document.activeElement)) return;
    const from = pointIn(svg, e);
    const word = e.target.closest(".word");
    let rubber = null;
    const move = (m) => {
      const to = pointIn(svg, m);
      if (!rubber && Math.hypot(to.x - from.x, to.y - from.y) < 5) return;
      rubber ??= rubberOn(svg);
      put(rubber, { x: Math.min(from.x, to.x), y: Math.min(from.y, to.y), w: Math.abs(to.x - from.x), h: Math.abs(to.y - from.y) });
    };
    const up = (u) => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
      const box = rubber ? boxOf(rubber) : word ? grown(boxOf(word), 2) : null;
      rubber?.remove();
      if (!rubber && zone) zone.focus();
      if (box) taken(box, u);
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
    e.preventDefault();
  });
}

function setUpReader(svg) {
  const post = (handler, values) => sendToSheet(`${svg.dataset.marks}?handler=${handler}&sample=${svg.dataset.sample}`, values);
  const take = (box) => {
    const tool = document.querySelector("input[name=tool]:checked")?.value ?? "zone";
    if (tool === "picture") {
      return post("Picture", shares(svg, box));
    } else if (tool === "clue" || tool === "landmark") {
      const words = wordsIn(svg, box);
      if (words.length === 0) return null;
      const text = words.map((w) => w.dataset.text).join(" ");
      return post(tool === "clue" ? "Clue" : "Landmark", { text, ...shares(svg, around(words.map(boxOf))) });
    } else {
      return post("Zone", { zone: document.getElementById("zone-field").value, ...shares(svg, grown(box, 3)) });
    }
  };
  onRegion(svg, take);
  // What is taken with the keys gives the focus back, so that the next word is an arrow away.
  chooseWords(svg, (box) => take(box)?.then(() => document.querySelector("svg[data-marks]")?.focus()));
  for (const zone of svg.querySelectorAll(".zone")) setUpZone(svg, zone, post);
}

function setUpZone(svg, zone, post) {
  const area = zone.querySelector(".area"), handle = zone.querySelector(".handle"), key = zone.dataset.zone;
  const keep = () => post("Zone", { zone: key, ...shares(svg, boxOf(area)) }).then(() => document.getElementById(zone.id)?.focus());
  const show = (b) => {
    put(area, b);
    put(handle, { x: b.x + b.w - 6, y: b.y + b.h - 6, w: 12, h: 12 });
  };
  zone.addEventListener("pointerdown", (e) => {
    if (e.button !== 0 || zone !== document.activeElement) return;
    e.preventDefault();
    const from = pointIn(svg, e), before = boxOf(area), resizing = e.target === handle;
    const move = (m) => {
      const to = pointIn(svg, m), dx = to.x - from.x, dy = to.y - from.y;
      show(resizing ? stretched(before, dx, dy) : { ...before, x: before.x + dx, y: before.y + dy });
    };
    const up = () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
      const now = boxOf(area);
      if (["x", "y", "w", "h"].some((side) => Math.abs(now[side] - before[side]) > 1)) keep();
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
  });
  let waiting = 0;
  zone.addEventListener("keydown", (e) => {
    if (e.key === "Delete") { e.preventDefault(); post("RemoveZone", { zone: key }); return; }
    const step = { ArrowLeft: [-2, 0], ArrowRight: [2, 0], ArrowUp: [0, -2], ArrowDown: [0, 2] }[e.key];
    if (!step) return;
    e.preventDefault();
    const b = boxOf(area);
    show(e.shiftKey ? stretched(b, ...step) : { ...b, x: b.x + step[0], y: b.y + step[1] });
    // Several nudges in a row are kept once.
    clearTimeout(waiting);
    waiting = setTimeout(keep, 450);
  });
}

export const setUpMarks = (root) => each(root, "svg[data-marks]", setUpReader);
