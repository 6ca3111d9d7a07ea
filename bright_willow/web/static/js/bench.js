// A run at the bench: clocks that run, taps that are never lost, sound and flash for what is due. The server says what
// is what; here only time goes by.
import { swap, trouble } from "./places.js";

const root = document.querySelector("[data-run]");
const box = `bench:${root?.dataset.run}:`;
const SETTLE_MS = 700; // a second tap of a double one must not hit what has just come under the finger
let clock = { at: 0, rate: 1, since: 0 };
let mark = "";
let changed = 0;
let link = "live";
let sending = false;
let rung = "";
let pressed = false; // a finger is down: what is under it must not be changed
let late = null;

const now = () => clock.at + ((performance.now() - clock.since) / 1000) * clock.rate;
const set = (answer) => { clock = { at: answer.at, rate: answer.rate, since: performance.now() }; };

// After a tap, and when what is under the finger has changed: for a moment a tap there counts for nothing.
function unsettle() {
  changed = performance.now();
  delete root.dataset.settled; // tests wait for it
  setTimeout(() => { if (performance.now() - changed >= SETTLE_MS) root.dataset.settled = "yes"; }, SETTLE_MS + 1);
}

export function startBench() {
  if (!root) return;
  unsettle();
  clock = { at: Number(root.dataset.base), rate: Number(root.dataset.rate), since: performance.now() };
  document.addEventListener("submit", onSubmit);
  document.addEventListener("pointerdown", () => { pressed = true; });
  for (const up of ["pointerup", "pointercancel"]) document.addEventListener(up, () => setTimeout(letGo, 60));
  root.querySelector("[data-sound]").addEventListener("click", sound);
  listen();
  setInterval(draw, 250);
  setInterval(send, 1500);
  window.addEventListener("online", send);
  window.addEventListener("offline", () => say("lost"));
  stayAwake();
  document.addEventListener("visibilitychange", () => { if (!document.hidden) { stayAwake(); look(); } });
  draw();
  send();
}

// -- what is shown ----------------------------------------------------------------------------------------------------
function letGo() {
  pressed = false;
  if (late) put(late, false);
}

function put(answer, isNew = true) {
  if (isNew) set(answer);
  say("live");
  if (pressed) { late = answer; return; }
  late = null;
  if (!answer.html || answer.mark === mark) return;
  const main = mainTap(root);
  const fresh = new DOMParser().parseFromString(`<div data-place="run">${answer.html}</div>`, "text/html");
  const types = document.activeElement?.matches(".run-more input:not([type=file])");
  if (types && mainTap(fresh) === main) { mark = ""; return; } // a keyboard is up, and nothing new is to be done
  mark = answer.mark;
  const written = filledIn();
  swap(fresh.body.innerHTML, ["run"]);
  for (const [id, value] of written) {
    const field = document.getElementById(id);
    if (field && (field.tagName !== "SELECT" || [...field.options].some((o) => o.value === value))) field.value = value;
  }
  if (mainTap(root) !== main) unsettle();
  draw();
  showKept();
}

// What stands in the forms that are unfolded: it is carried over when the page is put in anew.
const filledIn = () => [...root.querySelectorAll(".run-more details[open] :is(select, input.form-control:not([type=file]))")].map((f) => [f.id, f.value]);

function mainTap(place) {
  const form = place.querySelector(".run-now [data-main]")?.form;
  const wrong = place.querySelector(".run-trouble")?.textContent ?? "";
  return form ? wrong + ["kind", "key", "number"].map((n) => form.elements[n]?.value).join(".") : wrong;
}

async function look() {
  try {
    const answer = await fetch(`/runs/${root.dataset.run}/now`, { headers: { accept: "application/json" } });
    if (answer.ok) put(await answer.json());
  } catch { say("lost"); }
}

function listen() {
  const stream = new EventSource(`/runs/${root.dataset.run}/stream`);
  stream.addEventListener("now", (event) => { put(JSON.parse(event.data)); if (kept().length) send(); });
  stream.addEventListener("error", () => {
    say("lost");
    if (stream.readyState === EventSource.CLOSED) setTimeout(listen, 2000);
  });
  window.addEventListener("pagehide", () => stream.close());
}

function say(state) {
  link = state;
  const waiting = kept().length;
  const box_ = root.querySelector("[data-link]");
  const message = state === "live" ? (waiting ? `sending ${waiting}` : "live") : "not reached";
  if (box_.textContent !== message) box_.textContent = message;
  box_.classList.toggle("is-lost", state !== "live");
  const lost = root.querySelector("[data-lost]");
  const text = `The program cannot be reached. Carry on: taps are saved here${waiting ? ` (${waiting})` : ""} and sent when it is back.`;
  lost.hidden = state === "live";
  if (state !== "live" && lost.textContent !== text) lost.textContent = text;
}

// -- clocks -----------------------------------------------------------------------------------------------------------
function lasting(seconds) {
  const s = Math.max(0, Math.round(seconds));
  const two = (n) => String(n).padStart(2, "0");
  if (s >= 172800) return `${Math.floor(s / 86400)} d`;
  return s < 3600 ? `${Math.floor(s / 60)}:${two(s % 60)}` : `${Math.floor(s / 3600)}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}`;
}

function write(element, text) { if (element.textContent !== text) element.textContent = text; }

function draw() {
  const at = now();
  for (const tick of root.querySelectorAll("[data-tick]")) {
    const away = tick.dataset.goes === "down" ? Number(tick.dataset.tick) - at : at - Number(tick.dataset.tick);
    write(tick, (away <= -1 && tick.dataset.goes === "down" ? "+" : "") + lasting(Math.abs(away)));
    tick.classList.toggle("is-past", tick.dataset.goes === "down" && away <= -1);
  }
  for (const bar of root.querySelectorAll("progress[data-from]")) {
    const from = Number(bar.dataset.from);
    const share = Math.min(1, Math.max(0, (at - from) / (Number(bar.dataset.to) - from)));
    bar.value = share;
    bar.classList.toggle("is-late", share >= 1);
  }
  const clock = root.querySelector("[data-clock]");
  const hour12 = clock?.dataset.clock === "12";
  write(clock, new Date(at * 1000).toLocaleTimeString(hour12 ? "en-US" : "en-GB", { hour: hour12 ? "numeric" : "2-digit", minute: "2-digit", second: "2-digit", hour12 }));
  ring(at);
}

// -- due, overdue -----------------------------------------------------------------------------------------------------
function ring(at) {
  const panel = root.querySelector(".run-now");
  if (!panel) return;
  const due = panel.dataset.due ? Number(panel.dataset.due) : null;
  const over = panel.dataset.over ? Number(panel.dataset.over) : null;
  const state = over !== null && at > over ? "over" : due !== null && at >= due ? "due" : "";
  panel.classList.toggle("rings-due", state === "due");
  panel.classList.toggle("rings-over", state === "over");
  const key = state && `${state}:${due}:${over}:${state === "over" ? Math.floor((performance.now()) / 5000) : ""}`;
  if (key && key !== rung) {
    rung = key;
    beep(state === "over" ? [880, 660, 880] : [660, 880]);
    if (navigator.userActivation?.hasBeenActive) navigator.vibrate?.(state === "over" ? [300, 100, 300] : [200]);
    if (state === "due" && !panel.querySelector("[data-main]")) look();
  }
}

let audio = null;
function sound(event) {
  const button = event.currentTarget;
  const on = button.getAttribute("aria-pressed") !== "true";
  button.setAttribute("aria-pressed", String(on));
  button.textContent = on ? "Sound off" : "Sound on";
  if (on) { audio ??= new AudioContext(); audio.resume(); beep([660]); }
  document.body.dataset.sound = on ? "on" : "";
}

function beep(notes) {
  if (!audio || document.body.dataset.sound !== "on") return;
  notes.forEach((pitch, i) => {
    const tone = audio.createOscillator();
    const gain = audio.createGain();
    tone.type = "triangle";
    tone.frequency.value = pitch;
    const at = audio.currentTime + i * 0.28;
    gain.gain.setValueAtTime(0.0001, at);
    gain.gain.exponentialRampToValueAtTime(0.5, at + 0.02);
    gain.gain.exponentialRampToValueAtTime(0.0001, at + 0.25);
    tone.connect(gain).connect(audio.destination);
    tone.start(at);
    tone.stop(at + 0.26);
  });
}

async function stayAwake() {
  try { await navigator.wakeLock?.request("screen"); } catch { /* the tablet decides */ }
}

// -- taps -------------------------------------------------------------------------------------------------------------
// Every tap is kept by the browser before it is sent, and forgotten once the server has it on its disk.
const kept = () => Object.keys(localStorage).filter((key) => key.startsWith(box)).sort();

function keep(event) {
  const last = kept().at(-1);
  const number = last ? Number(last.slice(box.length)) + 1 : 1;
  localStorage.setItem(box + String(number).padStart(8, "0"), JSON.stringify(event));
}

function onSubmit(event) {
  const form = event.target;
  if (form.matches("[data-tap]")) {
    event.preventDefault();
    if (performance.now() - changed < SETTLE_MS && form.querySelector("[data-main], .tap-choice")) return;
    tap(form);
  } else if (form.matches("[data-pace]")) {
    event.preventDefault();
    ask(form.action, null);
  } else if (form.matches("[data-photo]")) {
    event.preventDefault();
    picture(form);
  }
}

function tap(form) {
  unsettle();
  const event = { at_s: now() };
  for (const [name, value] of new FormData(form)) event[name] = name === "number" ? Number(value) : value;
  if (kept().some((key) => JSON.parse(localStorage.getItem(key)).client === event.client)) return; // the same tap twice
  keep(event);
  form.querySelector("button")?.classList.add("is-kept");
  for (const input of form.querySelectorAll("input[name=text].form-control")) input.value = "";
  form.closest("details")?.removeAttribute("open");
  send();
}

function showKept() {
  const waiting = kept().map((key) => JSON.parse(localStorage.getItem(key)));
  for (const form of root.querySelectorAll("form[data-tap]")) {
    const same = waiting.some((e) => ["kind", "key", "number"].every((n) => String(e[n] ?? "") === String(form.elements[n]?.value ?? "")) && e.kind !== "note");
    form.querySelector("button")?.classList.toggle("is-kept", same);
  }
}

async function send() {
  if (sending) return;
  const keys = kept().slice(0, 200);
  if (!keys.length) { if (link === "live") say("live"); return; }
  sending = true;
  try {
    const events = keys.map((key) => JSON.parse(localStorage.getItem(key)));
    const answer = await fetch(`/runs/${root.dataset.run}/events?seen=${mark}`, {
      method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify({ events }),
    });
    if (answer.status === 422 || answer.status === 404) {
      trouble((await answer.json()).faults[0].says);
      keys.forEach((key) => localStorage.removeItem(key));
    } else if (answer.ok) {
      keys.forEach((key) => localStorage.removeItem(key));
      put(await answer.json());
    } else say("lost");
  } catch { say("lost"); } finally { sending = false; }
  if (kept().length && link === "live") send();
}

async function ask(url, body) {
  try {
    const answer = await fetch(url, { method: "POST", body, headers: { "x-parts": "yes", accept: "application/json" } });
    if (answer.ok) put(await answer.json());
    return answer;
  } catch { say("lost"); return null; }
}

async function picture(form) {
  const piece = form.elements.piece.value;
  const fault = form.querySelector("[data-photo-fault]");
  const button = form.querySelector("button");
  button.disabled = true;
  const data = new FormData(form);
  const answer = await ask(`${form.action}?piece=${piece}&client=${crypto.randomUUID?.() ?? Date.now().toString(36)}`, data);
  button.disabled = false;
  const message = answer === null ? "The program cannot be reached: keep the picture on the tablet and choose it again." : answer.status === 422 ? (await answer.json()).faults[0].says : answer.ok ? "" : "It was not saved: at most 20 MB, please.";
  fault.textContent = message;
  fault.hidden = !message;
  if (!message) { form.reset(); form.closest("details").removeAttribute("open"); }
}
