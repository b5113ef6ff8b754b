// Marking by keyboard: rows, one key for each decision, then the next build.
(() => {
  const rows = Array.from(document.querySelectorAll(".marking-card .row"));
  const waiting = rows.filter((row) => row.dataset.why);
  const quick = document.getElementById("quick-form");
  let at = -1;

  function go(row) {
    if (!row) return;
    document.querySelectorAll(".row-here").forEach((each) => each.classList.remove("row-here"));
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
    if (!form) return;
    quick.action = form.action;
    quick.elements.marks.value = marks;
    quick.elements.comment.value = comment;
    quick.elements.seen.value = row.dataset.seen;
    quick.submit();
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

  const press = (key) => document.querySelector(`[data-key='${key}']`)?.click();

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const typing = event.target.matches("input:not([type=checkbox]):not([type=range]), textarea, select");
    if (typing) {
      if (event.key === "Escape") event.target.blur();
      return;
    }
    if (event.target.closest("#viewer") && event.key.startsWith("Arrow")) return;
    const row = rows[at] || waiting[0];
    const level = row?.querySelector(`[data-level='${event.key}']`);
    const keys = {
      ArrowDown: () => step(1),
      ArrowUp: () => step(-1),
      a: () => row && decide(row, row.dataset.given, "Kept as measured."),
      f: () => row && decide(row, row.dataset.marks, "Good enough: full marks."),
      m: () => row && open(row, "marks"),
      c: () => row && open(row, "comment"),
      n: () => press("next"),
      r: () => press("return"),
      u: () => press("undo"),
      b: () => press("back"),
    };
    const act = level ? () => level.click() : keys[event.key];
    if (!act) return;
    event.preventDefault();
    act();
  });

  const target = rows.findIndex((row) => `#${row.id}` === decodeURIComponent(location.hash));
  at = target;
  go(waiting.find((row) => rows.indexOf(row) > target) || waiting[0] || rows[target]);
})();
