// A dimension of a draft's drawing is dragged, or moved with the arrow keys; the form says how far, mm on paper. So is
// a view, by its handle, where the page has a form for it.
// A press without a drag points at it: "dimension" says which, and whoever shows its row listens.
(() => {
  const form = document.querySelector(".shift-form");
  const viewForm = document.querySelector(".view-form");
  if (!form) return;
  // from row to row, and along a line: what one press of a key moves
  const [ROW, STEP, VIEW_STEP] = [7.5, 2, 5];
  const KEYS = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] };
  let held = null;
  let last = "";

  const drawings = () => document.getElementById("drawings");
  const name = (group) => (group.dataset.view ? `${group.dataset.part} ${group.dataset.view}` : group.dataset.check.split(" ")[0]);
  const pressed = (event) => event.target.closest("#drawings [data-check][tabindex], #drawings [data-view]");

  function reachable() {
    // a picture may hold nothing that can be pressed
    drawings().querySelectorAll("svg").forEach((drawing) => drawing.setAttribute("role", "group"));
    drawings().querySelectorAll("[data-check]").forEach((group) => {
      if (!group.dataset.check) return;
      group.setAttribute("tabindex", "0");
      group.setAttribute("role", "button");
      group.setAttribute("aria-label", Array.from(group.querySelectorAll("text"), (text) => text.textContent).join(" "));
    });
  }

  function point(group) {
    if (!group.dataset.view) group.dispatchEvent(new CustomEvent("dimension", { bubbles: true, detail: name(group) }));
  }

  function move(group, x, y) {
    if (name(group).startsWith("missing-")) return;
    const own = group.dataset.view ? viewForm : form;
    if (group.dataset.view) {
      own.elements.part.value = group.dataset.part;
      own.elements.view.value = group.dataset.view;
    } else own.elements.check.value = name(group);
    own.elements.x.value = x.toFixed(1);
    own.elements.y.value = y.toFixed(1);
    last = name(group);
    own.requestSubmit();
  }

  document.addEventListener("pointerdown", (event) => {
    const group = pressed(event);
    if (!group) return;
    held = { group, x: event.clientX, y: event.clientY };
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    if (!held || Math.hypot(event.clientX - held.x, event.clientY - held.y) < 3) return;
    const factor = 1 / held.group.getScreenCTM().a;
    const [x, y] = [(event.clientX - held.x) * factor, (event.clientY - held.y) * factor];
    held.group.setAttribute("transform", `translate(${x} ${y})`);
    held.by = [x, -y];
  });
  document.addEventListener("pointerup", () => {
    if (held && held.by) move(held.group, held.by[0], held.by[1]);
    else if (held) point(held.group);
    held = null;
  });
  document.addEventListener("keydown", (event) => {
    const group = pressed(event);
    if (!group) return;
    const way = KEYS[event.key];
    if (!way && event.key !== "Enter") return;
    event.preventDefault();
    if (!way) return point(group);
    if (group.dataset.view) return move(group, way[0] * VIEW_STEP, way[1] * VIEW_STEP);
    const text = group.querySelector("text");
    const isUpright = text && text.parentNode.getAttribute("transform").includes("rotate");
    const [across, along] = isUpright ? [ROW, STEP] : [STEP, ROW];
    move(group, way[0] * across, way[1] * along);
  });
  document.addEventListener("htmx:load", (event) => {
    if (!event.target.closest?.("#drawings")) return;
    form.elements.x.value = form.elements.y.value = "0";
    reachable();
    const moved = Array.from(drawings().querySelectorAll("[data-check][tabindex], [data-view]")).find((group) => name(group) === last);
    if (moved && last) moved.focus();
    last = "";
  });
  reachable();
})();
