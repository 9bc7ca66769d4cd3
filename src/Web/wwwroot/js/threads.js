// Threads: one value followed all the way, by pointer or keyboard; the drawing saved as PNG.
import { each, showSheet } from "./sheet.js";

function followValues(svg) {
  const ends = new Map([...svg.querySelectorAll("[data-end]")].map((end) => [end.dataset.end, end]));
  const lines = [...svg.querySelectorAll(".line")];
  const stories = [...document.querySelectorAll("[data-story]")];
  const kept = ends.get(svg.dataset.threads) ?? null;
  // The pieces and rules of a field are told with the field; a region is told by the field it fills.
  const fieldOf = (region) => region.dataset.follows.split(" ").find((n) => ends.get(n)?.classList.contains("field"));
  const storyOf = (end) => (end.classList.contains("region") ? fieldOf(end) : end.dataset.end);

  const follow = (end) => {
    const lit = new Set(end?.dataset.follows.split(" ") ?? []);
    svg.classList.toggle("following", end !== null);
    for (const [n, e] of ends) e.classList.toggle("lit", lit.has(n));
    for (const line of lines) line.classList.toggle("lit", lit.has(line.dataset.left) && lit.has(line.dataset.right));
    for (const story of stories) story.hidden = end === null || story.dataset.story !== storyOf(end);
  };

  // One stop for Tab; the arrows go on from there.
  const list = [...ends.values()];
  const stop = (end) => { for (const e of list) e.setAttribute("tabindex", e === end ? "0" : "-1"); };
  const columnOf = (end) => (end.matches(".region, .source") ? 0 : end.matches(".field") ? 1 : 2);
  stop(kept ?? list.find((e) => columnOf(e) === 1) ?? list[0]);

  // The frame listens: a drawing that listens for the focus would take it itself.
  const frame = svg.parentElement;
  svg.addEventListener("pointerover", (e) => { const end = e.target.closest("[data-end]"); if (end) follow(end); });
  svg.addEventListener("pointerleave", () => follow(svg.contains(document.activeElement) ? document.activeElement : kept));
  frame.addEventListener("focusin", (e) => { const end = e.target.closest("[data-end]"); if (end) { stop(end); follow(end); } });
  frame.addEventListener("focusout", (e) => { if (!svg.contains(e.relatedTarget)) follow(kept); });
  frame.addEventListener("keydown", (e) => {
    const end = e.target.closest("[data-end]");
    if (!end) return;
    if (e.key === "Escape") {
      if (kept) showSheet(svg.dataset.release); else end.blur();
      return;
    }
    const column = list.filter((x) => columnOf(x) === columnOf(end));
    const along = (side) => end.dataset.follows.split(" ").map((n) => ends.get(n)).find((x) => x && columnOf(x) === columnOf(end) + side);
    const moves = {
      ArrowUp: () => column[column.indexOf(end) - 1],
      ArrowDown: () => column[column.indexOf(end) + 1],
      ArrowLeft: () => along(-1),
      ArrowRight: () => along(1),
    };
    const to = moves[e.key]?.();
    if (!to) return;
    e.preventDefault();
    to.focus();
  });
  follow(kept);
}

/** Draws the saved form of the drawing twice as large and hands it over as a PNG file. */
async function saveAsPng(link) {
  const text = await (await fetch(link.href)).text();
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
  await image.decode();
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [image.width * 2, image.height * 2];
  canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
  const save = document.createElement("a");
  [save.href, save.download] = [canvas.toDataURL("image/png"), link.dataset.png];
  save.click();
}

document.addEventListener("click", (e) => {
  const link = e.target.closest?.("[data-png]");
  if (link) { e.preventDefault(); saveAsPng(link); }
  if (e.target.closest?.("[data-print]")) window.print();
});

export const setUpThreads = (root) => each(root, "svg[data-threads]", followValues);
