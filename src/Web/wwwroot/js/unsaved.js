// What is typed and not stored yet: it is marked, sent before a key or a link leads away, and kept over a reload, a way back and a new
// sign-in.

// The cells of a grid are gathered by it into a hidden input.
const TYPED = ["input:not([type])", "[type=text]", "[type=number]", "[type=date]", "[type=hidden][data-rows]", "textarea"]
  .map((i) => `main form ${i}`).join();
// Forms of one value, which is stored when it is left.
const BY_ITSELF = ".one-value, .field-value";

const isPosting = (form) => form?.method === "post" || form?.hasAttribute("hx-post");
const typedIn = (root) => [...root.querySelectorAll(TYPED)].filter((i) => isPosting(i.form) && i.name);
const storedOf = (input) => input.dataset.stored ?? input.defaultValue;
export const isUnsaved = (input) => input.value !== storedOf(input);
const storesByItself = (input) => input.form?.matches(BY_ITSELF) && input.name === "text";

// Kept by person and page in this window only; a blank by its form's address and its own name.
const person = () => document.querySelector(".bar .menu > button")?.textContent.trim() ?? "";
const store = () => `typed ${person()} ${location.pathname}`;
const addressOf = (form) => form.getAttribute("hx-post") || form.getAttribute("action") || "";
const nameOf = (input) => {
  const address = addressOf(input.form);
  const same = [...document.querySelectorAll("main form")].filter((f) => addressOf(f) === address);
  const alike = [...input.form.querySelectorAll(`[name="${input.name}"]`)];
  return `${address} ${same.indexOf(input.form)} ${input.name} ${alike.indexOf(input)}`;
};
const kept = () => { try { return JSON.parse(sessionStorage.getItem(store()) ?? "{}"); } catch { return {}; } };
function keep(input) {
  const all = kept();
  if (isUnsaved(input)) all[nameOf(input)] = input.value;
  else delete all[nameOf(input)];
  try {
    if (Object.keys(all).length === 0) sessionStorage.removeItem(store());
    else sessionStorage.setItem(store(), JSON.stringify(all));
  } catch { /* without room it is only not kept over a reload */ }
}

const blankOf = (input) => document.querySelector(`[data-grid="${input.id}"] [data-column]`) ?? input;

/** The word beside a blank, with the way to store it where its form has no button of its own. */
function mark(input) {
  const place = input.closest(".field")?.querySelector(".line")
    ?? input.closest(".field-value")?.querySelector(".said-line") ?? input.parentElement;
  const known = place.querySelector(":scope > .unsaved");
  if (!isUnsaved(input)) { if (known?.dataset.of === input.name) known.remove(); return; }
  if (known) return;
  const word = Object.assign(document.createElement("span"), { className: "unsaved small", textContent: "not saved" });
  word.dataset.of = input.name;
  if (storesByItself(input)) {
    const save = Object.assign(document.createElement("button"), { type: "button", className: "do ms-2", textContent: "Save" });
    // The button goes with its word: the focus is where was typed.
    save.addEventListener("click", () => { send(input); blankOf(input).focus(); });
    save.tabIndex = -1;
    word.append(save);
  }
  place.append(word);
}

function stored(input, value) {
  input.dataset.stored = value;
  keep(input);
  mark(input);
}

const send = (input) => (input.form.matches(".field-value") ? input.form.requestSubmit() : htmx.trigger(input, "change"));

// Requests that store something, with what sent them: by then that may have been swapped away.
const underWay = new Map();
const isSending = (input) => [...underWay.values()].some((elt) => elt === input || elt === input.form);
const waits = () => typedIn(document).filter((i) => storesByItself(i) && isUnsaved(i));

/** Stores what is typed in forms of one value; false when something could not be stored. */
export async function flush() {
  for (const input of waits()) if (!isSending(input)) send(input);
  for (let tries = 0; tries < 300 && underWay.size > 0; tries++) await new Promise((done) => setTimeout(done, 50));
  return waits().length === 0;
}

document.addEventListener("input", (e) => {
  const field = e.target.closest?.(".field");
  if (field) field.dataset.typed = "yes";
  if (!typedIn(document).includes(e.target)) return;
  keep(e.target);
  mark(e.target);
});

// What is stored already, since a key has led away, is not sent once more when it is left: the answer would shut what the key has opened.
document.addEventListener("change", (e) => {
  if (e.target.matches?.(".one-value input[name=text]") && !isUnsaved(e.target)) e.stopPropagation();
}, true);

// By field, what was typed is stored when it is left, as it is by document.
document.addEventListener("change", (e) => {
  const input = e.target;
  if (input.matches(".field-value input[name=text]") && isUnsaved(input) && !isSending(input)) input.form.requestSubmit();
});

document.addEventListener("htmx:beforeRequest", (e) => {
  const { elt, requestConfig } = e.detail;
  const field = elt.closest?.("[data-desk] .field");
  // A look at what was typed before it was stored would take back what storing has said.
  if (requestConfig.verb === "get" && elt === field && !field.dataset.typed) { e.preventDefault(); return; }
  if (requestConfig.verb !== "post") return;
  if (field) delete field.dataset.typed;
  if (elt.closest(BY_ITSELF)) underWay.set(e.detail.xhr, elt);
});

document.addEventListener("htmx:afterRequest", (e) => underWay.delete(e.detail.xhr));

// Before the answer takes its place, while what was sent still stands there.
document.addEventListener("htmx:beforeOnLoad", (e) => {
  const { elt, requestConfig, xhr } = e.detail;
  if (requestConfig.verb !== "post" || xhr.status >= 400 || xhr.getResponseHeader("X-Not-Kept")) return;
  const form = elt.matches("form") ? elt : elt.form;
  if (elt.matches(".one-value input")) stored(elt, requestConfig.parameters.text ?? elt.value);
  else if (form && !xhr.responseText.includes("notice problem")) {
    for (const input of typedIn(document).filter((i) => i.form === form)) stored(input, input.value);
  }
});

// A form that a browser sends by itself ends in a page of its own, which shows what was refused as it was typed.
document.addEventListener("submit", (e) => {
  if (e.target.hasAttribute("hx-post") || !isPosting(e.target)) return;
  for (const input of typedIn(document).filter((i) => i.form === e.target)) stored(input, input.value);
});

// Who leaves twice, leaves: what is typed is then kept in this window.
let refused = false;
document.addEventListener("click", async (e) => {
  const link = e.target.closest?.("a[href]");
  const apart = e.ctrlKey || e.metaKey || e.shiftKey || e.button > 0;
  const leads = link && !link.target && !link.getAttribute("href").startsWith("#") && !apart;
  const files = e.target.closest?.("#file-this button");
  if (!(leads || files) || refused || (waits().length === 0 && underWay.size === 0)) return;
  e.preventDefault();
  e.stopPropagation();
  if (await flush()) (link ?? document.querySelector("#file-this button"))?.click();
  else {
    refused = true;
    setTimeout(() => { refused = false; }, 5000);
    waits()[0]?.focus();
  }
}, true);

function say(id, text, ...more) {
  document.getElementById(id)?.remove();
  const notice = Object.assign(document.createElement("div"), { id, className: "notice problem" });
  notice.setAttribute("role", "alert");
  notice.append(text, ...more);
  document.querySelector("main")?.prepend(notice);
}

document.addEventListener("htmx:sendError", (e) => {
  underWay.delete(e.detail.xhr);
  say("no-line", "The server cannot be reached. What you typed is still here, marked as not saved; it is sent when the line is back.");
});
const back = () => document.getElementById("no-line") && flush().then((all) => { if (all) document.getElementById("no-line")?.remove(); });
window.addEventListener("online", back);
setInterval(back, 5000);

// A server error comes back as a page: say so instead of doing nothing.
document.addEventListener("htmx:responseError", (e) => {
  underWay.delete(e.detail.xhr);
  if (e.detail.xhr.status === 401) {
    const link = Object.assign(document.createElement("a"), {
      href: `/SignIn?returnUrl=${encodeURIComponent(location.pathname + location.search)}`,
      textContent: "Sign in again",
    });
    say("signed-out", "You are signed out, so nothing was saved. What you typed is kept in this window. ", link);
  } else say("refused", `The server could not do that (${e.detail.xhr.status}). Nothing was changed.`);
});

// Work that ends shows the page anew, unless somebody is in the middle of something.
document.addEventListener("job-ended", () => {
  const busy = typedIn(document).some(isUnsaved) || document.activeElement?.matches("input:not([type=checkbox]), textarea, select");
  if (!busy) { location.reload(); return; }
  const show = Object.assign(document.createElement("a"), { href: location.href, className: "do", textContent: "Show the page anew" });
  document.getElementById("progress")?.replaceChildren("It has ended. ", show);
});

/** What was typed here before the page was left. */
export function setUpTyped(root) {
  const all = kept();
  if (Object.keys(all).length === 0) return;
  for (const input of typedIn(document)) {
    if (!root.contains(input) || isUnsaved(input)) continue;
    const text = all[nameOf(input)];
    if (text === undefined || text === input.value) continue;
    input.value = text;
    input.dispatchEvent(new Event("restored"));
    mark(input);
    input.closest("details")?.setAttribute("open", "");
  }
}
