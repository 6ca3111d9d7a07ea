// Sliders: one shows a step of the way round the form, one draws the parts that press away from home along the way the server gave them.
export function startClosing() {
  document.addEventListener("input", (event) => {
    if (event.target.matches?.("[data-steps-slider]")) {
      for (const step of document.querySelectorAll(".step")) step.classList.toggle("now", step.dataset.step === event.target.value);
      return;
    }
    if (!event.target.matches?.("[data-closing-slider]")) return;
    const open = Number(event.target.value) / 100;
    for (const part of document.querySelectorAll(".presser-group")) {
      part.setAttribute("transform", `translate(${Number(part.dataset.dx) * open} ${Number(part.dataset.dy) * open})`);
    }
  });
}
