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
