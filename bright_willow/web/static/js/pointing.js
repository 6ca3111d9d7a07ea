// Pointing at a place on the strip shows the same place on the story stick, and the other way round.
export function startPointing() {
  const light = (number, on) => document.querySelectorAll(`.segment[data-segment="${number}"]`).forEach((s) => s.classList.toggle("lit", on));
  document.addEventListener("pointerover", (event) => {
    if (event.target.classList?.contains("segment")) light(event.target.dataset.segment, true);
  });
  document.addEventListener("pointerout", (event) => {
    if (event.target.classList?.contains("segment")) light(event.target.dataset.segment, false);
  });
}
