// Forms that answer while they are typed in (data-live), and that keep what is typed when a field is left.
import { ANSWERS, WHOLE, lastWins, post, swap } from "./places.js";

let pending = Promise.resolve(200);
let settled = true;

const tryOut = lastWins(async (form) => {
  const frame = document.querySelector("svg.board")?.dataset.frame || "";
  const answer = await post(`${form.dataset.live}?frame=${encodeURIComponent(frame)}`, new URLSearchParams(new FormData(form)));
  if (answer && answer.status === 200) swap(await answer.text(), ANSWERS);
});

async function keep(form, submitter) {
  const data = new URLSearchParams(new FormData(form, submitter));
  const answer = await post(submitter?.formAction && submitter.hasAttribute("formaction") ? submitter.formAction : form.action, data, { keepalive: true });
  if (!answer) return 0;
  if (answer.redirected) { window.location = answer.url; return answer.status; }
  const type = answer.headers.get("content-type") || "";
  if (type.includes("text/html")) {
    swap(await answer.text(), WHOLE);
    document.querySelector('[aria-invalid="true"]')?.focus();
  }
  return answer.status;
}

function hold(promise) {
  settled = false;
  pending = promise.finally(() => { settled = true; });
  return pending;
}

export function startLive() {
  let timer = 0;
  document.addEventListener("input", (event) => {
    const form = event.target.closest("form[data-live]");
    if (!form || event.target.type === "radio" || event.target.tagName === "SELECT") return;
    clearTimeout(timer);
    timer = setTimeout(() => document.contains(form) && tryOut(form), 120);
  });
  document.addEventListener("change", (event) => {
    const form = event.target.closest("form[data-live]");
    if (!form) return;
    clearTimeout(timer);
    hold(keep(form));
  });
  document.addEventListener("submit", async (event) => {
    const form = event.target;
    if (form.dataset.confirm && !window.confirm(form.dataset.confirm)) { event.preventDefault(); return; }
    if (form.matches("[data-parts], [data-live]")) {
      event.preventDefault();
      const before = pending;
      hold((async () => { await before; return keep(form, event.submitter); })());
    } else if (form.matches("[data-units]")) {
      event.preventDefault();
      await pending;
      const answer = await post(event.submitter.formAction, new URLSearchParams());
      if (answer) window.location.reload();
    } else if (!settled) {
      event.preventDefault();
      if ((await pending) !== 422) form.requestSubmit(document.contains(event.submitter) ? event.submitter : undefined);
    }
  });
  // Leaving a field by pressing a link: what was typed is kept first, and a fault keeps the maker here.
  document.addEventListener("click", async (event) => {
    const link = event.target.closest("a[href]");
    if (!link || settled || event.defaultPrevented) return;
    event.preventDefault();
    if ((await pending) !== 422) window.location = link.href;
  });
  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-print]")) window.print();
    const opens = event.target.closest("[data-opens]");
    if (opens) document.getElementById(opens.dataset.opens).showModal();
  });
}
