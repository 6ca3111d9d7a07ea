// Rows of a list: taken by the number and dropped on another. The server is told, and answers with the list anew.
import { sendForm } from "./keeping.js";

export function startRows() {
  let from = null;
  document.addEventListener("dragstart", (event) => {
    const grip = event.target.closest?.(".row-grip");
    if (!grip) return;
    from = grip.closest("[data-row]");
    event.dataTransfer.effectAllowed = "move";
    event.dataTransfer.setData("text/plain", from.dataset.row);
  });
  document.addEventListener("dragover", (event) => {
    const over = from && event.target.closest?.("[data-row]");
    if (!over) return;
    event.preventDefault();
    document.querySelectorAll(".row-line.over").forEach((r) => r.classList.toggle("over", r === over));
    over.classList.add("over");
  });
  document.addEventListener("drop", (event) => {
    const to = from && event.target.closest?.("[data-row]");
    if (!to) return;
    event.preventDefault();
    const list = to.closest("[data-rows]");
    const url = `${list.dataset.rows}&do=move&row=${from.dataset.row}&to=${to.dataset.row}`;
    if (to !== from) sendForm(to.closest("form"), url);
    from = null;
  });
  document.addEventListener("dragend", () => {
    from = null;
    document.querySelectorAll(".row-line.over").forEach((r) => r.classList.remove("over"));
  });
}
