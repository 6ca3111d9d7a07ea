// A picture to mark on: moved about, looked at nearer, marked. Where a mark is drawn to, and what it comes to, the server says.
import { post, swap } from "./places.js";

const PLACES = ["asks", "marks", "photo-hand"];
const STILL_PX = 5; // a finger that moves less has not moved
const LENS_DOTS = 40; // of the picture, from the middle of the lens to its rim

let view = null; // what of the picture is shown: x, y, wide, high
let chain = Promise.resolve();

const board = () => document.querySelector("[data-picture-board]");
const at = () => document.querySelector("[data-photo-at]").dataset.photoAt;
const whole = () => ({ x: 0, y: 0, wide: Number(board().dataset.wide), high: Number(board().dataset.high) });

function place(event) {
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(board().getScreenCTM().inverse());
}

// Dots of the picture for one of the screen's.
function dots() {
  return 1 / board().getScreenCTM().a;
}

function show() {
  const svg = board();
  svg.setAttribute("viewBox", `${view.x} ${view.y} ${view.wide} ${view.high}`);
  svg.style.setProperty("--dot", `${dots()}px`);
}

function zoom(times, about) {
  const all = whole();
  const wide = Math.min(all.wide, Math.max(60, view.wide * times));
  const share = wide / view.wide;
  const high = view.high * share;
  view = { x: about.x - (about.x - view.x) * share, y: about.y - (about.y - view.y) * share, wide, high };
  inside(all);
  show();
}

function inside(all) {
  view.x = Math.min(Math.max(view.x, 0), all.wide - view.wide);
  view.y = Math.min(Math.max(view.y, 0), all.high - view.high);
}

function send(path, query = {}, body = new URLSearchParams()) {
  chain = chain.then(async () => {
    const face = document.querySelector("#ph-face")?.value ?? "";
    const url = new URL(path, window.location);
    for (const [name, value] of Object.entries({ face, ...query })) url.searchParams.set(name, value);
    const held = document.activeElement?.closest("[data-mark]")?.dataset.mark;
    const answer = await post(url, body);
    if (!answer || answer.status >= 500) return;
    swap(await answer.text(), PLACES);
    if (held) document.querySelector(`[data-mark="${held}"]`)?.focus({ preventScroll: true });
    show();
  });
  return chain;
}

function mark(point, name = "", snap = document.querySelector("[data-snap]").checked) {
  const near = Math.min(60, Math.max(4, 14 * dots()));
  return send(`${at()}/mark`, { x: point.x, y: point.y, name, snap: snap ? "yes" : "no", near });
}

function lens(event) {
  const glass = document.querySelector("[data-lens]");
  if (!event) { glass.hidden = true; glass.setAttribute("hidden", ""); return; }
  const p = place(event);
  glass.removeAttribute("hidden");
  glass.setAttribute("viewBox", `${p.x - LENS_DOTS} ${p.y - LENS_DOTS} ${2 * LENS_DOTS} ${2 * LENS_DOTS}`);
  glass.querySelector(".photo-cross").setAttribute("d", `M${p.x - LENS_DOTS} ${p.y}H${p.x + LENS_DOTS}M${p.x} ${p.y - LENS_DOTS}V${p.y + LENS_DOTS}`);
  const box = board().getBoundingClientRect();
  glass.classList.toggle("on-the-right", event.clientX < box.left + box.width / 2);
}

function startMarking() {
  let held = null;
  const svg = board();
  svg.addEventListener("pointerdown", (event) => {
    if (event.button !== 0) return;
    const own = event.target.closest("[data-mark]");
    held = { name: own?.dataset.mark ?? "", x: event.clientX, y: event.clientY, view: { ...view }, moved: false };
    own?.focus({ preventScroll: true });
    svg.setPointerCapture(event.pointerId);
    event.preventDefault();
  });
  svg.addEventListener("pointermove", (event) => {
    lens(event);
    if (!held) return;
    if (Math.hypot(event.clientX - held.x, event.clientY - held.y) > STILL_PX) held.moved = true;
    if (!held.moved) return;
    if (held.name) {
      const p = place(event);
      document.querySelectorAll(`[data-mark="${held.name}"] circle`).forEach((c) => { c.setAttribute("cx", p.x); c.setAttribute("cy", p.y); });
    } else {
      view.x = held.view.x - (event.clientX - held.x) * dots();
      view.y = held.view.y - (event.clientY - held.y) * dots();
      inside(whole());
      show();
    }
  });
  svg.addEventListener("pointerup", (event) => {
    const was = held;
    held = null;
    if (event.pointerType !== "mouse") lens(null);
    if (!was) return;
    if (was.name && was.moved) mark(place(event), was.name);
    else if (!was.name && !was.moved) mark(place(event));
  });
  svg.addEventListener("pointercancel", () => { held = null; lens(null); });
  svg.addEventListener("pointerleave", () => { if (!held) lens(null); });
  svg.addEventListener("wheel", (event) => { event.preventDefault(); zoom(event.deltaY > 0 ? 1.2 : 1 / 1.2, place(event)); }, { passive: false });
  svg.addEventListener("keydown", (event) => {
    const own = event.target.closest("[data-mark]");
    const ways = { ArrowUp: [0, -1], ArrowDown: [0, 1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] };
    if (own && ways[event.key]) {
      event.preventDefault();
      const knob = own.querySelector(".knob");
      const step = (event.shiftKey ? 10 : 1) * Math.max(0.25, Math.min(1, dots()));
      const [dx, dy] = ways[event.key];
      mark({ x: Number(knob.getAttribute("cx")) + dx * step, y: Number(knob.getAttribute("cy")) + dy * step }, own.dataset.mark, false);
    } else if (own && (event.key === "Delete" || event.key === "Backspace")) {
      event.preventDefault();
      send(`${at()}/unmark`, { name: own.dataset.mark });
    } else if (event.key === "+" || event.key === "-") {
      zoom(event.key === "+" ? 1 / 1.3 : 1.3, { x: view.x + view.wide / 2, y: view.y + view.high / 2 });
    }
  });
}

export function startPhoto() {
  if (!board()) return;
  view = whole();
  show();
  startMarking();
  new ResizeObserver(show).observe(board());
  document.addEventListener("click", (event) => {
    const asked = event.target.closest("[data-zoom]")?.dataset.zoom;
    if (!asked) return;
    const middle = { x: view.x + view.wide / 2, y: view.y + view.high / 2 };
    if (asked === "all") { view = whole(); show(); } else zoom(asked === "in" ? 1 / 1.6 : 1.6, middle);
  });
  const ask = (form) => form.method === "post" ? send(form.action, {}, new URLSearchParams(new FormData(form))) : send(`${at()}/look`);
  document.addEventListener("submit", (event) => {
    if (!event.target.matches("[data-picture-form]")) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    ask(event.target);
  }, true);
  document.addEventListener("change", (event) => {
    const form = event.target.closest("[data-on-change]");
    if (form) ask(form);
  });
}
