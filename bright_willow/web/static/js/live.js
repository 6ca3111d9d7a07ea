// Forms that answer while they are typed in (data-live), and that keep what is typed when a field is left.
import { note, settled } from "./drafts.js";
import { focusHeadingNext } from "./focus.js";
import { allKept, change, isKeeping, keepSoon, keeps, mark, queue, sentence } from "./keeping.js";
import { ANSWERS, WHOLE, lastWins, post, swap, trouble } from "./places.js";

const tryOut = lastWins(async (form) => {
  const before = keeps();
  const frame = document.querySelector("svg.board")?.dataset.frame || "";
  const to = `${form.dataset.live}${new URL(form.action).search}&frame=${encodeURIComponent(frame)}`;
  const answer = await post(to, new URLSearchParams(new FormData(form)));
  if (answer && answer.status === 200 && before === keeps()) swap(await answer.text(), ANSWERS);
});

// A form of a whole page: its answer is another page, or this one with what is wrong with it.
async function sendPage(form, submitter) {
  const url = submitter?.hasAttribute("formaction") ? submitter.formAction : form.action;
  const sent = new FormData(form, submitter);
  const body = form.enctype === "multipart/form-data" ? sent : new URLSearchParams(sent);
  const typed = [...form.elements].some((e) => e.matches("input[type=text], input:not([type]), textarea"));
  for (let tries = 0; ; tries += 1) {
    const answer = await post(url, body, { headers: { accept: "text/html" } });
    if (!answer) return 0;
    if (answer.status === 503 && typed && tries < 60) {
      trouble(`Not saved: ${await sentence(answer)}`);
      await new Promise((done) => setTimeout(done, 2000));
      continue;
    }
    if (answer.redirected) {
      settled(form);
      focusHeadingNext();
      if (answer.url === window.location.href) window.location.reload();
      else window.location = answer.url;
      return answer.status;
    }
    const fresh = new DOMParser().parseFromString(await answer.text(), "text/html");
    const main = fresh.querySelector("main");
    if (main) document.querySelector("main").replaceWith(main);
    document.querySelector('[aria-invalid="true"]')?.focus();
    return answer.status;
  }
}

// The same page in the other unit, put in place without loading it anew; what is open and chosen stays so.
async function inOtherUnit() {
  const answer = await fetch(window.location.href, { headers: { accept: "text/html" } }).catch(() => null);
  const fresh = answer?.ok && new DOMParser().parseFromString(await answer.text(), "text/html");
  if (!fresh || document.querySelector("[data-run], [data-picture-board], [data-quick]")) { window.location.reload(); return; }
  const places = WHOLE.filter((name) => document.querySelector(`[data-place="${name}"]`));
  if (places.length) swap(fresh.documentElement.outerHTML, places);
  else document.querySelector("main").replaceWith(fresh.querySelector("main"));
  document.querySelector("[data-units]").replaceWith(fresh.querySelector("[data-units]"));
  document.querySelector('[data-units] [aria-pressed="true"]').focus();
}

function samePath(action) {
  const path = new URL(action, window.location).pathname;
  return [...document.forms].find((f) => new URL(f.action, window.location).pathname === path);
}

function submitted(event) {
  const form = event.target;
  const submitter = event.submitter;
  if (form.method !== "post" || form.matches("[data-tap], [data-pace], [data-photo]")) return; // the bench sends these
  event.preventDefault();
  if (form.dataset.confirm && !window.confirm(form.dataset.confirm)) return;
  if (form.matches("[data-live]")) {
    keepSoon(form, submitter);
  } else if (form.matches("[data-parts]")) {
    const body = new FormData(form, submitter);
    const typed = [...form.elements].some((e) => e.name && e.type !== "hidden" && e.type !== "submit");
    queue(() => change(form.isConnected ? form.action : samePath(form.action)?.action || form.action, form.enctype === "multipart/form-data" ? body : new URLSearchParams(body), typed ? form : null));
  } else if (form.matches("[data-units]")) {
    allKept().then(() => post(submitter.formAction, new URLSearchParams())).then((answer) => answer && inOtherUnit());
  } else {
    // what is still being kept goes first, and a fault keeps the maker here
    allKept().then((status) => {
      if (isKeeping() || status === 422 || status === 409) return;
      sendPage(form.isConnected ? form : samePath(form.action) || form, form.isConnected ? submitter : null);
    });
  }
}

export function startLive() {
  let timer = 0;
  document.addEventListener("input", (event) => {
    const form = event.target.closest("form");
    if (!form) return;
    if (form.method === "post") note(form);
    if (!form.matches("[data-live]") || event.target.type === "radio" || event.target.type === "range" || event.target.tagName === "SELECT") return;
    event.target.dataset.dirty = "yes";
    delete event.target.dataset.filled; // typed over: the maker's own now
    mark();
    clearTimeout(timer);
    timer = setTimeout(() => document.contains(form) && tryOut(form), 120);
  });
  const left = (event) => {
    const form = event.target.closest("form[data-live]");
    if (!form || event.target.type === "range" || (event.type === "focusout" && !event.target.dataset.dirty) || !document.contains(event.target)) return;
    delete event.target.dataset.dirty;
    note(form);
    clearTimeout(timer);
    keepSoon(form);
  };
  document.addEventListener("change", left);
  // Finding on the list: a choice made is asked for at once.
  document.addEventListener("change", (event) => event.target.matches("[data-find] select") && event.target.form.requestSubmit());
  document.addEventListener("focusout", left);
  document.addEventListener("submit", submitted);
  // Leaving a field by pressing a link: what was typed is kept first, and a fault keeps the maker here.
  document.addEventListener("click", async (event) => {
    const link = event.target.closest("a[href]");
    if (!link || !isKeeping() || event.defaultPrevented) return;
    event.preventDefault();
    if ((await allKept()) !== 422) window.location = link.href;
  });
  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-print]")) window.print();
    const opens = event.target.closest("[data-opens]");
    if (opens) document.getElementById(opens.dataset.opens).showModal();
    const mine = event.target.closest("[data-mine]");
    if (mine) {
      const form = mine.closest("form");
      for (const element of form.querySelectorAll(`[name="${CSS.escape(mine.dataset.for)}"]`)) {
        if (element.type === "radio") element.checked = element.value === mine.dataset.mine;
        else element.value = mine.dataset.mine;
      }
      keepSoon(form);
    }
  });
  // A page the browser brought back from its memory shows what stood then: it is asked for anew.
  window.addEventListener("pageshow", (event) => event.persisted && window.location.reload());
}
