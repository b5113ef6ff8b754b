// The desk: a row and what it speaks of on the drawing light each other; what is missing is taken with a key;
// fields save themselves, and nothing else is done with the draft before they have.
(() => {
  const rows = () => document.getElementById("desk-rows");
  const drawings = () => document.getElementById("drawings");
  const isTyping = (element) => element?.matches("input:not([type=checkbox]), textarea, select");

  // --- a row and its place on the drawing ---
  const numbers = (row) => (row?.dataset.features ? row.dataset.features.split(" ") : []);
  const drawn = (selector) => Array.from(drawings()?.querySelectorAll(selector) || []);
  const byNumber = (list) => list.flatMap((number) => drawn(`.point[data-feature='${number}']`));
  const dimensions = (check) => drawn(`[data-check~='${CSS.escape(check)}']`);

  function light(row) {
    drawings()?.querySelectorAll(".lit").forEach((shape) => shape.classList.remove("lit"));
    if (!row) return;
    byNumber(numbers(row)).forEach((shape) => shape.classList.add("lit"));
    dimensions(row.dataset.id).forEach((shape) => shape.classList.add("lit"));
  }
  const opened = () => document.querySelector(".desk-row[open]");

  function show(row) {
    row.open = true;
    row.scrollIntoView({ block: "nearest" });
    row.querySelector("summary").focus();
  }
  document.addEventListener("toggle", (event) => {
    if (event.target.matches?.(".desk-row")) light(opened());
  }, true);
  for (const kind of ["mouseover", "focusin"]) {
    document.addEventListener(kind, (event) => light(event.target.closest?.(".desk-row") || opened()));
  }
  document.addEventListener("dimension", (event) => {
    const offer = document.querySelector(`[data-missing='${event.detail}']`);
    if (offer) return offer.requestSubmit();
    const row = document.getElementById(`check-${event.detail}`);
    if (row) show(row);
  });

  // --- pointing: the lists hold what is chosen, so that the keyboard does the same ---
  const pointing = document.querySelector(".pointing");

  function choose(event) {
    const [a, b] = pointing.querySelectorAll("select");
    const here = document.elementsFromPoint(event.clientX, event.clientY).filter((shape) => shape.matches(".point"));
    const under = (here.length ? here : [event.target]).map((shape) => shape.dataset.feature);
    // a second press on the same spot takes what lies beneath
    const last = b.value || a.value;
    const next = under.includes(last) ? under[(under.indexOf(last) + 1) % under.length] : under[0];
    if (under.includes(last) && b.value) b.value = next;
    else if (under.includes(last) && next !== last) a.value = next;
    else if (!a.value || b.value) [a.value, b.value] = [next, ""];
    else b.value = next;
    pointing.dispatchEvent(new Event("change", { bubbles: true }));
  }
  function showChosen() {
    const chosen = Array.from(pointing.querySelectorAll("select"), (list) => list.value).filter(Boolean);
    drawings().querySelectorAll(".point.chosen").forEach((shape) => shape.classList.remove("chosen"));
    byNumber(chosen).forEach((shape) => shape.classList.add("chosen"));
    rows().querySelectorAll(".desk-row").forEach((row) => {
      row.classList.toggle("row-lit", chosen.length > 0 && chosen.every((number) => numbers(row).includes(number)));
    });
    rows().querySelector(".row-lit")?.scrollIntoView({ block: "nearest" });
  }
  document.addEventListener("click", (event) => {
    if (pointing && event.target.matches(".point")) choose(event);
  });
  pointing?.addEventListener("change", showChosen);

  // --- in the assembly: two features of the scene become the two sides of a relation ---
  document.addEventListener("side", (event) => {
    const { value, words, side } = event.detail;
    document.querySelectorAll(`.new-check select[name='${["a", "b"][side]}']`).forEach((list) => { list.value = value; });
    const relation = document.querySelector("#assembly details");
    relation.open = true;
    const feature = words;
    document.getElementById("pointed").textContent = side ? t("Second: {feature}", { feature }) : t("First: {feature}", { feature });
    if (side === 1) relation.querySelector("select[name=doing]").focus();
  });

  // --- petals of the rose: a press opens or closes, the boxes beside it hold what is open ---
  const petals = document.querySelector(".desk-rose");
  const boxes = () => Array.from(petals.closest("form").querySelectorAll("[name=slide], [name=turn]"));
  const petal = (box) => petals.querySelector(`[data-choice='${box.name === "slide" ? "t" : "r"}${box.value}']`);
  petals?.addEventListener("click", (event) => {
    const pressed = event.target.closest("[data-choice]");
    boxes().find((box) => petal(box) === pressed)?.click();
  });
  petals?.closest("form").addEventListener("change", () => {
    boxes().forEach((box) => petal(box).classList.toggle("is-chosen", box.checked));
  });

  // --- nearer and farther ---
  let size = 1;
  function zoom(way) {
    size = way === "fit" ? 1 : Math.min(4, Math.max(1, size * (way === "in" ? 1.25 : 0.8)));
    drawings().style.setProperty("--zoom", size);
  }
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-zoom]");
    if (button) zoom(button.dataset.zoom);
  });
  document.addEventListener("wheel", (event) => {
    if (!event.ctrlKey || !event.target.closest?.("#drawings")) return;
    event.preventDefault();
    zoom(event.deltaY < 0 ? "in" : "out");
  }, { passive: false });

  // --- keys ---
  const does = (name) => document.querySelector(`[data-does='${name}']`);
  document.addEventListener("keydown", (event) => {
    if (isTyping(event.target) || event.altKey) return;
    const command = event.ctrlKey || event.metaKey;
    let form = null;
    if (command && event.key.toLowerCase() === "z") form = does(event.shiftKey ? "redo" : "undo");
    else if (command && event.key.toLowerCase() === "y") form = does("redo");
    else if (!command && event.key === "t") form = document.querySelector("[data-missing]");
    if (!form) return;
    event.preventDefault();
    form.requestSubmit();
  });

  // --- saving: every field as it is left; whatever else is done waits for it, and is not done if it fails ---
  const saving = new Set();
  let hasFailed = false;
  const isField = (form) => form?.matches?.("form[hx-trigger*='change']:not(.pointing)");
  const status = (text) => {
    const line = document.getElementById("desk-saved");
    if (line) line.textContent = text;
  };
  document.addEventListener("htmx:beforeRequest", (event) => {
    if (!isField(event.target)) return;
    saving.add(event.target);
    hasFailed = false;
    status(t("saving …"));
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    if (!isField(event.target)) return;
    saving.delete(event.target);
    if (event.detail.successful) {
      for (const field of event.target.elements) {
        if ("defaultValue" in field) field.defaultValue = field.value;
      }
      if (event.target.nextElementSibling?.matches(".form-answer")) event.target.nextElementSibling.remove();
      for (const field of event.target.elements) field.removeAttribute("aria-invalid");
    } else {
      hasFailed = true;
      status(t("not saved"));
    }
  });
  async function settled() {
    document.activeElement?.blur?.();
    while (saving.size) await new Promise((done) => setTimeout(done, 20));
    return !hasFailed;
  }
  const isWaiting = () => document.getElementById("desk-foot")?.dataset.state === "waiting";
  async function looked() {
    while (isWaiting() || !document.querySelector("[data-release]")) await new Promise((done) => setTimeout(done, 100));
  }
  async function after(event, act) {
    if (!saving.size) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    if (!await settled()) return;
    if (event.target.isConnected) act();
    else if (event.target.matches?.("[data-release]")) document.querySelector("[data-release]")?.requestSubmit();
  }
  document.addEventListener("submit", (event) => {
    const { target, submitter } = event;
    if (isField(target)) return;
    after(event, () => target.requestSubmit(submitter));
    if (!event.defaultPrevented && target.matches("[data-release]") && isWaiting()) {
      event.preventDefault();
      status(t("being looked at; it is released then"));
      looked().then(() => document.querySelector("[data-release]")?.requestSubmit()); // its form may be another by now
    }
  }, true);
  document.addEventListener("click", (event) => {
    const link = event.target.closest("a[href]");
    if (link && link.origin === window.location.origin && !link.hash) after(event, () => link.click());
  }, true);
  // where the draft has been read and made into something for the first time, all is new
  document.addEventListener("htmx:beforeSwap", (event) => {
    if (event.target.id !== "desk-foot" || document.querySelector(".desk-side")) return;
    if (event.detail.serverResponse.includes('data-state="waiting"')) return;
    event.detail.shouldSwap = false;
    window.location.reload();
  });

  // --- what was read anew takes the place of the rows, but not of what is being typed ---
  let open = "";
  let field = "";
  document.addEventListener("htmx:oobBeforeSwap", (event) => {
    if (event.detail.target.id !== "desk-rows") return;
    const typing = document.activeElement;
    if (isTyping(typing) && rows().contains(typing) && typing.value !== typing.defaultValue && typing.tagName !== "SELECT") {
      event.detail.shouldSwap = false;
      return;
    }
    open = opened()?.id || "";
    field = rows().contains(typing) ? typing.name || "summary" : "";
  });
  document.addEventListener("htmx:load", (event) => {
    if (event.target.id === "drawings") light(opened());
    if (event.target.id !== "desk-rows") return;
    const row = open && document.getElementById(open);
    if (!row) return;
    row.open = true;
    if (field) (row.querySelector(`[name='${field}']`) || row.querySelector("summary")).focus();
  });

  const wanted = decodeURIComponent(window.location.hash.slice(1));
  const row = wanted.startsWith("check-") && document.getElementById(wanted);
  if (row) show(row);
})();
