// What is typed and not yet acknowledged, kept by the browser: it survives a reload, Back, a closed window and a
// program that is stopped. Each window keeps its own; what a closed window left is taken over by the next.
const HEAD = "willow:";
let mine = sessionStorage.getItem("willow-window") || "";
let open = () => {};
export const ready = new Promise((done) => { open = done; });

// A window holds a lock of its name for as long as it is there: a name without a lock is a window that was closed.
function take(name) {
  return new Promise((answer) => {
    navigator.locks.request(HEAD + name, { ifAvailable: true }, (lock) => {
      answer(Boolean(lock));
      return lock ? new Promise(() => {}) : null;
    });
  });
}

export async function startDrafts() {
  if (navigator.locks) {
    if (!mine || !(await take(mine))) { // a window copied from another needs a name of its own
      mine = crypto.randomUUID();
      await take(mine);
    }
    const held = new Set((await navigator.locks.query()).held.map((lock) => lock.name));
    for (const [key, draft] of all()) {
      if (draft.window === mine || held.has(HEAD + draft.window)) continue;
      draft.window = mine;
      write(key, draft);
    }
  }
  sessionStorage.setItem("willow-window", mine);
  open();
}

function* all() {
  for (const key of Object.keys(localStorage).filter((k) => k.startsWith(HEAD))) {
    try { yield [key, JSON.parse(localStorage.getItem(key))]; } catch { localStorage.removeItem(key); }
  }
}

function write(key, draft) {
  try { localStorage.setItem(key, JSON.stringify(draft)); } catch { /* no room, or not allowed: the page itself still holds it */ }
}

const pathOf = (form) => new URL(form.action, window.location).pathname + (form.dataset.live ? "" : new URL(form.action, window.location).search);
const keyOf = (form) => `${HEAD}${mine}:${pathOf(form)}`;

function changed(element) {
  if (!element.name || element.disabled || ["file", "hidden", "submit", "button", "range"].includes(element.type)) return false;
  if (element.type === "radio" || element.type === "checkbox") return element.checked !== element.defaultChecked;
  if (element.tagName === "SELECT") return [...element.options].some((o) => o.selected !== o.defaultSelected);
  return element.value !== element.defaultValue;
}

// Writes down what differs from what the server put there.
export function note(form) {
  if (form.method !== "post" || form.matches("[data-units]")) return;
  const fields = {};
  for (const element of form.elements) {
    if (changed(element) && (element.type !== "radio" || element.checked)) fields[element.name] = element.value;
  }
  if (!Object.keys(fields).length) { localStorage.removeItem(keyOf(form)); return; }
  write(keyOf(form), { window: mine, page: window.location.pathname, path: pathOf(form), url: form.action, live: Boolean(form.dataset.live), fields });
}

// The server has it. What was typed since stays written down.
export function settled(form, later = null) {
  localStorage.removeItem(keyOf(form));
  if (later) note(later.form);
}

// Live changes this window never heard of.
export function recall() {
  return [...all()].filter(([, d]) => d.window === mine && d.live).map(([key, draft]) => ({
    ...draft,
    forget: () => localStorage.removeItem(key),
    point: () => pointTo(draft),
  }));
}

function pointTo(draft) {
  const box = document.getElementById("left-over");
  box.querySelector("a").href = draft.page;
  box.hidden = false;
}

// Puts what was typed into other forms of this page back into them.
export function restore() {
  for (const [, draft] of all()) {
    if (draft.window !== mine) continue;
    const form = [...document.forms].find((f) => f.method === "post" && pathOf(f) === draft.path && Boolean(f.dataset.live) === draft.live);
    if (!form) continue;
    for (const [name, value] of Object.entries(draft.fields)) put(form, name, value);
    if (draft.live) continue;
    form.closest("details")?.setAttribute("open", "");
    if (form.querySelector(".typed-before")) continue;
    const message = document.createElement("p");
    message.className = "typed-before";
    message.setAttribute("role", "status");
    message.textContent = "You typed this before and it is not saved yet.";
    form.prepend(message);
  }
}

export function put(form, name, value) {
  for (const element of form.querySelectorAll(`[name="${CSS.escape(name)}"]`)) {
    if (element.type === "radio" || element.type === "checkbox") element.checked = element.value === value;
    else element.value = value;
  }
}
