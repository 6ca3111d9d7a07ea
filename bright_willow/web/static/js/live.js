// Forms that answer while they are typed in (data-live), and that keep what is typed when a field is left.
import { ANSWERS, WHOLE, lastWins, post, swap } from "./places.js";

let chain = Promise.resolve(200); // keeps go one after another; this is the last one's status
let waiting = 0;
let kept = 0; // an answer to typing that is older than the last keep is dropped

const tryOut = lastWins(async (form) => {
  const before = kept;
  const frame = document.querySelector("svg.board")?.dataset.frame || "";
  const answer = await post(`${form.dataset.live}?frame=${encodeURIComponent(frame)}`, new URLSearchParams(new FormData(form)));
  if (answer && answer.status === 200 && before === kept) swap(await answer.text(), ANSWERS);
});

async function send(form, submitter, url = "") {
  const target = url || (submitter?.hasAttribute("formaction") ? submitter.formAction : form.action);
  const sent = new FormData(form, submitter);
  const answer = await post(target, new URLSearchParams(sent), { keepalive: true });
  kept += 1;
  if (!answer) return 0;
  if (answer.redirected) { window.location = answer.url; return answer.status; }
  if ((answer.headers.get("content-type") || "").includes("text/html")) {
    const typing = document.activeElement?.closest("form[data-live]") && document.activeElement;
    const later = swap(await answer.text(), WHOLE, form.matches("[data-live]") ? sent : null);
    if (answer.status === 422 && (!typing || !later)) document.querySelector('[aria-invalid="true"]')?.focus();
    if (later && document.activeElement !== later) keepSoon(later.form);
  }
  return answer.status;
}

function queue(work) {
  waiting += 1;
  chain = chain.then(work, work).finally(() => { waiting -= 1; });
  return chain;
}

// What stands in a form, sent to another address than its own.
export function sendForm(form, url) {
  return queue(() => send(form, null, url));
}

// The form may have been put in place anew since it was asked for: the one that stands there now is sent.
function keepSoon(form) {
  const live = form.dataset.live;
  return queue(() => {
    const now = document.querySelector(`form[data-live="${CSS.escape(live)}"]`);
    return now ? send(now) : 200;
  });
}

export function startLive() {
  let timer = 0;
  document.addEventListener("input", (event) => {
    const form = event.target.closest("form[data-live]");
    if (!form || event.target.type === "radio" || event.target.type === "range" || event.target.tagName === "SELECT") return;
    clearTimeout(timer);
    timer = setTimeout(() => document.contains(form) && tryOut(form), 120);
  });
  const left = (event) => {
    const form = event.target.closest("form[data-live]");
    if (!form || event.target.type === "range" || (event.type === "focusout" && !event.target.dataset.dirty) || !document.contains(event.target)) return;
    delete event.target.dataset.dirty;
    clearTimeout(timer);
    keepSoon(form);
  };
  document.addEventListener("change", left);
  document.addEventListener("focusout", left);
  document.addEventListener("submit", async (event) => {
    const form = event.target;
    const submitter = event.submitter;
    if (form.dataset.confirm && !window.confirm(form.dataset.confirm)) { event.preventDefault(); return; }
    if (form.matches("[data-live]")) {
      event.preventDefault();
      if (submitter?.hasAttribute("formaction")) queue(() => send(form, submitter));
      else keepSoon(form);
    } else if (form.matches("[data-parts]")) {
      event.preventDefault();
      queue(() => send(form, submitter));
    } else if (form.matches("[data-units]")) {
      event.preventDefault();
      await chain;
      const answer = await post(submitter.formAction, new URLSearchParams());
      if (answer) window.location.reload();
    } else if (waiting) {
      event.preventDefault();
      const action = form.getAttribute("action");
      if ((await chain) !== 422) document.querySelector(`form[action="${CSS.escape(action)}"]`)?.requestSubmit();
    }
  });
  // Leaving a field by pressing a link: what was typed is kept first, and a fault keeps the maker here.
  document.addEventListener("click", async (event) => {
    const link = event.target.closest("a[href]");
    if (!link || !waiting || event.defaultPrevented) return;
    event.preventDefault();
    if ((await chain) !== 422) window.location = link.href;
  });
  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-print]")) window.print();
    const opens = event.target.closest("[data-opens]");
    if (opens) document.getElementById(opens.dataset.opens).showModal();
  });
}
