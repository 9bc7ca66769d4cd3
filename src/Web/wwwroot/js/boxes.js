// Boxes on a drawing, in its own units: read, put, joined, and said as shares of the page, so that they hold at any size.

export const boxOf = (rect) => {
  const [x, y, w, h] = ["x", "y", "width", "height"].map((name) => +rect.getAttribute(name));
  return { x, y, w, h };
};

export function put(rect, b) {
  for (const [name, value] of [["x", b.x], ["y", b.y], ["width", b.w], ["height", b.h]]) rect.setAttribute(name, value);
}

export function shares(svg, b) {
  const { width, height } = svg.viewBox.baseVal;
  return { x: b.x / width, y: b.y / height, w: b.w / width, h: b.h / height };
}

export const around = (boxes) => {
  const x = Math.min(...boxes.map((b) => b.x)), y = Math.min(...boxes.map((b) => b.y));
  return { x, y, w: Math.max(...boxes.map((b) => b.x + b.w)) - x, h: Math.max(...boxes.map((b) => b.y + b.h)) - y };
};

export const grown = (b, by) => ({ x: b.x - by, y: b.y - by, w: b.w + 2 * by, h: b.h + 2 * by });

/** Moved or stretched, but not beyond a page of this size. */
export function within(b, width, height) {
  const w = Math.min(Math.max(b.w, 8), width), h = Math.min(Math.max(b.h, 8), height);
  return { x: Math.min(Math.max(b.x, 0), width - w), y: Math.min(Math.max(b.y, 0), height - h), w, h };
}

/** A box that is drawn for as long as something is being chosen. */
export function rubberOn(svg, more = "") {
  const rubber = document.createElementNS("http://www.w3.org/2000/svg", "rect");
  rubber.setAttribute("class", `rubber ${more}`.trim());
  svg.append(rubber);
  return rubber;
}
