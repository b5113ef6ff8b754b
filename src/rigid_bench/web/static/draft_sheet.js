// A dimension of a draft's sheet is dragged, or moved with the arrow keys; the form says how far, mm on paper.
(() => {
  const form = document.querySelector(".shift-form");
  const drawings = document.querySelector("#drawings");
  // from row to row, and along a line: what one press of a key moves
  const [ROW, STEP] = [7.5, 2];
  const KEYS = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] };
  let held = null;
  let last = "";

  function name(group) {
    return group.dataset.check.split(" ")[0];
  }

  function reachable() {
    // a picture may hold nothing that can be pressed
    drawings.querySelectorAll("svg").forEach((drawing) => drawing.setAttribute("role", "group"));
    drawings.querySelectorAll("[data-check]").forEach((group) => {
      if (!group.dataset.check || name(group).startsWith("missing-")) return;
      group.setAttribute("tabindex", "0");
      group.setAttribute("role", "button");
      group.setAttribute("aria-label", Array.from(group.querySelectorAll("text"), (each) => each.textContent).join(" "));
    });
  }

  function move(group, x, y) {
    form.elements.check.value = name(group);
    form.elements.x.value = x.toFixed(1);
    form.elements.y.value = y.toFixed(1);
    last = name(group);
    form.requestSubmit();
  }

  drawings.addEventListener("pointerdown", (event) => {
    const group = event.target.closest("[data-check][tabindex]");
    if (!group) return;
    held = { group, x: event.clientX, y: event.clientY };
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    if (!held) return;
    const factor = 1 / held.group.getScreenCTM().a;
    const [x, y] = [(event.clientX - held.x) * factor, (event.clientY - held.y) * factor];
    held.group.setAttribute("transform", `translate(${x} ${y})`);
    held.by = [x, -y];
  });
  document.addEventListener("pointerup", () => {
    if (held && held.by) move(held.group, held.by[0], held.by[1]);
    held = null;
  });
  drawings.addEventListener("keydown", (event) => {
    const group = event.target.closest("[data-check][tabindex]");
    const way = KEYS[event.key];
    if (!group || !way) return;
    event.preventDefault();
    const text = group.querySelector("text");
    const isUpright = text && text.parentNode.getAttribute("transform").includes("rotate");
    const [across, along] = isUpright ? [ROW, STEP] : [STEP, ROW];
    move(group, way[0] * across, way[1] * along);
  });
  document.addEventListener("htmx:afterSwap", (event) => {
    if (event.target.id !== "drawings") return;
    form.elements.x.value = form.elements.y.value = "0";
    reachable();
    const moved = Array.from(drawings.querySelectorAll("[data-check][tabindex]")).find((group) => name(group) === last);
    if (moved) moved.focus();
  });
  reachable();
})();
