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
  // the answer is read where the question stood
  document.addEventListener("htmx:afterSwap", (event) => {
    if (event.target.id !== "question") return;
    (document.querySelector("#question [name=answer]") || document.querySelector("[data-next]"))?.focus();
  });
})();
