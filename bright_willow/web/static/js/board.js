// Tells the server how large the drawing is on this page, so that it is drawn for that size and its words stay legible.
import { swap } from "./places.js";

const APART = 0.06; // a drawing this much larger or smaller than its place is drawn anew

async function drawForPlace() {
  await drawAnew();
  document.documentElement.dataset.board = `${window.innerWidth}`; // tests wait for it
}

async function drawAnew() {
  const svg = document.querySelector(".board-place svg.board[data-frame]");
  if (!svg || !svg.clientWidth || document.body.dataset.busy) return;
  const [, , across, up, wide] = svg.dataset.frame.split(" ").map(Number);
  const [width, height] = [Math.round(svg.clientWidth), Math.round(svg.clientHeight)];
  document.cookie = `board=${width}x${height}; path=/; max-age=31536000; samesite=strict`;
  if (Math.abs(width / wide - 1) < APART && Math.abs(height / (wide * up / across) - 1) < APART) return;
  const answer = await fetch(window.location.href, { headers: { "x-parts": "yes", accept: "text/html" } }).catch(() => null);
  const inHand = document.body.dataset.busy || document.body.classList.contains("dragging");
  if (answer && answer.ok && !inHand) swap(await answer.text(), ["board"]);
}

// The drawing of the quick answer: as high as its width asks for.
async function drawQuick() {
  const svg = document.querySelector(".quick-answer .quick-board svg.board[data-frame]");
  const width = Math.round(svg?.clientWidth ?? 0);
  if (!width) return;
  document.cookie = `quick-board=${width}; path=/; max-age=31536000; samesite=strict`;
  const place = svg.closest(".quick-answer");
  const form = document.querySelector("[data-quick]");
  if (!form || Math.abs(width / Number(svg.dataset.frame.split(" ")[4]) - 1) < APART) return;
  const answer = await fetch(`${form.dataset.quick}?${place.dataset.query}`, { headers: { accept: "text/html" } }).catch(() => null);
  const fresh = answer?.ok && new DOMParser().parseFromString(await answer.text(), "text/html").getElementById("quick-answer");
  if (fresh && place.isConnected) place.replaceWith(fresh);
}

export function startBoard() {
  drawForPlace();
  drawQuick();
  let timer = 0;
  window.addEventListener("resize", () => { clearTimeout(timer); timer = setTimeout(() => { drawForPlace(); drawQuick(); }, 200); });
}
