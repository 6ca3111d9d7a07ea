// Changes go to the server one after another. What it has not acknowledged is said, tried again, and survives the page.
import { recall, settled } from "./drafts.js";
import { typing, WHOLE, fill, post, swap } from "./places.js";
import { focusChanged, focusHeadingNext, valuesOf } from "./focus.js";

let chain = Promise.resolve(200); // the last one's status
let waiting = 0;
let why = ""; // why the change at hand is not kept, while it is tried again
let kept = 0;

export const keeps = () => kept;
export const isKeeping = () => waiting > 0;
export const allKept = () => chain;

export function queue(work) {
  waiting += 1;
  mark();
  chain = chain.then(work, work).finally(() => { waiting -= 1; mark(); });
  return chain;
}

// Says truly where things stand; the server's word for a page just put in place is "kept" or "refused".
export function mark() {
  const box = document.querySelector("[data-mark]");
  if (!box) return;
  const refused = document.querySelector('form[data-live] [aria-invalid="true"]');
  const state = why ? "failed" : waiting || document.querySelector("form[data-live] [data-dirty]") ? "keeping" : refused ? "refused" : "kept";
  const message = { failed: `Not saved: ${why}`, keeping: "saving …", refused: "Not saved: fix the marked field", kept: "All changes saved" }[state];
  if (box.dataset.mark !== state || box.textContent !== message) { box.dataset.mark = state; box.textContent = message; box.title = message; }
}

const pause = (ms) => new Promise((done) => setTimeout(done, ms));

// Sends until the server has answered for it: a program that is not running, a full disk or a locked file may pass.
async function sendUntilHeard(url, body) {
  for (let wait = 500; ; wait = Math.min(4000, wait * 1.6)) {
    const answer = await post(url, body, { keepalive: true });
    if (answer && answer.status !== 503) { why = ""; return answer; }
    why = answer ? await sentence(answer) : "the program does not answer.";
    mark();
    await pause(wait);
  }
}

export async function sentence(answer) {
  const text = await answer.text();
  return new DOMParser().parseFromString(text, "text/html").querySelector("main p, body")?.textContent.trim() || "it could not be written.";
}

// Sends a change and puts the answer in place. `form`: the fields whose later typing is carried over.
export async function change(url, body, form = null) {
  const typed = form && new FormData(form);
  const [pressed, values] = [document.activeElement, valuesOf()];
  const answer = await sendUntilHeard(url, body);
  kept += 1;
  if (answer.redirected) {
    if (form) settled(form);
    focusHeadingNext();
    window.location = answer.url;
    return answer.status;
  }
  if (!(answer.headers.get("content-type") || "").includes("text/html")) return answer.status;
  const html = await answer.text();
  const now = document.activeElement?.closest("form[data-live]") && document.activeElement;
  const more = waiting > 1 && !form; // the hand is about to be sent itself: its inputs stay as they are
  const later = swap(html, more ? WHOLE.filter((name) => name !== "hand") : WHOLE, typed);
  if (more) fill(html);
  if (pressed?.matches("button, summary") && !pressed.isConnected) focusChanged(values);
  if (answer.status === 200 && form) settled(form, later);
  if (answer.status === 422 && (!now || !later)) document.querySelector('[aria-invalid="true"]')?.focus();
  if (later && (document.activeElement !== later || !typing(later))) keepSoon(later.form);
  return answer.status;
}

export function liveForm(live) {
  return document.querySelector(live ? `form[data-live="${CSS.escape(live)}"]` : "form[data-live]");
}

// The form may have been put in place anew since it was asked for: the one that stands there now is sent.
export function keepSoon(form, submitter = null) {
  const live = form.dataset.live;
  const to = submitter?.hasAttribute("formaction") ? submitter.getAttribute("formaction") : "";
  return queue(() => {
    const now = liveForm(live);
    if (!now) return 200;
    return change(to || now.action, new URLSearchParams(new FormData(now)), now);
  });
}

// What stands in a form, sent to another address than its own.
export function sendForm(form, url) {
  return queue(() => change(url, new URLSearchParams(new FormData(form)), form));
}

// A form as the server put it there, with what was sent: what differs from that was typed since.
function asSent(form, fields) {
  const copy = form.cloneNode(true);
  copy.reset();
  const sent = new FormData(copy);
  for (const [name, value] of Object.entries(fields)) sent.set(name, value);
  return sent;
}

// What was typed before the page was left and never heard of: it is sent as soon as there is a page again.
export function keepLeft() {
  for (const left of recall()) {
    queue(async () => {
      const answer = await sendUntilHeard(left.url, new URLSearchParams(left.fields));
      if (answer.status === 200 || answer.status === 404) left.forget();
      if (answer.status === 409) left.forget();
      const html = await answer.text();
      const here = document.querySelector(`form[data-live][action^="${CSS.escape(left.path)}"]`);
      if (here && answer.status !== 404) {
        const later = swap(html, WHOLE, asSent(here, left.fields));
        if (later) keepSoon(later.form);
      } else if (answer.status === 422) left.point();
      return answer.status;
    });
  }
}
