// A drill by keys: 1 to 9 choose, Enter sends, N goes on, A asks for the same kind again.
(() => {
  const answers = () => Array.from(document.querySelectorAll("#question [name=answer]"));
  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.target.matches("input:not([type=checkbox], [type=radio])")) return;
    const field = answers()[Number(event.key) - 1];
    if (field?.matches("[type=checkbox], [type=radio]")) {
      field.focus();
      field.click();
    } else if (event.key === "Enter" && !event.target.matches("a, button")) {
      document.querySelector("#question form")?.requestSubmit();
    } else if (["n", "a"].includes(event.key)) {
      document.querySelector(event.key === "n" ? "[data-next]" : "[data-again]")?.click();
    } else return;
    event.preventDefault();
  });
  // the clock of a set that has one: by the server's time, spoken of once when it is up
  const clock = document.querySelector("[data-until]");
  if (clock) {
    const ahead = Date.now() / 1000 - Number(clock.dataset.now);
    const tick = () => {
      if (document.querySelector(".drill-verdict [data-next]")) return;
      const left = Math.ceil(Number(clock.dataset.until) - (Date.now() / 1000 - ahead));
      clock.textContent = left > 0 ? t("{left} s left", { left }) : t("The time is up: answer to see why.");
      if (left > 0) setTimeout(tick, 250);
    };
    tick();
  }
  // pointing at a petal or a place is choosing it; what is chosen looks so, whichever way it was
  const shownChoices = () => answers().forEach((field) => {
    document.querySelectorAll(`[data-choice="${field.value}"]`).forEach((place) => place.classList.toggle("is-chosen", field.checked));
  });
  document.addEventListener("click", (event) => {
    const place = event.target.closest("[data-choice]");
    if (place) answers().find((field) => field.value === place.dataset.choice)?.click();
  });
  document.addEventListener("change", (event) => { if (event.target.name === "answer") shownChoices(); });
  // a film: the slider shows a picture of the way, the button runs through them there and back
  const shown = (film, number) => {
    film.querySelectorAll(".film-frame").forEach((frame, place) => { frame.hidden = place !== number; });
    film.querySelector("input[type=range]").value = number;
  };
  document.addEventListener("input", (event) => {
    const film = event.target.closest("[data-film]");
    if (film) shown(film, Number(event.target.value));
  });
  document.addEventListener("click", (event) => {
    const film = event.target.closest("[data-play]")?.closest("[data-film]");
    if (!film) return;
    clearInterval(film.playing);
    const last = film.querySelectorAll(".film-frame").length - 1;
    let step = 0;
    film.playing = setInterval(() => {
      step += 1;
      shown(film, step <= last ? step : 2 * last - step);
      if (step === 2 * last) clearInterval(film.playing);
    }, 90);
  });
  // the answer is read where the question stood
  document.addEventListener("htmx:afterSwap", (event) => {
    if (event.target.id !== "question") return;
    (document.querySelector("#question [name=answer]") || document.querySelector("[data-next]"))?.focus();
  });
})();
