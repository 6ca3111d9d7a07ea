// Takes the parts of a page that changed out of an answer and puts them in place, keeping focus, caret and scroll.

export function swap(html, names) {
  const fresh = new DOMParser().parseFromString(html, "text/html");
  const focused = document.activeElement;
  const held = focused && focused.name ? { name: focused.name, value: focused.value, from: selection(focused) } : null;
  const scrolls = new Map([...document.querySelectorAll("[data-keep-scroll]")].map((e, i) => [i, e.scrollTop]));
  const hand = document.querySelector('[data-place="hand"]');
  const handTop = hand ? hand.scrollTop : 0;
  for (const name of names) {
    const now = document.querySelector(`[data-place="${name}"]`);
    const next = fresh.querySelector(`[data-place="${name}"]`);
    if (now && next) now.replaceWith(next);
  }
  document.querySelectorAll("[data-keep-scroll]").forEach((e, i) => { e.scrollTop = scrolls.get(i) || 0; });
  const after = document.querySelector('[data-place="hand"]');
  if (after) after.scrollTop = handTop;
  if (held && !document.contains(focused)) restore(held);
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

export const WHOLE = ["stem", "bar", "board", "hand", "sill"];
export const ANSWERS = ["stem", "board", "advice", "sill"];

export function trouble(says) {
  const box = document.getElementById("trouble");
  box.textContent = says;
  box.hidden = !says;
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

export async function post(url, body, options = {}) {
  try {
    const answer = await fetch(url, { method: "POST", body, headers: { "x-parts": "yes", accept: "text/html" }, ...options });
    trouble("");
    return answer;
  } catch {
    trouble("The program does not answer. What you typed is still here; it is kept as soon as the program runs again.");
    return null;
  }
}
