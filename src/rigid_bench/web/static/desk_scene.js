// The solved assembly on the desk: two features are pointed at, and become the two sides of what is asked.
import { BenchView, CHOSEN, LIT, lookAround } from "./bench_view.js";

const place = document.getElementById("desk-scene");
const label = document.getElementById("desk-hover");
const FEW = 4; // pixels below which a press is no drag

async function open() {
  const answer = await fetch(place.dataset.url, { headers: { Accept: "application/json" } });
  if (!answer.ok) {
    place.hidden = true; // a draft that was looked at before there were scenes: the lists do the same
    return;
  }
  const { parts, placed, poses } = await answer.json();
  const view = new BenchView(place);
  view.parts = Object.fromEntries(parts.map((part) => [part.id, part]));
  view.set(poses, placed, "");
  let chosen = [];
  let held = null;
  const words = (hit) => {
    const feature = view.parts[placed[hit.name].part].features[hit.feature];
    return feature ? `${placed[hit.name].name}: ${feature.words}` : placed[hit.name].name;
  };
  const light = (hit) => {
    const lit = chosen.map((value) => [value, CHOSEN]);
    if (hit?.feature >= 0) lit.push([`${hit.name}:${hit.feature}`, LIT]);
    view.light(lit);
  };
  place.addEventListener("pointerdown", (event) => {
    place.setPointerCapture(event.pointerId);
    held = { x: event.clientX, y: event.clientY, turn: view.look.turn, lift: view.look.lift, moved: false };
  });
  place.addEventListener("pointermove", (event) => {
    if (!held) {
      const hit = view.under(event);
      label.textContent = hit?.feature >= 0 ? words(hit) : "";
      light(hit);
      return;
    }
    const [dx, dy] = [event.clientX - held.x, event.clientY - held.y];
    held.moved ||= Math.hypot(dx, dy) > FEW;
    if (held.moved) view.orbit(held.turn - dx / 150, held.lift + dy / 150);
  });
  place.addEventListener("pointerup", (event) => {
    const { moved } = held || { moved: true };
    held = null;
    const hit = moved ? null : view.under(event);
    if (!hit || hit.feature < 0) return;
    const value = `${hit.name}:${hit.feature}`;
    chosen = chosen.length === 1 && chosen[0] !== value ? [...chosen, value] : [value];
    light(hit);
    document.dispatchEvent(new CustomEvent("side", { detail: { value, words: words(hit), side: chosen.length - 1 } }));
  });
  // what lies before others is hidden for the moment
  const hideOrShow = document.querySelectorAll("[data-scene-part]");
  hideOrShow.forEach((box) => box.addEventListener("change", () => {
    if (view.hidden.has(box.dataset.scenePart) === box.checked) view.hide(box.dataset.scenePart);
  }));
  lookAround(place, view);
  place.dataset.ready = "1";
}
if (place) open();
