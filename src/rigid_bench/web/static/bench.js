// The bench: what is pointed at, dragged and chosen, and what the server answers. All sums are done by the server.
import { Looking } from "./bench_looking.js";
import { Offers } from "./bench_offers.js";
import { BenchServer } from "./bench_server.js";
import { BenchView, CHOSEN, LIT, TOUCHING, lookAround } from "./bench_view.js";

const bench = document.getElementById("bench");
const place = document.getElementById("bench-canvas");
const side = document.getElementById("bench-side");
const tray = document.getElementById("bench-tray");
const lists = document.getElementById("bench-lists");
const said = document.getElementById("bench-said");
const form = document.getElementById("bench-mate");
const label = document.getElementById("bench-hover");
const own = Boolean(bench.dataset.own);
const view = new BenchView(place);

let at = Number(bench.dataset.at);
let chosen = "";
let offers = null;
let placed = {};
let poses = {};
let touching = [];
let following = []; // what is likely done after the last mate
let pointed = { x: 0, y: 0 }; // where the hand was last, pixels of the view

function say(text) {
  said.textContent = text;
}

const here = () => ({ at, chosen });
const server = new BenchServer({ url: bench.dataset.url, csrf: bench.dataset.csrf, here, take, say });
const looking = new Looking({ view, server, here, called: (name) => placed[name].name, say });
const ask = (path, values) => server.ask(path, values);
const step = (values, path) => server.step(values, path);

function take(answer) {
  ({ at, placed, poses } = answer);
  bench.dataset.at = at;
  looking.know(answer.apart);
  touching = answer.touching;
  following = answer.following;
  side.innerHTML = answer.side;
  if (tray) tray.innerHTML = answer.tray;
  side.querySelectorAll("[data-hide]").forEach((button) => {
    if (view.hidden.has(button.dataset.hide)) button.firstChild.textContent = t("show");
  });
  chosen = side.querySelector("[aria-current]")?.dataset.choose || "";
  view.set(poses, placed, chosen);
  fillLists();
  light();
  if (answer.said) say(answer.said);
  looking.findWays();
}

// --- pictures one after the other -------------------------------------------------------

const PICTURE_MS = 1000 / 60;
let film = [];
let isPlaying = false;
function show(frames) {
  film.push(...frames);
  if (isPlaying || !film.length) return Promise.resolve();
  isPlaying = true;
  return new Promise((done) => {
    let shownAt = null;
    const next = (now) => {
      // who falls behind, or draws slowly, leaves pictures out: each that is shown is one of the server's, in which all
      // mates hold
      const missed = shownAt === null ? 0 : Math.round((now - shownAt) / PICTURE_MS) - 1;
      film = film.slice(Math.min(Math.max(missed, Math.floor(film.length / 12)), Math.max(film.length - 1, 0)));
      shownAt = now;
      if (film.length) view.set(film.shift(), placed, chosen); // what was let go of meanwhile leaves none
      if (film.length) requestAnimationFrame(next);
      else {
        isPlaying = false;
        done();
      }
    };
    requestAnimationFrame(next);
  });
}

// what a motion is asked with; a teacher feels what is free at the step that is shown
function switches() {
  const [limits, contacts] = ["bench-limits", "bench-contacts"].map((id) => document.getElementById(id).checked);
  return own ? { limits, contacts } : { limits, contacts, step: at };
}

// --- features --------------------------------------------------------------------------

function words(hit) {
  const feature = view.parts[placed[hit.name].part].features[hit.feature];
  const name = placed[hit.name].name;
  return feature ? t("{feature}, in {name}", { feature: feature.words, name }) : name;
}

function light(under) {
  const wanted = form ? [form.elements.a.value, form.elements.b.value].filter(Boolean).map((value) => [value, CHOSEN]) : [];
  touching.forEach((value) => wanted.push([value, TOUCHING]));
  if (under && under.feature >= 0) wanted.push([`${under.name}:${under.feature}`, LIT]);
  view.light(wanted);
}

function fillLists() {
  if (!form) return;
  for (const key of ["a", "b"]) {
    const list = form.elements[key];
    const value = list.value;
    const groups = Object.entries(placed).map(([id, { part, name }]) => {
      const group = document.createElement("optgroup");
      group.label = name;
      view.parts[part].features.forEach((feature, k) => group.append(new Option(`${name}: ${feature.words}`, `${id}:${k}`)));
      return group;
    });
    list.replaceChildren(list.options[0], ...groups);
    list.value = value;
    if (list.selectedIndex < 0) list.value = "";
  }
}

let asked = 0;
async function offer() {
  const { a, b, doing } = form.elements;
  doing.disabled = true;
  doing.replaceChildren();
  light();
  fields();
  if (!a.value || !b.value) return;
  asked += 1;
  const mine = asked;
  await new Promise((done) => { window.setTimeout(done, 120); }); // who goes down a list means the last
  if (mine !== asked) return;
  try {
    const choices = await ask(`/doing?a=${encodeURIComponent(a.value)}&b=${encodeURIComponent(b.value)}`);
    if (mine !== asked) return;
    doing.append(...choices.map((choice) => {
      const option = new Option(`${choice.words} (${choice.term})`, choice.doing);
      Object.assign(option.dataset, { limited: choice.limits, value: choice.value, words: choice.words, term: choice.term });
      return option;
    }));
    doing.disabled = !choices.length;
    if (!choices.length) say(t("These two are of one part: choose a face of another."));
    fields();
  } catch (error) {
    say(error.message);
  }
}

// what the chosen mate takes besides its two features
function fields() {
  const { doing, value } = form.elements;
  const option = doing.selectedOptions[0];
  const valueLabel = option && option.dataset.value;
  form.querySelector("[data-value]").hidden = !valueLabel;
  form.querySelector("[data-value] span").textContent = valueLabel || t("Value");
  if (!valueLabel) value.value = "";
  form.querySelector("[data-limits]").hidden = !(option && option.dataset.limited);
}

async function pointAt(hit, event) {
  const { a, b } = form.elements;
  offers.hide();
  const value = `${hit.name}:${hit.feature}`;
  if (!a.value || (a.value && b.value)) [a.value, b.value] = [value, ""];
  else b.value = value;
  const feature = words(hit);
  say(b.value ? t("Second: {feature}", { feature }) : t("First: {feature}", { feature }));
  await offer();
  const able = Array.from(form.elements.doing.options, ({ value: doing, dataset }) => ({ doing, ...dataset }));
  if (!b.value || !able.length) return;
  const box = place.getBoundingClientRect();
  label.hidden = true;
  pointed = { x: event.clientX - box.left, y: event.clientY - box.top };
  offers.show(able, pointed.x, pointed.y);
}

// --- hand and mouse --------------------------------------------------------------------

let held = null;
let isPulling = false;
const fingers = new Map();

place.addEventListener("pointerdown", (event) => {
  fingers.set(event.pointerId, event);
  place.setPointerCapture(event.pointerId);
  if (fingers.size > 1) { // two fingers come nearer and shift the view
    held = { pinch: spread(), half: view.look.half, middle: view.middle.clone() };
    return;
  }
  touching = [];
  const isAside = event.shiftKey || event.button === 2;
  const hit = isAside ? null : view.under(event);
  const { turn, lift } = view.look;
  const pointer = { x: event.clientX, y: event.clientY, pan: event.button === 2 };
  held = { ...pointer, hit, moved: false, turn, lift, middle: view.middle.clone(), poses };
  if (!hit) return;
  // on the part, and where that is while nothing is drawn apart
  held.local = hit.point.clone().applyMatrix4(view.shown.get(hit.name).matrix.clone().invert());
  held.from = standing(held);
});

function spread() {
  const [one, two] = [...fingers.values()];
  const distance = Math.hypot(one.clientX - two.clientX, one.clientY - two.clientY);
  return { apart: distance, x: (one.clientX + two.clientX) / 2, y: (one.clientY + two.clientY) / 2 };
}

// the place of the world where the point under the hand is now
function standing(now) {
  const pose = view.shown.get(now.hit.name).matrix.clone().fromArray(now.poses[now.hit.name]);
  return now.local.clone().applyMatrix4(pose);
}

place.addEventListener("pointermove", (event) => {
  if (fingers.has(event.pointerId)) fingers.set(event.pointerId, event);
  if (!held) {
    hover(event);
    return;
  }
  if (held.pinch) {
    if (fingers.size < 2) return;
    const now = spread();
    view.look.half = held.half * held.pinch.apart / Math.max(now.apart, 1);
    view.shift(held.middle, now.x - held.pinch.x, now.y - held.pinch.y);
    return;
  }
  const [dx, dy] = [event.clientX - held.x, event.clientY - held.y];
  if (Math.hypot(dx, dy) > 4) held.moved = true;
  if (!held.moved) return;
  label.hidden = true;
  if (held.pan) view.shift(held.middle, dx, dy);
  else if (!held.hit) view.orbit(held.turn - dx / 150, held.lift + dy / 150);
  else {
    held.end = view.across(held.from, dx, dy);
    pull(held);
  }
});

let hovered = "";
function hover(event) {
  const hit = view.under(event);
  label.hidden = !(hit && hit.feature >= 0);
  if (!label.hidden) {
    const box = place.getBoundingClientRect();
    label.textContent = words(hit);
    label.style.left = `${Math.min(event.clientX - box.left + 14, Math.max(0, box.width - label.offsetWidth - 4))}px`;
    label.style.top = `${Math.max(0, event.clientY - box.top - 28)}px`;
  }
  const now = hit ? `${hit.name}:${hit.feature}` : "";
  if (now !== hovered) light(hit); // drawn anew only when it is another face
  hovered = now;
}
place.addEventListener("pointerleave", () => { label.hidden = true; });

// where the point under the hand is now, and where the hand is
function pulled(now) {
  const way = { start: standing(now).toArray().join(","), end: now.end.toArray().join(","), sight: view.sight().join(",") };
  return { name: now.hit.name, ...way, poses: JSON.stringify(now.poses), ...switches() };
}

async function pull(now) {
  if (isPulling) return;
  isPulling = true;
  try {
    const answer = await ask("/drag", pulled(now));
    if (held === now) {
      now.poses = answer.poses;
      touching = answer.touching;
      say(answer.said);
      show(answer.frames);
      light();
    }
  } catch (error) {
    if (!(error instanceof TypeError)) say(error.message);
  }
  isPulling = false;
}

function letGo(event) {
  fingers.delete(event.pointerId);
  const now = held;
  if (fingers.size) return;
  held = null;
  if (!now || now.pinch) return;
  if (!now.moved) {
    if (!now.hit) return;
    if (form && now.hit.feature >= 0) pointAt(now.hit, event);
    choose(now.hit.name);
  } else if (now.hit && now.end) {
    film = [];
    if (own) step({ ...pulled(now), kept: true }, "/drag");
    else view.set(poses, placed, chosen); // a teacher feels what is free, and moves nothing
  }
}
place.addEventListener("pointerup", letGo);
place.addEventListener("pointercancel", letGo);

place.addEventListener("contextmenu", (event) => event.preventDefault());
lookAround(place, view);

// --- buttons and forms -------------------------------------------------------------------

function choose(name) {
  chosen = name;
  return server.choose(name);
}

async function nudge(name, motion) {
  try {
    const answer = await ask("/nudge", { name, motion, ...switches() });
    touching = answer.touching;
    if (answer.said) say(answer.said);
    light();
    await show(answer.frames);
  } catch (error) {
    say(error.message);
  }
}

async function press(event) {
  const button = event.target.closest("button");
  if (!button) return;
  const { do: action, a, choose: name, hide, nudge: motion } = button.dataset;
  const pressed = button.textContent;
  if (action) {
    if (own) await step({ action, a: a || "" });
  } else if (name) await choose(name);
  else if (hide) button.firstChild.textContent = view.hide(hide) ? t("show") : t("hide");
  else if (motion) await nudge(a, motion);
  // what was pressed may be another button now; the keyboard goes on from its like
  const like = [...bench.querySelectorAll("button")].find((other) => other.textContent === pressed && !other.disabled);
  if (document.activeElement === document.body) (like || place).focus({ preventScroll: true });
}
for (const list of [side, tray]) list?.addEventListener("click", press);

async function hint() {
  try {
    const answer = await ask("/hint");
    say(answer.said);
    touching = answer.lit;
    light();
  } catch (error) {
    say(error.message);
  }
}
document.querySelector("[data-hint]")?.addEventListener("click", hint);

if (form) {
  const { a, b, doing, value, least, most, flipped } = form.elements;
  let quarters = 0;
  form.addEventListener("change", (event) => {
    if (event.target === a || event.target === b) offer();
    if (event.target === doing) fields();
  });
  const values = () => ({
    action: "mate", a: a.value, b: b.value, doing: doing.value, value: value.value, flipped: flipped.checked, quarters,
    ...(form.querySelector("[data-limits]").hidden ? {} : { least: least.value, most: most.value }),
  });
  let previewed = 0; // an answer that comes after something else was chosen draws nothing
  const preview = async (isSaid = true) => {
    previewed += 1;
    const mine = previewed;
    try {
      const answer = await ask("/steps", { ...values(), base: at, preview: true });
      if (mine !== previewed) return;
      view.set(answer.poses, placed, chosen);
      if (isSaid) say(t("So it would stand. Keep it, turn it, or put it the other way round."));
    } catch (error) {
      say(error.message);
    }
  };
  form.querySelector("[data-preview]").addEventListener("click", () => preview());
  form.querySelector("[data-quarter]").addEventListener("click", () => {
    quarters = (quarters + 1) % 4;
    preview();
  });
  const forget = () => {
    previewed += 1;
    for (const field of [a, b, value, least, most]) field.value = "";
    flipped.checked = false;
    quarters = 0;
    offers.hide();
    offer();
  };
  let isPointed = false; // what is likely next is offered where the hand is
  const done = (before) => {
    if (at === before) return;
    forget();
    if (isPointed) next();
    isPointed = false;
  };
  form.addEventListener("submit", async (event) => {
    event.preventDefault();
    const before = at;
    await step(values());
    done(before);
  });
  // the form's lists show what an offer is about
  const fill = (choice) => {
    if (choice.b) {
      [a.value, b.value] = [choice.a, choice.b];
      doing.replaceChildren(new Option(choice.words, choice.doing));
      doing.disabled = false;
      light();
    }
    doing.value = choice.doing;
    fields();
  };
  let isNext = false; // the offers are of what is likely next, not of what was pointed at
  const next = () => {
    isNext = following.length > 0;
    if (isNext) offers.show(following, pointed.x, pointed.y);
  };
  offers = new Offers(document.getElementById("bench-offers"), {
    preview: (choice) => {
      if (choice.doing === "likewise") {
        previewed += 1;
        view.set(poses, placed, chosen);
        return;
      }
      fill(choice);
      preview(false);
    },
    keep: async (choice) => {
      isNext = false;
      place.focus({ preventScroll: true });
      isPointed = true;
      if (choice.doing === "likewise") {
        const before = at;
        await step({ action: "likewise", a: choice.a });
        return done(before);
      }
      fill(choice);
      const needed = [value, least].find((field) => !field.closest("[hidden]"));
      if (!needed) return form.requestSubmit();
      lists.open = true; // a number is wanted, too
      return needed.focus();
    },
    close: back,
  });
  // a step back: the second face is let go of, then the first; nothing has moved yet
  function back() {
    previewed += 1;
    view.set(poses, placed, chosen);
    if (b.value && !isNext) b.value = "";
    else forget();
    isNext = false;
    say(a.value ? t("The second is let go of. Point at another.") : "");
    place.focus({ preventScroll: true });
    offer();
  }
  const keys = {
    escape: back,
    f: () => { flipped.checked = !flipped.checked; preview(); },
    q: () => { quarters = (quarters + 1) % 4; preview(); },
    l: () => { lists.open = !lists.open; (lists.open ? a : place).focus(); },
    h: hint,
    n: next,
  };
  document.addEventListener("keydown", (event) => {
    if (event.target.matches("input:not([type=checkbox], [type=range]), textarea")) return;
    const key = event.key.toLowerCase();
    if (event.ctrlKey || event.metaKey) {
      if (!["z", "y"].includes(key)) return;
      event.preventDefault();
      step({ action: key === "y" || event.shiftKey ? "redo" : "undo" });
    } else if (!offers.key(event) && keys[key] && !event.target.matches("select")) {
      event.preventDefault();
      keys[key]();
    }
  });
}

// how it came together, step by step; begins where the slider stands, which may have been moved while the page opened
async function startReplay(replay) {
  const slider = replay.elements.step;
  let lastAsked = 0; // answers may overtake each other: the last that was asked for counts
  const look = async () => {
    lastAsked += 1;
    const number = lastAsked;
    const state = await ask(`/state?step=${slider.value}`);
    if (number === lastAsked) take(state);
  };
  slider.addEventListener("input", look);
  replay.addEventListener("submit", async (event) => {
    event.preventDefault();
    for (slider.value = 0; ; slider.stepUp()) {
      await look();
      if (slider.value === slider.max) return;
      await new Promise((done) => { window.setTimeout(done, 700); });
    }
  });
  await look();
}

async function open() {
  const data = await ask("/parts.json");
  view.parts = Object.fromEntries(data.parts.map((part) => [part.id, part]));
  const replay = document.getElementById("bench-replay");
  await (replay ? startReplay(replay) : ask("/state").then(take));
  server.sendRemembered();
  bench.dataset.ready = "1";
}
open().catch((error) => say(error.message));
