// What the application's scripts compute, without a browser: run by ScriptTests with Node's own runner and a DOM of happy-dom.
import assert from "node:assert/strict";
import { createRequire } from "node:module";
import { beforeEach, test } from "node:test";

const { Window } = createRequire(new URL("../../src/Web/package.json", import.meta.url))("happy-dom");
const window = new Window({ url: "http://127.0.0.1/Desk/Document/7" });
for (const name of ["window", "document", "HTMLElement", "Event", "KeyboardEvent", "MouseEvent", "sessionStorage", "location", "CSS"])
  globalThis[name] = name === "window" ? window : window[name];
const from = (script) => import(new URL(`../../src/Web/wwwroot/js/${script}`, import.meta.url));
const [boxes, , focus, grid, keys, words, unsaved] =
  await Promise.all(["boxes.js", "choices.js", "focus.js", "grid.js", "keys.js", "words.js", "unsaved.js"].map(from));

const show = (html) => { document.body.innerHTML = `<main id="sheet">${html}</main>`; };
const at = (css) => document.querySelector(css);
beforeEach(() => show(""));

test("a message stands at the blank that it names by its label, the longest label first", () => {
  show(`<form hx-post="?handler=Field"><label for="a">Name</label><input id="a"><label for="b">Name of the ship, as painted</label><input id="b">
    <button>Save</button></form>`);
  assert.equal(focus.namedBy("Name of the ship is empty.", at("form")).id, "b");
  assert.equal(focus.namedBy("Write a name of at most 80 characters.", at("form")).id, "a");
  assert.equal(focus.namedBy("The disk is full.", at("form")), null);
  assert.equal(focus.tellBeside(at("form"), "Name of the ship is empty.").id, "b");
  assert.equal(at("#b").getAttribute("aria-invalid"), "true");
  assert.equal(at(`#${at("#b").getAttribute("aria-describedby")}`).textContent, "Name of the ship is empty.");
  const told = focus.tellBeside(at("form"), "The disk is full.");
  assert.equal(told.nextElementSibling.tagName, "BUTTON");
  assert.equal(told.tabIndex, -1);
});

test("what was typed into a form that is refused is put back, but for secrets and what the page holds itself", () => {
  const form = (name, of) => `<form hx-post="?handler=Add"><input type="hidden" name="mark" value="${of}"><input name="name" value="${name}">
    <input type="password" name="word" value=""><input type="checkbox" name="role" value="a" checked><input type="checkbox" name="role" value="b">
    <select name="kind"><option selected>Text</option><option>Date</option></select><textarea name="note"></textarea></form>`;
  show(form("", "1"));
  at("[name=name]").value = "Femke";
  at("[name=word]").value = "secret";
  at("[value=a]").checked = false;
  at("[value=b]").checked = true;
  at("select").value = "Date";
  at("textarea").value = "two\nlines";
  const typed = focus.typedIn(at("form"));
  show(form("", "2"));
  focus.putBack(at("form"), typed);
  assert.deepEqual(
    ["[name=name]", "[name=word]", "select", "textarea", "[name=mark]"].map((css) => at(css).value),
    ["Femke", "", "Date", "two\nlines", "2"]);
  assert.deepEqual([at("[value=a]").checked, at("[value=b]").checked], [false, true]);
});

test("what stood at the focus is found again by its id, or by its form, name and words", () => {
  const buttons = (n) => [1, 2].map((i) => `<form hx-post="?x=${i}"><button name="go">Stop ${n}</button></form>`).join("");
  show(buttons(""));
  const second = document.querySelectorAll("button")[1];
  const mark = { id: "", tag: "BUTTON", name: "go", form: focus.postOf(second), text: second.textContent.trim() };
  show(buttons(""));
  assert.equal(focus.sameAs(mark, document.body), document.querySelectorAll("button")[1]);
  show(buttons("it"));
  assert.equal(focus.sameAs(mark, document.body), null);
  show(`<input id="vessel">`);
  assert.equal(focus.sameAs({ ...mark, id: "vessel" }, document.body).id, "vessel");
});

const table = (rows) => `<input type="hidden" id="kin"><div data-grid="kin" data-most="4"><table><tbody>${rows
  .map((cells, i) => `<tr data-row><th>${i + 1}</th>${["what", "rate"]
    .map((c, j) => `<td><input data-column="${c}" value="${cells[j]}" aria-label="${c}, row ${i + 1}"></td>`)
    .join("")}<td><button data-remove-row aria-label="Remove row ${i + 1}"></button></td></tr>`)
  .join("")}</tbody></table><span data-sum="rate"></span><span data-grid-said></span></div>`;

test("what is shut away has the focus at its head; what was moved keeps it where it stands now", () => {
  show(`<details id="outer"><summary>Limits</summary><details open><summary>More</summary><button>Save</button></details></details>
    <details><summary id="piece-1">Year</summary><button>Move right</button></details>
    <details><summary id="piece-2">Month</summary><button disabled>Move right</button></details>`);
  assert.equal(focus.headOf(at("#outer button")).textContent, "Limits");
  at("#outer").open = true;
  assert.equal(focus.headOf(at("#outer button")).textContent, "Save");
  const moved = (then) => focus.sameAs({ id: "", tag: "BUTTON", name: null, form: null, text: "Move right", then }, document.body);
  assert.equal(moved("piece-1").closest("details").open, true);
  assert.equal(moved("piece-1").textContent, "Move right");
  // At the end of its line it can go no further: its head.
  assert.equal(moved("piece-2"), at("#piece-2"));
});

test("a table is one value: rows without empty cells, their sum to the places that are typed, one empty row more", () => {
  show(table([["Towage", "1.10"], ["", ""], ["Pilot", "2.2"]]));
  grid.setUpGrids(document);
  assert.deepEqual(JSON.parse(at("#kin").value), [{ what: "Towage", rate: "1.10" }, { what: "Pilot", rate: "2.2" }]);
  assert.equal(at("[data-sum]").textContent, "3.30");
  assert.equal(document.querySelectorAll("[data-row]").length, 4);
  at("[data-column=rate]").value = "1,10";
  at("[data-grid]").dispatchEvent(new Event("input", { bubbles: true }));
  assert.equal(at("[data-sum]").textContent, "—");
});

test("pasted rows go in from the cell with the focus, and no more than the table takes", () => {
  show(table([["", ""]]));
  grid.setUpGrids(document);
  const paste = (text) => {
    const event = new Event("paste", { bubbles: true, cancelable: true });
    event.clipboardData = { getData: () => text };
    at("[data-column]").dispatchEvent(event);
  };
  paste("Towage\t5\r\nPilot\t6\n");
  assert.deepEqual(JSON.parse(at("#kin").value), [{ what: "Towage", rate: "5" }, { what: "Pilot", rate: "6" }]);
  const before = at("#kin").value;
  paste("a\tb\n".repeat(6));
  assert.match(at("[data-grid-said]").textContent, /nothing was pasted/);
  assert.equal(at("#kin").value, before);
});

test("a row that is moved or removed takes its number and its labels along", () => {
  show(table([["A", "1"], ["B", "2"]]));
  grid.setUpGrids(document);
  const key = (css, init) => at(css).dispatchEvent(new KeyboardEvent("keydown", { bubbles: true, cancelable: true, ...init }));
  key("[data-row]:nth-child(2) [data-column]", { key: "ArrowUp", altKey: true });
  assert.deepEqual(JSON.parse(at("#kin").value).map((r) => r.what), ["B", "A"]);
  assert.equal(at("[data-row] [data-column]").getAttribute("aria-label"), "what, row 1");
  key("[data-row] [data-column]", { key: "Delete", ctrlKey: true });
  assert.deepEqual(JSON.parse(at("#kin").value).map((r) => r.what), ["A"]);
});

test("a region is what lies around its words, in shares of the page", () => {
  const around = boxes.around([{ x: 10, y: 20, w: 30, h: 5 }, { x: 35, y: 10, w: 10, h: 5 }]);
  assert.deepEqual(around, { x: 10, y: 10, w: 35, h: 15 });
  assert.deepEqual(boxes.grown(around, 2), { x: 8, y: 8, w: 39, h: 19 });
  show(`<svg viewBox="0 0 200 100"></svg>`);
  const svg = at("svg");
  if (!svg.viewBox?.baseVal?.width) Object.defineProperty(svg, "viewBox", { value: { baseVal: { width: 200, height: 100 } } });
  const shares = boxes.shares(svg, { x: 20, y: 10, w: 100, h: 50 });
  assert.deepEqual([shares.x, shares.y, shares.w, shares.h].map(Number), [0.1, 0.1, 0.5, 0.5]);
});

test("arrows go from word to word along lines, and over their ends", () => {
  const word = (text, x, y) => `<rect class="word" data-text="${text}" x="${x}" y="${y}" width="20" height="10"></rect>`;
  show(`<svg>${word("Grey", 0, 0)}${word("Heron", 30, 1)}${word("Pilot", 0, 30)}${word("Holt", 30, 31)}</svg><p data-chosen-words></p>`);
  for (const e of document.querySelectorAll("svg, rect")) e.scrollIntoView = () => {};
  window.SVGElement.prototype.scrollIntoView = () => {};
  let taken = null;
  words.chooseWords(at("svg"), (box) => { taken = box; });
  const press = (key, init = {}) => at("svg").dispatchEvent(new KeyboardEvent("keydown", { key, cancelable: true, ...init }));
  press("Home");
  const said = [];
  for (const key of ["ArrowRight", "ArrowRight", "ArrowRight", "ArrowUp"]) { press(key); said.push(at("[data-chosen-words]").textContent); }
  assert.deepEqual(said, ["Heron", "Pilot", "Holt", "Heron"]);
  press("Enter");
  assert.ok(taken.w > 20);
});

test("Space lets go of the words: the box is moved and stretched, never off the page; Escape goes back step by step", () => {
  show(`<input id="field"><svg tabindex="0" viewBox="0 0 200 100"><rect class="word" data-text="Grey" x="170" y="40" width="20" height="10"></rect></svg>`);
  window.SVGElement.prototype.scrollIntoView = () => {};
  const svg = at("svg");
  if (!svg.viewBox?.baseVal?.width) Object.defineProperty(svg, "viewBox", { value: { baseVal: { width: 200, height: 100 } } });
  let taken = null;
  words.chooseWords(svg, (box) => { taken = box; }, { back: () => at("#field").focus() });
  const press = (key, init = {}) => svg.dispatchEvent(new KeyboardEvent("keydown", { key, cancelable: true, ...init }));
  svg.focus();
  press("Home");
  press(" ");
  for (let n = 0; n < 9; n++) press("ArrowRight");
  press("ArrowUp");
  press("ArrowDown", { shiftKey: true });
  press("Enter");
  assert.deepEqual(taken, { x: 176, y: 32, w: 24, h: 20 });
  press("Escape");
  press("Enter");
  assert.deepEqual(taken, { x: 168, y: 38, w: 24, h: 14 });
  press("Escape");
  assert.equal(document.activeElement, at("#field"));
});

test("a letter with Alt is the same with Caps Lock, and where Option writes another character", () => {
  const letter = (init) => keys.letterWithAlt(new KeyboardEvent("keydown", { altKey: true, ...init }));
  assert.equal(letter({ key: "N", code: "KeyN" }), "n");
  assert.equal(letter({ key: "\u02dc", code: "KeyN" }), "n");
  // Where letters lie elsewhere, what is written on the key counts.
  assert.equal(letter({ key: "n", code: "KeyL" }), "n");
  assert.equal(letter({ key: "n", code: "KeyN", ctrlKey: true }), null);
  assert.equal(letter({ key: "Enter", code: "Enter" }), null);
});

test("a choice made with the arrows is told of once, with Enter or on leaving; one made by pointer at once", () => {
  show(`<select><option>Towage</option><option>Pilotage</option><option>Berth</option></select><input>`);
  const select = at("select");
  const told = [];
  select.addEventListener("change", () => told.push(select.value));
  const arrow = (key, to) => {
    select.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true }));
    if (!to) return;
    select.value = to;
    select.dispatchEvent(new Event("change", { bubbles: true }));
  };
  select.focus();
  arrow("ArrowDown", "Pilotage");
  arrow("ArrowDown", "Berth");
  assert.deepEqual(told, []);
  arrow("Enter");
  assert.deepEqual(told, ["Berth"]);
  arrow("ArrowUp", "Pilotage");
  select.dispatchEvent(new Event("focusout", { bubbles: true }));
  assert.deepEqual(told, ["Berth", "Pilotage"]);
  select.value = "Towage";
  select.dispatchEvent(new Event("change", { bubbles: true }));
  assert.deepEqual(told, ["Berth", "Pilotage", "Towage"]);
});

test("a blank is unsaved while it holds something else than what is stored", () => {
  show(`<form hx-post="?handler=Set"><input name="text" value="Grey Heron"></form>`);
  const input = at("input");
  assert.equal(unsaved.isUnsaved(input), false);
  input.value = "Corvina";
  assert.equal(unsaved.isUnsaved(input), true);
  input.dataset.stored = "Corvina";
  assert.equal(unsaved.isUnsaved(input), false);
});
