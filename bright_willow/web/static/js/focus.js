// Where the keyboard is after a page or a part of it was put in anew: never lost at the top.
const HEADING = "focus-heading";

// What stands in the fields of the stage, by their names.
export function valuesOf() {
  const fields = document.querySelectorAll("form[data-live] :is(input:not([type=radio]), select), form[data-live] input:checked");
  return new Map([...fields].map((field) => [field.name, field.value]));
}

// After a button that is gone: the field it changed, else the heading of the stage.
export function focusChanged(before) {
  const changed = [...valuesOf()].find(([name, value]) => before.has(name) && before.get(name) !== value);
  const field = changed && document.querySelector(`form[data-live] [name="${CSS.escape(changed[0])}"]:not([type=hidden])`);
  if (field && field.getClientRects().length) field.focus({ preventScroll: true });
  else focusHeading();
}

// The page that opens next begins at its heading.
export function focusHeadingNext() {
  try { sessionStorage.setItem(HEADING, "yes"); } catch { /* not allowed here */ }
}

function focusHeading() {
  const heading = document.querySelector(".hand h2") ?? document.querySelector("main h1");
  if (!heading) return;
  heading.tabIndex = -1;
  heading.focus({ preventScroll: true });
}

export function startFocus() {
  try {
    if (sessionStorage.getItem(HEADING)) focusHeading();
    sessionStorage.removeItem(HEADING);
  } catch { /* not allowed here */ }
}
