// The quick answer while it is typed: the answer is asked for and put in place; another shape asks for other fields.
import { lastWins, trouble } from "./places.js";

const asked = (form) => new URLSearchParams(new FormData(form)).toString();

// What is wrong with a field, moved from the answer to its field.
function beside(form, message) {
  const input = form.querySelector(`[name="${CSS.escape(message.dataset.faultFor)}"]`);
  message.hidden = false;
  if (!input) return;
  message.id = `${input.id}-fault`;
  input.setAttribute("aria-invalid", "true");
  input.setAttribute("aria-describedby", message.id);
  input.closest(".field").append(message);
}

export function startQuick() {
  const form = document.querySelector("[data-quick]");
  if (!form) return;
  form.classList.add("is-live");
  let timer = 0;
  const ask = lastWins(async () => {
    const query = asked(form);
    try {
      const answer = await fetch(`${form.dataset.quick}?${query}`, { headers: { accept: "text/html" } });
      const made = new DOMParser().parseFromString(await answer.text(), "text/html").getElementById("quick-answer");
      if (!made) return;
      for (const box of form.querySelectorAll(".fault")) box.remove();
      for (const input of form.querySelectorAll("[aria-invalid]")) {
        input.removeAttribute("aria-invalid");
        const hint = document.getElementById(`${input.id}-hint`);
        if (hint) input.setAttribute("aria-describedby", hint.id);
        else input.removeAttribute("aria-describedby");
      }
      for (const message of made.querySelectorAll("[data-fault-for]")) beside(form, message);
      document.getElementById("quick-answer").replaceWith(made);
      if (answer.ok) history.replaceState(null, "", `/quick?${query}`);
      trouble("");
    } catch {
      trouble("The program does not answer. What you typed stays here.");
    }
  });
  form.addEventListener("input", (event) => {
    if (event.target.closest("[data-quick-whole]")) return;
    clearTimeout(timer);
    timer = setTimeout(ask, 120);
  });
  form.addEventListener("change", (event) => {
    if (event.target.closest("[data-quick-whole]")) form.requestSubmit();
  });
}
