// Handles on the drawing. The pointer's place is sent as drawing coordinates; the server says what shape that makes.
import { change, queue } from "./keeping.js";
import { ANSWERS, fill, lastWins, post, swap } from "./places.js";

let keeping = 0; // of the moves under way when a handle is let go, none is shown after it

function place(svg, event) {
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
}

const pull = lastWins(async (url, query, before, held) => {
  if (before !== keeping) return; // let go of meanwhile
  const answer = await post(`${url}&${new URLSearchParams(query)}`, new URLSearchParams());
  if (answer && answer.status === 200 && before === keeping) {
    const html = await answer.text();
    swap(html, ANSWERS);
    fill(html);
    follow(held); // the pointer has gone on meanwhile
  }
});

// Let go: kept like any other change, in its turn, on the revision the board then shows.
function keep(query) {
  keeping += 1;
  return queue(() => {
    const url = document.querySelector("[data-pull]")?.dataset.pull;
    return url ? change(`${url}&${new URLSearchParams({ ...query, keep: 1 })}`, new URLSearchParams()) : 200;
  });
}

// The handle is where the pointer is at once; the drawing calculated for it follows.
function follow(held) {
  const handle = document.querySelector(`[data-handle="${CSS.escape(held.name)}"]`);
  const knob = handle?.querySelector("circle.knob");
  if (!knob) return;
  handle.setAttribute("transform", `translate(${held.at.x - Number(knob.getAttribute("cx"))} ${held.at.y - Number(knob.getAttribute("cy"))})`);
}

export function startPull() {
  let held = null;
  document.addEventListener("pointerdown", (event) => {
    const handle = event.target.closest?.("[data-handle]");
    if (!handle || event.button !== 0) return;
    event.preventDefault();
    const svg = handle.ownerSVGElement;
    held = { name: handle.dataset.handle, url: handle.closest("[data-pull]").dataset.pull, frame: svg.dataset.frame, at: null };
    document.body.classList.add("dragging");
  });
  document.addEventListener("pointermove", (event) => {
    if (!held) return;
    const svg = document.querySelector(`[data-handle="${held.name}"]`)?.ownerSVGElement ?? document.querySelector("svg.board");
    if (!svg) return;
    held.at = place(svg, event);
    follow(held);
    pull(held.url, { handle: held.name, x: held.at.x, y: held.at.y, frame: held.frame }, keeping, held);
  });
  const letGo = () => {
    if (!held) return;
    document.body.classList.remove("dragging");
    if (held.at) keep({ handle: held.name, x: held.at.x, y: held.at.y, frame: held.frame });
    held = null;
  };
  document.addEventListener("pointerup", letGo);
  document.addEventListener("pointercancel", letGo);
  document.addEventListener("keydown", async (event) => {
    const handle = event.target.closest?.("[data-handle]");
    const ways = { ArrowUp: [0, -1], ArrowDown: [0, 1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] };
    if (!handle || !ways[event.key]) return;
    event.preventDefault();
    const knob = handle.querySelector(".knob");
    const step = Number(handle.dataset.step);
    const [dx, dy] = ways[event.key];
    const name = handle.dataset.handle;
    const frame = handle.ownerSVGElement.dataset.frame;
    await keep({ handle: name, x: Number(knob.getAttribute("cx")) + dx * step, y: Number(knob.getAttribute("cy")) + dy * step, frame });
    document.querySelector(`[data-handle="${name}"]`)?.focus();
  });
}
