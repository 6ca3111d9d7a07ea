// Pointing at a place on the strip shows the same place on the story stick, and the other way round. A finger that stays
// on a thing of a drawing is told what pointing with a mouse tells.
const STAYS_MS = 450;

function titleUnder(event) {
  for (let at = event.target; at && at !== document; at = at.parentNode) {
    const title = [...(at.children ?? [])].find((child) => child.tagName === "title")?.textContent || at.title;
    if (title) return title;
    if (at.tagName === "svg") return "";
  }
  return "";
}

function startLongPress() {
  let timer = 0;
  const box = document.createElement("p");
  box.className = "long-press";
  box.setAttribute("role", "status");
  box.hidden = true;
  document.body.append(box);
  const stop = () => { clearTimeout(timer); box.hidden = true; };
  document.addEventListener("pointerdown", (event) => {
    stop();
    if (event.pointerType !== "touch" || !event.target.closest?.("svg, .figure-cell")) return;
    const text = titleUnder(event);
    if (!text) return;
    timer = setTimeout(() => { box.textContent = text; box.hidden = false; }, STAYS_MS);
  });
  for (const end of ["pointerup", "pointercancel", "pointermove"]) {
    document.addEventListener(end, (event) => {
      if (end !== "pointermove" || Math.hypot(event.movementX, event.movementY) > 4) { clearTimeout(timer); if (end !== "pointerup") stop(); else setTimeout(stop, 1500); }
    });
  }
}

export function startPointing() {
  startLongPress();
  const light = (number, on) => document.querySelectorAll(`.segment[data-segment="${number}"]`).forEach((s) => s.classList.toggle("lit", on));
  document.addEventListener("pointerover", (event) => {
    if (event.target.classList?.contains("segment")) light(event.target.dataset.segment, true);
  });
  document.addEventListener("pointerout", (event) => {
    if (event.target.classList?.contains("segment")) light(event.target.dataset.segment, false);
  });
}
