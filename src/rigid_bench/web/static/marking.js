// Marking by keyboard: rows, one key for each decision, then the next build. The page stays where it is: the next card is
// fetched and put in its place, so that no key is lost between two cards.
(() => {
  const main = document.getElementById("main");
  let shown = window.location.pathname;
  let rows = [];
  let waiting = [];
  let at = -1;
  // A card with rows that nobody decided is returned at the second press.
  let isSure = true;
  // Once a decision is on its way, keys are for the next card: they are held until it is there.
  let isUnderWay = false;
  let held = [];

  // Whoever types elsewhere, or listens to a screen reader, can switch the keys off; the browser keeps it.
  const areKeysOn = () => localStorage.getItem("marking-keys") !== "off";

  function go(row) {
    if (!row) return;
    main.querySelectorAll(".row-here").forEach((former) => former.classList.remove("row-here"));
    const fold = row.closest(".met-fold");
    if (fold) fold.open = true;
    row.classList.add("row-here");
    row.scrollIntoView({ block: "center" });
    row.focus({ preventScroll: true });
    at = rows.indexOf(row);
  }

  function step(way) {
    const among = waiting.length ? waiting : rows.filter((row) => !row.classList.contains("row-met"));
    const list = among.length ? among : rows;
    const next = way > 0 ? list.find((row) => rows.indexOf(row) > at) : list.findLast((row) => rows.indexOf(row) < at);
    go(next || (way > 0 ? list[0] : list[list.length - 1]));
  }

  function decide(row, marks, comment) {
    const form = row?.querySelector("form.inline-form[action*='/checks/']");
    if (!form) return;
    const quick = document.getElementById("quick-form");
    quick.setAttribute("hx-post", form.getAttribute("action"));
    quick.elements.marks.value = marks;
    quick.elements.comment.value = comment;
    quick.elements.seen.value = row.dataset.seen;
    htmx.process(quick);
    quick.requestSubmit();
  }

  function open(row, key) {
    const answer = key === "comment" && row.querySelector("form[action*='/questions/'] input[name=text]");
    if (answer) {
      answer.focus();
      return;
    }
    row.querySelector("details.row-change").open = true;
    const fields = row.querySelectorAll(`[data-key='${key}']`);
    if (fields.length) fields[fields.length - 1].focus();
  }

  const press = (key) => main.querySelector(`[data-key='${key}']`)?.click();

  function actionOf(key) {
    const row = rows[at] || waiting[0];
    const level = row?.querySelector(`[data-level='${key}']`);
    if (level) return () => level.click();
    return {
      ArrowDown: () => step(1),
      ArrowUp: () => step(-1),
      a: () => decide(row, row?.dataset.given, t("Kept as measured.")),
      f: () => decide(row, row?.dataset.marks, t("Good enough: full marks.")),
      m: () => row && open(row, "marks"),
      c: () => row && open(row, "comment"),
      n: () => press("next"),
      r: () => press("return"),
      u: () => press("undo"),
      b: () => press("back"),
    }[key];
  }

  // Takes a key that was held; into a field that has the focus by now it is typed.
  function take(key) {
    const field = document.activeElement;
    if (!field?.matches("input, textarea")) return actionOf(key)?.();
    if (key === "Enter") return field.form.requestSubmit();
    if (key.length === 1) field.setRangeText(key, field.selectionStart, field.selectionEnd, "end");
    return undefined;
  }

  // The card that stands on the page now.
  function start() {
    rows = Array.from(main.querySelectorAll(".marking-card .row"));
    waiting = rows.filter((row) => row.dataset.why);
    isSure = (document.getElementById("return-form")?.dataset.undecided ?? "0") === "0";
    const keys = document.getElementById("keys-on");
    keys.checked = areKeysOn();
    keys.addEventListener("change", () => localStorage.setItem("marking-keys", keys.checked ? "on" : "off"));
    at = rows.findIndex((row) => `#${row.id}` === decodeURIComponent(window.location.hash));
    go(waiting.find((row) => rows.indexOf(row) > at) || waiting[0] || rows[at]);
    isUnderWay = false;
    while (held.length && !isUnderWay) take(held.shift());
  }

  async function show(target) {
    isUnderWay = true;
    try {
      const response = await fetch(target);
      const page = new DOMParser().parseFromString(await response.text(), "text/html");
      if (!response.ok || !page.querySelector(".marking-card")) throw new Error("not a card");
      // the comparison of the same build stays as it was turned
      const comparison = main.querySelector(".comparison");
      const next = page.querySelector(".comparison");
      const sceneOf = (section) => section.querySelector("#viewer").dataset.scene;
      const isSameBuild = sceneOf(comparison) === sceneOf(next);
      if (isSameBuild) next.replaceWith(comparison);
      main.replaceChildren(...page.getElementById("main").childNodes);
      document.title = page.title;
      window.history[isSameBuild ? "replaceState" : "pushState"](null, "", target);
      shown = window.location.pathname;
      htmx.process(main);
      htmx.trigger(main, "htmx:load");
      if (!isSameBuild) window.scrollTo(0, 0);
    } catch {
      window.location.assign(target); // whatever it is, the browser shows it
      return;
    }
    start();
  }

  document.addEventListener("form-done", (event) => {
    if (!/\/builds\/\d+\/mark$/.test(event.detail.pathname)) return;
    event.preventDefault();
    show(event.detail);
  });
  window.addEventListener("popstate", () => {
    if (window.location.pathname !== shown) window.location.reload();
  });
  main.addEventListener("click", (event) => {
    const link = event.target.closest("a[data-key=next]");
    if (!link || event.ctrlKey || event.metaKey || event.shiftKey) return;
    event.preventDefault();
    show(new URL(link.href));
  });
  document.addEventListener("submit", (event) => {
    if (event.target.id !== "return-form" || isSure) return;
    event.preventDefault();
    event.stopPropagation();
    document.getElementById("sure").hidden = false;
    isSure = true;
  }, true);
  document.addEventListener("htmx:beforeRequest", (event) => {
    if (event.detail.elt.matches("form")) isUnderWay = true;
  });
  // what was refused is said; keys that were meant for the next card are not for this one
  document.addEventListener("htmx:afterRequest", (event) => {
    if (!event.detail.elt.matches("form") || event.detail.xhr.getResponseHeader("HX-Redirect")) return;
    isUnderWay = false;
    held = [];
  });

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || !areKeysOn()) return;
    if (isUnderWay) {
      event.preventDefault();
      if (!event.repeat) held.push(event.key);
      return;
    }
    if (event.target.closest("dialog")) return;
    const typing = event.target.matches("input:not([type=checkbox]):not([type=range]), textarea, select");
    if (typing) {
      if (event.key === "Escape") event.target.blur();
      return;
    }
    if (event.target.closest("#viewer") && event.key.startsWith("Arrow")) return;
    const act = actionOf(event.key);
    if (!act) return;
    event.preventDefault();
    act();
  });

  start();
})();
