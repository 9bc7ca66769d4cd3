// What can be used on a page, and how the page stands. Runs inside the page; each function is called by the walk.
window.presses ??= (() => {
  const controls = "button, summary, select, input[type=checkbox], input[type=radio], input[list], input[hx-get]";
  const blanks = ["input:not([type])", "[type=text]", "[type=number]", "[type=date]", "textarea"].map((i) => `main ${i}`).join();
  const posts = (e) => e.matches("[data-column]") || (e.name && (e.form?.method === "post" || e.form?.hasAttribute("hx-post")));
  const isTyped = (e) => e.matches(blanks) && posts(e) && !e.readOnly;
  // The cells of a grid are stored as one.
  const storing = (e) => (e.matches("[data-column]") ? document.getElementById(e.closest("[data-grid]").dataset.grid) : e);
  const shown = (e) => e.checkVisibility({ visibilityProperty: true }) && !e.disabled && e.closest("#sheet, header") !== null
    && !(e.matches("select") && [...e.options].filter((o) => !o.disabled).length < 2);

  // Addresses of one kind: names of pages and handlers are kept, codes, numbers and words are not.
  const pattern = (address) => {
    if (!address) return "";
    const url = new URL(address, location.href);
    const path = url.pathname.split("/").map((s, at) => (at <= 2 && /^[A-Z]/.test(s) ? s : s && "*")).join("/");
    const handler = url.searchParams.get("handler");
    return `${path}?${[...new Set(url.searchParams.keys())].sort().join("&")}${handler ? `=${handler}` : ""}`;
  };
  const sends = (e) => {
    const own = e.getAttribute("formaction") ?? e.getAttribute("hx-get") ?? e.getAttribute("hx-post");
    const form = e.form;
    return own ?? (form && e.matches("button, select[data-send]") && e.type !== "button"
      ? form.getAttribute("hx-post") ?? form.getAttribute("hx-get") ?? form.getAttribute("action") ?? "" : null);
  };
  const kind = (e) => {
    const to = sends(e);
    const words = e.id ? e.id.replace(/^row-.*/, "row").replace(/[-_](?:[a-z]+[-_])*[^-_]*$/, "") : "";
    return [
      e.closest("header") ? "bar" : pattern(location.pathname), e.tagName, e.type ?? "", e.name ?? "", to === null ? words : pattern(to),
      e.className, e.tagName === "SUMMARY" ? e.closest("details").className : "",
    ].join(" ");
  };
  const all = () => [...document.querySelectorAll(`${controls}, ${blanks}`)].filter((e) => shown(e) && (e.matches(controls) || isTyped(e)));
  let sent = 0;
  document.addEventListener("htmx:beforeRequest", () => { sent++; });
  return {
    // A part that is open already needs not be opened.
    isOpen: (e) => e.matches("details[open] > summary"),
    kinds: () => [...new Map(all().map((e) => [kind(e), {
      kind: kind(e),
      pressed: e.matches(controls),
      typed: isTyped(e),
      takesAway: /remove|delete|discard|withdraw|undo|back|giveup|throw|revoke|reset|retire|handler=out/i.test(sends(e) ?? "")
        || /^(remove|delete|discard|withdraw|undo|give up|throw|revoke|reset|retire|take back)/i.test(e.textContent.trim()),
      leaves: /handler=Out$|SignIn/.test(sends(e) ?? ""),
    }])).values()],
    // What the keys pass over has another way for them.
    pointerOnly: (e) => e.matches("button") && e.tabIndex < 0,
    // What is hidden until it has the focus is there for the keys.
    keysOnly: (e) => e.matches(".visually-hidden-focusable"),
    /** Types behind what stands there, and says what stands there then. */
    type: (e) => {
      e.focus();
      e.value = e.type === "date" ? "2031-05-07" : e.type === "number" ? `${e.value}7` : `${e.value} 7q`.trim().slice(0, e.maxLength > 0 ? e.maxLength : undefined);
      e.dispatchEvent(new InputEvent("input", { bubbles: true }));
      return e.value;
    },
    leave: () => [...document.querySelectorAll("header nav a[href]")].find((a) => !location.pathname.startsWith(a.pathname))?.click(),
    read: (e) => {
      const of = storing(e);
      const mark = (of.closest(".field, .field-value, form") ?? of.form).querySelector(".unsaved");
      return { value: e.value, told: of.value === (of.dataset.stored ?? of.defaultValue) || Boolean(mark?.checkVisibility()) };
    },
    find: (wanted) => all().find((e) => kind(e) === wanted) ?? null,
    isPage: () => document.contentType === "text/html" && performance.getEntriesByType("navigation")[0].responseStatus === 200
      && document.querySelector("header.bar") !== null,
    isDeskWithoutFocus: () => document.querySelector("[data-desk]") !== null && !document.activeElement.matches(".field *"),
    links: () => [...document.querySelectorAll("a[href]")].filter((a) => a.checkVisibility() && a.origin === location.origin && !a.download)
      .map((a) => [pattern(a.href), a.pathname + a.search]),
    // What must hold of any page at any time.
    state: () => {
      const at = document.activeElement;
      const wrong = [];
      if (document.querySelectorAll("main").length !== 1) wrong.push(`${document.querySelectorAll("main").length} main`);
      if (document.querySelectorAll("header.bar").length !== 1) wrong.push("not one bar");
      const ids = [...document.querySelectorAll("[id]")].map((e) => e.id);
      const twice = ids.find((id, n) => ids.indexOf(id) !== n);
      if (twice) wrong.push(`two elements are #${twice}`);
      if (document.querySelector(".notice.problem")?.textContent.includes("went wrong inside")) wrong.push("went wrong inside");
      return { wrong, lost: !at || at === document.body, page: window.pressed ?? null, still: "pressed" in window && sent === 0 };
    },
  };
})();
