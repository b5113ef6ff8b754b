// The bench: draws the parts, lets faces be pointed at and parts be dragged. All sums are done by the server.
import * as THREE from "./vendor/three.module.min.js";

const bench = document.getElementById("bench");
const place = document.getElementById("bench-canvas");
const side = document.getElementById("bench-side");
const said = document.getElementById("bench-said");
const form = document.getElementById("bench-mate");
const PAPER = 0xfbf9f3, INK = 0x17242b, SKIN = 0xd8d2c0, BASE = 0xb9c4bd, LIT = 0xe0a030, CHOSEN = 0x0d5470;
const own = Boolean(bench.dataset.own);
const WAITING = `bench-waiting:${bench.dataset.url}`;

let at = Number(bench.dataset.at);
let chosen = "";
let parts = {};
let placed = {};
let apart = {}; // instance -> how far it goes when the build is drawn apart
const shown = new Map(); // instance -> its group
let hidden = new Set();

// --- asking the server -----------------------------------------------------------------

async function ask(path, values) {
  const options = { headers: { Accept: "application/json" } };
  if (values) {
    options.method = "POST";
    options.body = new URLSearchParams({ csrf: bench.dataset.csrf, ...values });
  }
  const answer = await fetch(`${bench.dataset.url}${path}`, options);
  const found = await answer.json();
  if (!answer.ok) throw Object.assign(new Error(`${found.where}: ${found.problem}. ${found.next_step}.`), { status: answer.status });
  return found;
}

function say(text) {
  said.textContent = text;
}

function take(found) {
  at = found.at;
  placed = found.placed;
  apart = found.apart;
  side.innerHTML = found.side;
  const here = side.querySelector("[aria-current]");
  chosen = here ? here.dataset.choose : "";
  setUp(found.poses);
  fillLists();
  if (found.said) say(found.said);
}

// a step that finds no connection is kept in the browser, and sent when there is one again
function remembered() {
  return JSON.parse(localStorage.getItem(WAITING) || "[]");
}

// one after the other: who presses quickly means the second after the first
let line = Promise.resolve();
function step(values) {
  line = line.then(() => takeStep(values));
  return line;
}

async function takeStep(values) {
  const whole = { base: at, chosen, ...values };
  try {
    if (remembered().length) throw new TypeError("earlier steps wait");
    take(await ask("/steps", whole));
  } catch (error) {
    if (error instanceof TypeError) {
      localStorage.setItem(WAITING, JSON.stringify([...remembered(), values]));
      say("No connection. Your step is kept here and is taken as soon as there is one.");
      window.setTimeout(sendRemembered, 2000);
      return;
    }
    say(error.message);
    if (error.status === 409) take(await ask(`/state?chosen=${encodeURIComponent(chosen)}`));
  }
}

let sending = false;
async function sendRemembered() {
  if (sending || !remembered().length) return;
  sending = true;
  try {
    while (remembered().length) {
      const [first, ...rest] = remembered();
      const now = await ask("/state"); // another window may have gone on
      take(await ask("/steps", { ...first, base: now.at, chosen }));
      localStorage.setItem(WAITING, JSON.stringify(rest));
    }
    say("The connection is back, and your steps are taken.");
  } catch (error) {
    if (error instanceof TypeError) window.setTimeout(sendRemembered, 2000);
    else {
      localStorage.setItem(WAITING, JSON.stringify(remembered().slice(1)));
      say(error.message);
    }
  }
  sending = false;
}
window.addEventListener("online", sendRemembered);

// --- drawing ---------------------------------------------------------------------------

const scene = new THREE.Scene();
scene.background = new THREE.Color(PAPER);
scene.add(new THREE.HemisphereLight(0xffffff, 0xb8b2a0, 2.4));
const sun = new THREE.DirectionalLight(0xffffff, 1.3);
scene.add(sun);
const camera = new THREE.OrthographicCamera(-1, 1, 1, -1, -1e5, 1e5);
camera.up.set(0, 0, 1);
const middle = new THREE.Vector3();
const look = { turn: -0.9, lift: 0.5, half: 100 };
const knife = new THREE.Plane(new THREE.Vector3(-1, 0, 0), 0);
let renderer = null;
let flat = null; // a plain canvas where there is no WebGL
let isStale = false;

function draw() {
  // only when something moved
  if (isStale) return;
  isStale = true;
  requestAnimationFrame(() => {
    isStale = false;
    const aside = place.clientWidth / place.clientHeight;
    const up = Math.sin(look.lift), out = Math.cos(look.lift);
    camera.position.set(Math.cos(look.turn) * out, Math.sin(look.turn) * out, up).multiplyScalar(1000).add(middle);
    camera.up.set(0, Math.abs(up) > 0.999 ? 1 : 0, Math.abs(up) > 0.999 ? 0 : 1);
    camera.lookAt(middle);
    Object.assign(camera, { left: -look.half * aside, right: look.half * aside, top: look.half, bottom: -look.half });
    camera.updateProjectionMatrix();
    sun.position.copy(camera.position).add(new THREE.Vector3(300, -200, 500));
    if (renderer) renderer.render(scene, camera);
    else drawLines();
    place.dataset.drawn = renderer ? "webgl" : "lines";
    place.dataset.look = JSON.stringify({ ...look, middle: middle.toArray() });
  });
}

function drawLines() {
  const pen = flat.getContext("2d");
  [flat.width, flat.height] = [place.clientWidth, place.clientHeight];
  pen.fillStyle = "#fbf9f3";
  pen.fillRect(0, 0, flat.width, flat.height);
  pen.strokeStyle = "#17242b";
  camera.updateMatrixWorld();
  const point = new THREE.Vector3();
  shown.forEach((group) => {
    if (!group.visible) return;
    group.updateMatrixWorld();
    const ends = group.userData.edges.geometry.attributes.position;
    pen.beginPath();
    for (let k = 0; k < ends.count; k += 1) {
      point.fromBufferAttribute(ends, k).applyMatrix4(group.matrixWorld).project(camera);
      pen[k % 2 ? "lineTo" : "moveTo"]((point.x + 1) * flat.width / 2, (1 - point.y) * flat.height / 2);
    }
    pen.stroke();
  });
}

const skins = new Map();
function geometryOf(part) {
  if (!skins.has(part)) {
    const data = parts[part];
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.Float32BufferAttribute(data.vertices, 3));
    geometry.setIndex(data.triangles);
    geometry.computeVertexNormals();
    skins.set(part, { geometry, edges: outlines(geometry, data), lit: new Map() });
  }
  return skins.get(part);
}

// the borders of every face, and nothing of the triangles within it
function outlines(geometry, data) {
  const byFace = new Map();
  data.faces.forEach((face, k) => {
    if (!byFace.has(face)) byFace.set(face, []);
    byFace.get(face).push(...data.triangles.slice(3 * k, 3 * k + 3));
  });
  const points = [...byFace.values()].flatMap((index) => {
    const sub = new THREE.BufferGeometry();
    sub.setAttribute("position", geometry.attributes.position);
    sub.setIndex(index);
    return Array.from(new THREE.EdgesGeometry(sub, 179).attributes.position.array);
  });
  return new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(points, 3));
}

function litOf(part, feature) {
  const skin = geometryOf(part);
  if (!skin.lit.has(feature)) {
    const data = parts[part];
    const index = data.faces.flatMap((each, k) => (each === feature ? data.triangles.slice(3 * k, 3 * k + 3) : []));
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", skin.geometry.attributes.position);
    geometry.setIndex(index);
    skin.lit.set(feature, geometry);
  }
  return skin.lit.get(feature);
}

function setUp(poses) {
  shown.forEach((group, name) => {
    if (poses[name]) return;
    scene.remove(group);
    shown.delete(name);
  });
  const count = shown.size;
  Object.entries(poses).forEach(([name, pose]) => {
    if (!shown.has(name)) {
      const skin = geometryOf(placed[name].part);
      const group = new THREE.Group();
      const material = new THREE.MeshLambertMaterial({ color: SKIN, side: THREE.DoubleSide, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1, clippingPlanes: [] });
      const mesh = new THREE.Mesh(skin.geometry, material);
      const edges = new THREE.LineSegments(skin.edges, new THREE.LineBasicMaterial({ color: INK, clippingPlanes: [] }));
      mesh.userData.instance = name;
      group.userData = { mesh, edges, lit: [] };
      group.matrixAutoUpdate = false;
      group.add(mesh, edges);
      scene.add(group);
      shown.set(name, group);
    }
    const group = shown.get(name);
    group.userData.pose = pose;
    group.visible = !hidden.has(name);
    group.userData.mesh.material.color.set(placed[name] && placed[name].grounded ? BASE : SKIN);
    group.userData.edges.material.color.set(name === chosen ? CHOSEN : INK);
  });
  spread();
  if (shown.size > count) fit(); // something new is there
  light();
  place.dataset.poses = JSON.stringify(Object.fromEntries(Object.entries(poses).map(([name, pose]) => [name, pose.slice(12, 15)])));
}

function spread() {
  const share = Number(document.getElementById("bench-apart").value) / 100;
  shown.forEach((group, name) => {
    group.matrix.fromArray(group.userData.pose);
    const [x, y, z] = (apart[name] || [0, 0, 0]).map((each) => share * each);
    group.matrix.premultiply(new THREE.Matrix4().makeTranslation(x, y, z));
    group.matrixWorldNeedsUpdate = true;
  });
  draw();
}

function fit() {
  const box = new THREE.Box3();
  shown.forEach((group) => {
    group.updateMatrixWorld(true);
    if (group.visible) box.expandByObject(group);
  });
  if (box.isEmpty()) return;
  box.getCenter(middle);
  look.half = Math.max(box.getSize(new THREE.Vector3()).length() * 0.55, 5);
  draw();
}

// --- pointing --------------------------------------------------------------------------

const ray = new THREE.Raycaster();
function under(event) {
  const box = place.getBoundingClientRect();
  const spot = new THREE.Vector2(2 * (event.clientX - box.left) / box.width - 1, 1 - 2 * (event.clientY - box.top) / box.height);
  camera.updateMatrixWorld();
  ray.setFromCamera(spot, camera);
  const meshes = [...shown.values()].filter((group) => group.visible).map((group) => group.userData.mesh);
  const hit = ray.intersectObjects(meshes, false).find((each) => !isCut(each.point));
  if (!hit) return null;
  const name = hit.object.userData.instance;
  return { name, feature: parts[placed[name].part].faces[hit.faceIndex], point: hit.point };
}

function isCut(point) {
  return Boolean(document.getElementById("bench-cut").value) && knife.distanceToPoint(point) < 0;
}

function light(hover) {
  shown.forEach((group) => {
    group.userData.lit.forEach((each) => group.remove(each));
    group.userData.lit = [];
  });
  const wanted = form ? [[form.elements.a.value, CHOSEN], [form.elements.b.value, CHOSEN]] : [];
  if (hover && hover.feature >= 0) wanted.push([`${hover.name}:${hover.feature}`, LIT]);
  wanted.forEach(([value, colour]) => {
    const [name, feature] = value.split(":");
    const group = shown.get(name);
    if (!group) return;
    const material = new THREE.MeshBasicMaterial({ color: colour, side: THREE.DoubleSide, transparent: true, opacity: 0.75 });
    const mesh = new THREE.Mesh(litOf(placed[name].part, Number(feature)), material);
    group.add(mesh);
    group.userData.lit.push(mesh);
  });
  draw();
}

function fillLists() {
  if (!form) return;
  for (const key of ["a", "b"]) {
    const list = form.elements[key];
    const value = list.value;
    const groups = Object.keys(placed).map((name) => {
      const group = document.createElement("optgroup");
      group.label = name;
      parts[placed[name].part].features.forEach((each, k) => group.append(new Option(`${name}: ${each.words}`, `${name}:${k}`)));
      return group;
    });
    list.replaceChildren(list.options[0], ...groups);
    list.value = value;
    if (list.selectedIndex < 0) list.value = "";
  }
}

function words(hit) {
  const feature = parts[placed[hit.name].part].features[hit.feature];
  return feature ? `${feature.words}, in ${hit.name}` : hit.name;
}

async function offer() {
  const { a, b, doing } = form.elements;
  doing.disabled = true;
  doing.replaceChildren();
  light();
  if (!a.value || !b.value) return;
  try {
    const found = await ask(`/doing?a=${encodeURIComponent(a.value)}&b=${encodeURIComponent(b.value)}`);
    doing.append(...found.map((each) => new Option(each)));
    doing.disabled = !found.length;
    if (!found.length) say("These two are of one part: choose a face of another.");
  } catch (error) {
    say(error.message);
  }
}

function pointAt(hit) {
  const { a, b } = form.elements;
  const value = `${hit.name}:${hit.feature}`;
  if (!a.value || (a.value && b.value)) [a.value, b.value] = [value, ""];
  else b.value = value;
  say(`${b.value ? "Second" : "First"}: ${words(hit)}`);
  offer();
}

// --- hand and mouse --------------------------------------------------------------------

let held = null;
let pulling = false;

place.addEventListener("pointerdown", (event) => {
  const isAside = event.shiftKey || event.button === 2;
  const hit = isAside ? null : under(event);
  held = { x: event.clientX, y: event.clientY, hit, moved: false, turn: look.turn, lift: look.lift, pan: event.button === 2, middle: middle.clone() };
  place.setPointerCapture(event.pointerId);
});

place.addEventListener("pointermove", async (event) => {
  if (!held) {
    const hit = under(event);
    place.title = hit && hit.feature >= 0 ? words(hit) : "";
    light(hit);
    return;
  }
  if (Math.hypot(event.clientX - held.x, event.clientY - held.y) > 4) held.moved = true;
  if (!held.moved) return;
  if (held.pan) {
    const mm = 2 * look.half / place.clientHeight;
    middle.copy(held.middle).addScaledVector(new THREE.Vector3().setFromMatrixColumn(camera.matrixWorld, 0), -(event.clientX - held.x) * mm);
    middle.addScaledVector(new THREE.Vector3().setFromMatrixColumn(camera.matrixWorld, 1), (event.clientY - held.y) * mm);
    draw();
    return;
  }
  if (!held.hit || !own) {
    look.turn = held.turn - (event.clientX - held.x) / 150;
    look.lift = Math.max(-1.57, Math.min(1.57, held.lift + (event.clientY - held.y) / 150));
    draw();
    return;
  }
  const mm = 2 * look.half / place.clientHeight;
  const right = new THREE.Vector3().setFromMatrixColumn(camera.matrixWorld, 0);
  const up = new THREE.Vector3().setFromMatrixColumn(camera.matrixWorld, 1);
  held.end = held.hit.point.clone().addScaledVector(right, (event.clientX - held.x) * mm).addScaledVector(up, -(event.clientY - held.y) * mm);
  if (pulling) return;
  pulling = true;
  const now = held;
  try {
    const found = await ask("/drag", { name: now.hit.name, start: now.hit.point.toArray().join(","), end: now.end.toArray().join(",") });
    if (held === now) setUp(found.poses);
  } catch (error) {
    say(error.message);
  }
  pulling = false;
});

place.addEventListener("pointerup", async () => {
  const now = held;
  held = null;
  if (!now) return;
  if (!now.moved) {
    if (!now.hit) return;
    if (form && now.hit.feature >= 0) pointAt(now.hit);
    choose(now.hit.name);
  } else if (now.hit && now.end && own) {
    try {
      take(await ask("/drag", { name: now.hit.name, start: now.hit.point.toArray().join(","), end: now.end.toArray().join(","), kept: true, base: at }));
    } catch (error) {
      say(error.message);
      take(await ask("/state"));
    }
  }
});

place.addEventListener("contextmenu", (event) => event.preventDefault());
place.addEventListener("wheel", (event) => {
  event.preventDefault();
  look.half *= Math.exp(event.deltaY / 600);
  draw();
}, { passive: false });

place.addEventListener("keydown", (event) => {
  const keys = { ArrowLeft: [-0.1, 0], ArrowRight: [0.1, 0], ArrowUp: [0, 0.1], ArrowDown: [0, -0.1] };
  const by = keys[event.key];
  if (by) {
    event.preventDefault();
    look.turn += by[0];
    look.lift = Math.max(-1.57, Math.min(1.57, look.lift + by[1]));
  } else if (event.key === "+" || event.key === "-") look.half *= event.key === "+" ? 0.85 : 1.18;
  else return;
  draw();
});

async function choose(name) {
  chosen = name;
  try {
    take(await ask(`/state?chosen=${encodeURIComponent(name)}`));
  } catch (error) {
    say(error.message);
  }
}

async function play(frames) {
  for (const poses of frames) {
    setUp(poses);
    await new Promise((done) => { window.setTimeout(done, 40); });
  }
}

side.addEventListener("click", async (event) => {
  const button = event.target.closest("button");
  if (!button) return;
  const { do: action, a, choose: name, hide, nudge } = button.dataset;
  const label = button.textContent;
  if (action) {
    if (own) await step({ action, a: a || "" });
  } else if (name) await choose(name);
  else if (hide) {
    hidden = new Set(hidden.has(hide) ? [...hidden].filter((each) => each !== hide) : [...hidden, hide]);
    shown.get(hide).visible = !hidden.has(hide);
    button.firstChild.textContent = hidden.has(hide) ? "show" : "hide";
    draw();
  } else if (nudge) {
    try {
      await play((await ask("/nudge", { name: a, motion: nudge })).frames);
    } catch (error) {
      say(error.message);
    }
  }
  // what was pressed may be another button now; the keyboard goes on from its like
  const like = [...side.querySelectorAll("button")].find((each) => each.textContent === label && !each.disabled);
  if (document.activeElement === document.body && like) like.focus();
});

if (form) {
  form.addEventListener("change", (event) => {
    if (["a", "b"].includes(event.target.name)) offer();
  });
  const values = () => ({
    action: "mate", a: form.elements.a.value, b: form.elements.b.value, doing: form.elements.doing.value,
    value: form.elements.value.value, flipped: form.elements.flipped.checked,
  });
  form.querySelector("[data-preview]").addEventListener("click", async () => {
    try {
      setUp((await ask("/steps", { ...values(), base: at, preview: true })).poses);
      say("So it would stand. Keep it, or turn it the other way round.");
    } catch (error) {
      say(error.message);
    }
  });
  form.addEventListener("submit", async (event) => {
    event.preventDefault();
    const before = at;
    await step(values());
    if (at !== before) {
      [form.elements.a.value, form.elements.b.value, form.elements.value.value] = ["", "", ""];
      form.elements.flipped.checked = false;
      offer();
    }
  });
  document.addEventListener("keydown", (event) => {
    if (!(event.ctrlKey || event.metaKey) || !["z", "y"].includes(event.key.toLowerCase()) || event.target.matches("input, textarea")) return;
    event.preventDefault();
    step({ action: event.key.toLowerCase() === "y" || event.shiftKey ? "redo" : "undo" });
  });
}

const replay = document.getElementById("bench-replay");
if (replay) {
  replay.addEventListener("input", async () => take(await ask(`/state?step=${replay.elements.step.value}`)));
}

document.querySelectorAll("[data-view]").forEach((button) => button.addEventListener("click", () => {
  const views = { front: [-Math.PI / 2, 0], top: [-Math.PI / 2, Math.PI / 2], side: [0, 0], iso: [-0.9, 0.5] };
  if (views[button.dataset.view]) [look.turn, look.lift] = views[button.dataset.view];
  fit();
}));
document.getElementById("bench-apart").addEventListener("input", spread);
for (const id of ["bench-cut", "bench-cut-at"]) {
  document.getElementById(id).addEventListener("input", () => {
    const axis = document.getElementById("bench-cut").value;
    const box = new THREE.Box3();
    shown.forEach((group) => box.expandByObject(group));
    if (axis) {
      const share = Number(document.getElementById("bench-cut-at").value) / 100;
      knife.normal.set(axis === "x" ? -1 : 0, axis === "y" ? 1 : 0, axis === "z" ? -1 : 0);
      const level = box.min[axis] + share * (box.max[axis] - box.min[axis]);
      knife.constant = axis === "y" ? -level : level;
    }
    shown.forEach(({ userData }) => {
      for (const each of [userData.mesh, userData.edges]) each.material.clippingPlanes = axis ? [knife] : [];
    });
    draw();
  });
}

async function open() {
  try {
    renderer = new THREE.WebGLRenderer({ antialias: true, preserveDrawingBuffer: true });
    renderer.localClippingEnabled = true;
    renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2));
    place.replaceChildren(renderer.domElement);
  } catch {
    flat = document.createElement("canvas");
    place.replaceChildren(flat);
  }
  const size = () => {
    if (renderer) renderer.setSize(place.clientWidth, place.clientHeight);
    draw();
  };
  new ResizeObserver(size).observe(place);
  const data = await ask("/parts.json");
  parts = Object.fromEntries(data.parts.map((each) => [each.id, each]));
  take(await ask("/state"));
  size();
  sendRemembered();
  bench.dataset.ready = "1";
}
open().catch((error) => say(error.message));
