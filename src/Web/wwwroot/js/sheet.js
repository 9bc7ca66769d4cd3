// What every part of a page uses: sending to the server and showing what comes back; setting up what has come, once.

/** Sends a form-like request and shows the sheet that comes back. */
export const sendToSheet = (url, values) =>
  htmx.ajax("POST", url, { values, target: "#sheet", select: "#sheet", swap: "outerHTML", source: document.body });

/** Shows another page's sheet. */
export const showSheet = (url) => htmx.ajax("GET", url, { target: "#sheet", select: "#sheet", swap: "outerHTML" });

/** Sets up each element that a selector finds in what has come, once. */
export function each(root, selector, setUp) {
  for (const element of root.querySelectorAll(selector)) {
    if (element.dataset.ready) continue;
    element.dataset.ready = "yes";
    setUp(element);
  }
}
