// The plan: a lesson is moved by keys, or dragged to another week; all that follow move with it, on the server.
(() => {
  const day = 24 * 3600 * 1000;
  const send = (lesson, days) => {
    const button = lesson.querySelector("form[action$='/move'] button");
    button.value = String(days);
    button.click();
  };
  const steps = { ArrowLeft: -7, ArrowRight: 7, ArrowUp: -1, ArrowDown: 1 };
  document.addEventListener("keydown", (event) => {
    const lesson = event.target.closest?.("[data-move]");
    if (!lesson || event.target !== lesson || !event.shiftKey || !(event.key in steps)) return;
    event.preventDefault();
    send(lesson, steps[event.key]);
  });

  let dragged = null;
  document.addEventListener("dragstart", (event) => { dragged = event.target.closest?.("[data-move]"); });
  document.addEventListener("dragend", () => { dragged = null; });
  document.addEventListener("dragover", (event) => {
    if (dragged && event.target.closest(".plan-week")) event.preventDefault();
  });
  document.addEventListener("drop", (event) => {
    const week = event.target.closest(".plan-week");
    if (!dragged || !week) return;
    event.preventDefault();
    const days = Math.round((Date.parse(week.dataset.monday) - Date.parse(dragged.dataset.monday)) / day);
    if (days) send(dragged, days);
  });

  // this week first; but the lesson that was moved is in hand still
  document.querySelector(".plan-now")?.scrollIntoView({ inline: "start", block: "nearest" });
  document.getElementById(window.location.hash.slice(1))?.focus();
})();
