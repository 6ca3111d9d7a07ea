// Takes the parts of a page that changed out of an answer and puts them in place, keeping focus, caret and scroll.

// `sent`: what was in the form when it was asked; what has been typed since is carried over, and the input returned.
export function swap(html, names, sent = null) {
  const fresh = new DOMParser().parseFromString(html, "text/html");
  const focused = document.activeElement;
  const carried = sent && names.includes("hand") ? changedSince(sent) : [];
  const held = focused && focused.name ? { name: focused.name, value: focused.value, from: selection(focused) } : null;
  const scrolls = new Map([...document.querySelectorAll("[data-keep-scroll]")].map((e, i) => [i, e.scrollTop]));
  const hand = document.querySelector(".hand-scroll");
  const handTop = hand ? hand.scrollTop : 0;
  const shown = remembered();
  for (const name of names) {
    const now = document.querySelector(`[data-place="${name}"]`);
    const next = fresh.querySelector(`[data-place="${name}"]`);
    if (now && next) now.replaceWith(next);
  }
  document.querySelectorAll("[data-keep-scroll]").forEach((e, i) => { e.scrollTop = scrolls.get(i) || 0; });
  const after = document.querySelector(".hand-scroll");
  if (after) after.scrollTop = handTop;
  recall(shown);
  if (names.includes("stem")) showStage();
  let later = null;
  for (const [name, value] of carried) {
    const form = document.querySelector("form[data-live]");
    const inputs = form ? [...form.querySelectorAll(`[name="${CSS.escape(name)}"]`)] : [];
    for (const input of inputs) {
      if (input.type === "radio") input.checked = input.value === value;
      else input.value = value;
      if (typing(input)) input.dataset.dirty = "yes";
    }
    later = inputs[0] || later;
  }
  if (held && !document.contains(focused)) restore(held);
  return later && carried.length > 1 ? changedElsewhere(carried) || later : later;
}

// On a small screen the stages lie in a row that is pushed sideways: the one that is open is brought into sight.
export function showStage() {
  const row = document.querySelector(".stem");
  const here = row?.querySelector(".here");
  if (here) row.scrollLeft = here.offsetLeft - (row.clientWidth - here.clientWidth) / 2;
}

// What the maker has opened, chosen to look at and slid: it stays so when the parts it stands in are put in anew.
function remembered() {
  return {
    view: document.querySelector('[name="board-view"]:checked')?.value,
    folds: [...document.querySelectorAll("[data-fold][open]")].map((f) => f.dataset.fold),
    slides: [...document.querySelectorAll("input[type=range]")].map((s) => [s.id, s.value]),
  };
}

function recall(shown) {
  const view = shown.view && document.getElementById(`view-${shown.view}`);
  if (view) view.checked = true;
  for (const key of shown.folds) document.querySelector(`[data-fold="${key}"]`)?.setAttribute("open", "");
  for (const [id, value] of shown.slides) {
    const slider = document.getElementById(id);
    if (slider && slider.value !== value) {
      slider.value = value;
      slider.dispatchEvent(new Event("input", { bubbles: true }));
    }
  }
}

// The texts of the inputs, as the server has them, into the inputs. While something is dragged they are of where it is
// then; an answer that comes after it has them in a form of its own, and what was filled in passing is taken from there.
export function fill(html) {
  const fresh = new DOMParser().parseFromString(html, "text/html");
  const values = fresh.querySelector("script[data-values]");
  for (const [name, text] of Object.entries(JSON.parse(values?.textContent || "{}"))) {
    const input = document.querySelector(`form[data-live] input[name="${CSS.escape(name)}"]:not([type=radio])`);
    if (input) { input.value = text; input.dataset.filled = "yes"; }
  }
  if (values) return;
  for (const input of document.querySelectorAll("form[data-live] input[data-filled]")) {
    const kept = fresh.querySelector(`form[data-live] input[name="${CSS.escape(input.name)}"]`);
    if (kept) input.value = kept.value;
  }
}

// Whether an input is one that is typed into, so that leaving it is what keeps it.
export function typing(input) {
  return input.tagName === "TEXTAREA" || (input.tagName === "INPUT" && !["radio", "checkbox", "range"].includes(input.type));
}

function changedSince(sent) {
  const made = new Map();
  for (const e of document.querySelectorAll("form[data-live] input:not([type=checkbox]):not([type=range]), form[data-live] textarea, form[data-live] select")) {
    if (e.type === "radio" && !e.checked) continue;
    if (sent.has(e.name) && sent.get(e.name) !== e.value) made.set(e.name, e.value);
  }
  return [...made];
}

function changedElsewhere(carried) {
  return carried.map(([name]) => document.querySelector(`form[data-live] [name="${CSS.escape(name)}"]`)).find((e) => e !== document.activeElement);
}

function selection(element) {
  try { return [element.selectionStart, element.selectionEnd]; } catch { return null; }
}

function restore(held) {
  const same = [...document.querySelectorAll(`[name="${CSS.escape(held.name)}"]`)];
  const target = same.length > 1 ? same.find((e) => e.value === held.value) : same[0];
  if (!target) return;
  target.focus({ preventScroll: true });
  if (held.from && held.from[0] !== null && target.setSelectionRange) {
    try { target.setSelectionRange(...held.from); } catch { /* not a text input */ }
  }
}

export const WHOLE = ["stem", "bar", "answer", "board", "hand", "sill"];
export const ANSWERS = ["answer", "board", "notes", "sill"];

export function trouble(message) {
  const box = document.getElementById("trouble");
  box.textContent = message;
  box.hidden = !message;
}

// Only one request of a kind is under way; of those that wait, the last wins.
export function lastWins(send) {
  let busy = false;
  let waiting = null;
  return async function ask(...what) {
    if (busy) { waiting = what; return; }
    busy = true;
    try {
      await send(...what);
    } finally {
      busy = false;
      if (waiting) { const next = waiting; waiting = null; ask(...next); }
    }
  };
}

let busy = 0;

export async function post(url, body, options = {}) {
  document.body.dataset.busy = String(busy += 1);
  try {
    const answer = await fetch(url, { method: "POST", body, headers: { "x-parts": "yes", accept: "text/html" }, ...options });
    if (answer.status !== 503) trouble("");
    return answer;
  } catch {
    trouble("The program does not answer. What you typed stays here and is saved when it runs again.");
    return null;
  } finally {
    setTimeout(() => { if ((busy -= 1)) document.body.dataset.busy = String(busy); else delete document.body.dataset.busy; }, 30);
  }
}
