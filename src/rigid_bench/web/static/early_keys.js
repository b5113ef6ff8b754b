// Keys that are pressed while a page of builds to be marked is leaving or arriving: kept, and given to the next page's
// script, so that none is lost. Loaded before the page is drawn.
(() => {
  const place = "rigid-bench-keys";
  const longest = 30_000; // ms: what is older was not meant for this page; on a busy machine one takes long to come
  const now = Date.now();
  const held = JSON.parse(sessionStorage.getItem(place) || "[]").filter((each) => now - each.at < longest);
  sessionStorage.removeItem(place);

  const isCommand = (event) => event.ctrlKey || event.metaKey || event.altKey || event.repeat;
  function hold(event) {
    if (isCommand(event) || event.target.closest?.("input, textarea, select")) return;
    held.push({ key: event.key, at: Date.now() });
    event.preventDefault();
  }
  window.addEventListener("keydown", hold);

  window.earlyKeys = {
    // The page listens from now on: returns what was pressed before.
    take() {
      window.removeEventListener("keydown", hold);
      return held.splice(0).map((each) => each.key);
    },
    // For the page that comes next.
    pass(keys) {
      const passed = JSON.parse(sessionStorage.getItem(place) || "[]");
      sessionStorage.setItem(place, JSON.stringify([...passed, ...keys.map((key) => ({ key, at: Date.now() }))]));
    },
  };
})();
