// Where one is after an act: the focus stays where it was, or goes to what stands in its place; what was refused is told beside the blank
// that it names, and to those who do not see it.

const wordsOf = (element) => (element.matches("button, a, summary") ? element.textContent.trim() : "");

/** What tells an element apart from others when the page around it is made anew. */
const markOf = (element) => ({
  id: element.id,
  tag: element.tagName,
  name: element.getAttribute("name"),
  form: postOf(element),
  text: wordsOf(element),
  // Where what it moves stands afterwards.
  then: element.dataset.then ?? null,
});

export const postOf = (element) => {
  const form = element.closest("form");
  return form && (form.getAttribute("hx-post") ?? form.getAttribute("action") ?? "");
};

/** The element in a page that another one was before the page was made anew; null for none. */
export function sameAs(mark, root) {
  const moved = mark.then && root.ownerDocument.getElementById(mark.then);
  if (moved) {
    const row = moved.closest("details");
    row.open = true;
    return [...row.querySelectorAll(mark.tag)].find((e) => e.textContent.trim() === mark.text && !e.disabled) ?? moved;
  }
  if (mark.id) {
    const same = root.ownerDocument.getElementById(mark.id);
    if (same) return same;
  }
  return [...root.querySelectorAll(mark.tag)].find((e) =>
    e.getAttribute("name") === mark.name && postOf(e) === mark.form && wordsOf(e) === mark.text) ?? null;
}

/** The blank of a form that a message names by its label; the longest label wins. Null for none. */
export function namedBy(message, form) {
  const folded = message.toLowerCase();
  return [...form.querySelectorAll("label")]
    .map((label) => ({ words: label.firstChild?.textContent.split(/[,;:(]/)[0].trim().toLowerCase() ?? "", blank: label.control }))
    .filter((l) => l.words.length > 2 && l.blank && !l.blank.disabled && folded.includes(l.words))
    .sort((a, b) => b.words.length - a.words.length)[0]?.blank ?? null;
}

/** Tells beside a form why it was refused: at the blank that the message names, or before the button. */
export function tellBeside(form, message) {
  const told = form.ownerDocument.createElement("p");
  told.className = "said refused";
  told.id = `refused-${form.ownerDocument.querySelectorAll(".refused").length}`;
  told.tabIndex = -1;
  told.textContent = message;
  const blank = namedBy(message, form);
  if (blank) {
    blank.setAttribute("aria-invalid", "true");
    blank.setAttribute("aria-describedby", [blank.getAttribute("aria-describedby"), told.id].filter(Boolean).join(" "));
    blank.after(told);
    return blank;
  }
  const button = form.querySelector("button:not([type=button])");
  if (button) button.before(told);
  else form.append(told);
  return told;
}

// What may be put back: not what is a secret, chosen from the disk, or the page's own.
const isTyped = (control) => control.name && !control.disabled && !/^(password|file|hidden|submit|button|image|reset)$/.test(control.type);
const ticks = (control) => control.type === "checkbox" || control.type === "radio";

/** What a form holds that a person typed or chose. */
export const typedIn = (form) => [...form.elements].filter(isTyped).map((control) => ({
  name: control.name,
  value: control.value,
  ticked: ticks(control) ? control.checked : null,
  chosen: control.multiple ? [...control.selectedOptions].map((o) => o.value) : null,
}));

/** Puts back what a person typed into a form that was refused and came anew without it. */
export function putBack(form, typed) {
  const left = [...typed];
  for (const control of [...form.elements].filter(isTyped)) {
    const isOf = (t) => t.name === control.name && (t.ticked === null ? !ticks(control) : ticks(control) && t.value === control.value);
    const at = left.findIndex(isOf);
    if (at < 0) continue;
    const [was] = left.splice(at, 1);
    if (was.ticked !== null) control.checked = was.ticked;
    else if (was.chosen) for (const option of control.options) option.selected = was.chosen.includes(option.value);
    else if (control.value !== was.value && (control.tagName !== "SELECT" || [...control.options].some((o) => o.value === was.value)))
      putIn(control, was.value);
  }
}

// As if it were typed again, so that it is marked as not saved.
function putIn(control, value) {
  control.value = value;
  control.dispatchEvent(new Event("input", { bubbles: true }));
}

/** What can have the focus of an element: itself, or the head of the outermost part in which it is shut away. */
export function headOf(element) {
  let head = element;
  for (let part = element.closest("details"); part; part = part.parentElement.closest("details")) {
    const summary = part.querySelector(":scope > summary");
    if (!part.open && summary && !summary.contains(element)) head = summary;
  }
  return head;
}

const shown = (element) => element.checkVisibility({ visibilityProperty: true });
const lost = () => !document.activeElement || document.activeElement === document.body;
let [before, sent] = [null, null];

document.addEventListener("htmx:beforeRequest", (e) => {
  const form = e.detail.elt.closest?.("form");
  if (form) sent = { post: postOf(form), key: form.id, typed: typedIn(form) };
});
document.addEventListener("htmx:beforeSwap", (e) => {
  const at = document.activeElement;
  before = at && at !== document.body && e.detail.target.contains(at) ? markOf(at) : null;
});
document.addEventListener("htmx:afterSettle", () => {
  const sheet = document.getElementById("sheet");
  const refused = sheet?.querySelector(".notice.problem[role=alert]:not([data-told])");
  const done = sheet?.querySelector(".notice[role=status]:not([data-told])");
  for (const notice of [refused, done]) if (notice) { notice.dataset.told = "yes"; say(notice); }
  if (refused && sent) {
    const form = [...sheet.querySelectorAll("form")].find((f) => (sent.key ? f.id === sent.key : postOf(f) === sent.post) && shown(f));
    // Values that are stored one by one have a way of their own.
    if (form && !form.matches(".one-value, .field-value")) putBack(form, sent.typed);
    const to = form && tellBeside(form, refused.querySelector("span:last-child").textContent.trim());
    to?.focus();
    to?.scrollIntoView({ block: "nearest" });
  }
  sent = null;
  if (!before || !lost()) return;
  const found = sameAs(before, document.body);
  const same = found && headOf(found);
  const to = same && shown(same) && !same.disabled ? same : refused ?? done ?? sheet?.querySelector("h1");
  before = null;
  if (!to) return;
  if (!to.matches("a, button, input, select, textarea, summary, [tabindex]")) to.tabIndex = -1;
  to.focus({ preventScroll: to.matches("h1") });
});

/** Puts what was said into a place that is not made anew, which is what readers of screens listen to. */
function say(notice) {
  const place = document.getElementById("said");
  if (place) place.textContent = notice.textContent.replace(/\s+/g, " ").trim();
}

// A page that comes whole with a refusal shows it.
document.addEventListener("DOMContentLoaded", () => {
  const refused = document.querySelector("#sheet .notice.problem[role=alert]");
  if (!refused) return;
  refused.dataset.told = "yes";
  refused.tabIndex = -1;
  refused.focus();
});
