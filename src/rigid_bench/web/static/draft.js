// Pointing at faces in a draft's views: the lists hold what is chosen, so that the keyboard does the same.
(() => {
  function points(part, features) {
    return features.flatMap((feature) => Array.from(part.querySelectorAll(`.point[data-feature='${feature}']`)));
  }

  function numbers(row) {
    return row.dataset.features ? row.dataset.features.split(" ") : [];
  }

  function light(part, list) {
    part.querySelectorAll(".point.lit").forEach((each) => each.classList.remove("lit"));
    points(part, list).forEach((each) => each.classList.add("lit"));
  }

  function show(part) {
    const chosen = Array.from(part.querySelectorAll(".pointing select"), (each) => each.value).filter(Boolean);
    part.querySelectorAll(".point.chosen").forEach((each) => each.classList.remove("chosen"));
    points(part, chosen).forEach((each) => each.classList.add("chosen"));
    part.querySelectorAll("tr[data-features]").forEach((row) => {
      row.classList.toggle("row-lit", chosen.length > 0 && chosen.every((each) => numbers(row).includes(each)));
    });
  }

  function choose(part, event) {
    const form = part.querySelector(".pointing");
    const [a, b] = form.querySelectorAll("select");
    const here = document.elementsFromPoint(event.clientX, event.clientY).filter((each) => each.matches(".point"));
    const under = (here.length ? here : [event.target]).map((each) => each.dataset.feature);
    // a second press on the same spot takes what lies beneath
    const last = b.value || a.value;
    const next = under.includes(last) ? under[(under.indexOf(last) + 1) % under.length] : under[0];
    if (under.includes(last) && b.value) b.value = next;
    else if (under.includes(last) && next !== last) a.value = next;
    else if (!a.value || b.value) [a.value, b.value] = [next, ""];
    else b.value = next;
    form.dispatchEvent(new Event("change", { bubbles: true }));
  }

  document.querySelectorAll(".draft-part").forEach((part) => {
    const loose = document.querySelector(`#draft-state [data-loose='${part.dataset.part}']`);
    if (loose) points(part, loose.dataset.features.split(" ")).forEach((each) => each.classList.add("loose"));
    part.addEventListener("click", (event) => {
      if (event.target.matches(".point")) choose(part, event);
    });
    part.addEventListener("change", (event) => {
      if (event.target.closest(".pointing")) show(part);
    });
    part.querySelectorAll("tr[data-features]").forEach((row) => {
      for (const kind of ["mouseenter", "focusin"]) row.addEventListener(kind, () => light(part, numbers(row)));
      for (const kind of ["mouseleave", "focusout"]) row.addEventListener(kind, () => light(part, []));
    });
  });

  // a face that was pointed at becomes one side of a relation or gap
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-fill]");
    if (!button) return;
    document.querySelectorAll(`.new-check select[name='${button.dataset.fill}']`).forEach((each) => {
      each.value = button.dataset.value;
    });
    button.textContent = `${button.textContent.replace(" ✓", "")} ✓`;
    document.querySelector("#assembly details").open = true;
  });
})();
