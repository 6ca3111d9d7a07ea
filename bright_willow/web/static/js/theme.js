// The button that turns the screens dark or light; what was chosen stays in this browser (early.js reads it).
export function startTheme() {
  const button = document.querySelector("[data-theme-switch]");
  if (!button) return;
  const root = document.documentElement;
  const label = () => {
    const dark = root.dataset.bsTheme === "dark";
    button.querySelector("span").textContent = dark ? "light" : "dark";
    button.setAttribute("aria-label", dark ? "Light screens" : "Dark screens");
    button.hidden = false;
  };
  button.addEventListener("click", () => {
    root.dataset.bsTheme = root.dataset.bsTheme === "dark" ? "light" : "dark";
    try { localStorage.setItem("theme", root.dataset.bsTheme); } catch { /* for this page alone then */ }
    label();
  });
  new MutationObserver(label).observe(root, { attributeFilter: ["data-bs-theme"] });
  label();
}
