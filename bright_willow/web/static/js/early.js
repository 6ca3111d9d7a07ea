// Light or dark: as chosen here, else as the system has it. Set before anything is drawn, so that nothing flashes.
{
  const chosen = () => { try { return localStorage.getItem("theme"); } catch { return null; } };
  const system = window.matchMedia("(prefers-color-scheme: dark)");
  const dress = () => { document.documentElement.dataset.bsTheme = chosen() || (system.matches ? "dark" : "light"); };
  dress();
  system.addEventListener("change", dress);
}

// What is typed or chosen before the page's scripts are there: written down, and told to them when they are.
{
  const heard = [];
  const hear = (event) => heard.push(event);
  for (const type of ["input", "change"]) document.addEventListener(type, hear, true);
  window.early = {
    done() {
      for (const type of ["input", "change"]) document.removeEventListener(type, hear, true);
      return heard.splice(0).filter((event) => event.target.isConnected);
    },
  };
}
