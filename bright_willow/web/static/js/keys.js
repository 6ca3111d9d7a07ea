// Single keys: each presses the thing on the page that carries it (data-key). Typing in a field is left alone.
export function startKeys() {
  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("dialog[open]")) return;
    if (event.key === "F1") {
      const what = event.target.closest(".field")?.querySelector(".what");
      if (!what) return;
      event.preventDefault();
      what.click(); // the focus stays in the field; Escape or F1 closes it
      return;
    }
    if (event.target.closest("input:not([type=radio]):not([type=checkbox]), select, textarea")) {
      if (event.key === "Escape") event.target.blur(); // then the keys are free again
      return;
    }
    if (event.key === "m") {
      document.querySelector('[data-units] button[aria-pressed="false"]')?.click();
      return;
    }
    if (event.key === "v") {
      const views = [...document.querySelectorAll('[name="board-view"]')];
      const next = views[(views.findIndex((w) => w.checked) + 1) % views.length];
      if (next) next.checked = true;
      return;
    }
    if (event.key === "," || event.key === ".") {
      const stages = [...document.querySelectorAll(".stem nav a")];
      stages[stages.findIndex((a) => a.hasAttribute("aria-current")) + (event.key === "." ? 1 : -1)]?.click();
      return;
    }
    const target = [...document.querySelectorAll("[data-key]")].find((e) => e.dataset.key === event.key && !e.disabled);
    if (!target) return;
    event.preventDefault();
    if (target.matches("input")) target.focus();
    else target.click();
  });
}
