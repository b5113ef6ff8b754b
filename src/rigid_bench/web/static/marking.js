// Marking by keyboard: rows, one key for each decision, then the next build.
(() => {
  // Once a decision is on its way, this page takes no more keys: they are for the next one.
  let isLeaving = false;
  const rows = Array.from(document.querySelectorAll(".marking-card .row"));
  const waiting = rows.filter((row) => row.dataset.why);
  const quick = document.getElementById("quick-form");
  let at = -1;

  function go(row) {
    if (!row) return;
    document.querySelectorAll(".row-here").forEach((each) => each.classList.remove("row-here"));
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
    const form = row.querySelector("form.inline-form[action*='/checks/']");
    if (!form) return false;
    quick.action = form.action;
    quick.elements.marks.value = marks;
    quick.elements.comment.value = comment;
    quick.elements.seen.value = row.dataset.seen;
    quick.submit();
    return true;
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

  // A card with rows that nobody decided is returned at the second press.
  const returning = document.getElementById("return-form");
  let isSure = !returning || returning.dataset.undecided === "0";
  returning?.addEventListener("submit", (event) => {
    if (isSure) return;
    event.preventDefault();
    document.getElementById("sure").hidden = false;
    isSure = true;
    isLeaving = false;
  });

  // Whoever types elsewhere, or listens to a screen reader, can switch the keys off; the browser keeps it.
  const keys = document.getElementById("keys-on");
  keys.checked = localStorage.getItem("marking-keys") !== "off";
  keys.addEventListener("change", () => localStorage.setItem("marking-keys", keys.checked ? "on" : "off"));

  function press(key) {
    const button = document.querySelector(`[data-key='${key}']`);
    button?.click();
    return Boolean(button);
  }

  // only of a page that comes back as it was: a fresh one shows itself when it may be leaving already
  window.addEventListener("pageshow", (event) => {
    if (event.persisted) isLeaving = false;
  });
  function leave(act) {
    return () => {
      isLeaving = true;
      if (act() === false) isLeaving = false;
    };
  }

  function actionOf(key) {
    const row = rows[at] || waiting[0];
    const level = row?.querySelector(`[data-level='${key}']`);
    if (level) return leave(() => level.click());
    return {
      ArrowDown: () => step(1),
      ArrowUp: () => step(-1),
      a: leave(() => row ? decide(row, row.dataset.given, "Kept as measured.") : false),
      f: leave(() => row ? decide(row, row.dataset.marks, "Good enough: full marks.") : false),
      m: () => row && open(row, "marks"),
      c: () => row && open(row, "comment"),
      n: leave(() => press("next")),
      r: leave(() => press("return")),
      u: leave(() => press("undo")),
      b: leave(() => press("back")),
    }[key];
  }

  // Takes a key that was pressed while the page was arriving; into a field that has the focus by now it is typed.
  function take(key) {
    const field = document.activeElement;
    if (!field?.matches("input, textarea")) return actionOf(key)?.();
    if (key === "Enter") return field.form.requestSubmit();
    if (key.length === 1) field.setRangeText(key, field.selectionStart, field.selectionEnd, "end");
    return undefined;
  }

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || !keys.checked) return;
    if (isLeaving) {
      event.preventDefault();
      if (!event.repeat) window.earlyKeys.pass([event.key]);
      return;
    }
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

  const target = rows.findIndex((row) => `#${row.id}` === decodeURIComponent(location.hash));
  at = target;
  go(waiting.find((row) => rows.indexOf(row) > target) || waiting[0] || rows[target]);
  const early = keys.checked ? window.earlyKeys.take() : [];
  while (early.length) {
    if (isLeaving) window.earlyKeys.pass(early.splice(0));
    else take(early.shift());
  }
})();
