// A build in 3D: coloured by how far it is off, with the reference as a ghost, where a page has the controls for that.
// Numbers come from the server.
import * as THREE from "./vendor/three.module.min.js";
import { sceneRenderer } from "./renderer.js";

let place = null;
let former = null; // the renderer of the build before: a browser keeps only a few
const control = (name) => document.getElementById(name);
// from inside (too little) over right to outside (too much): told apart in grey, too
const STOPS = [[-1, 0x1f4e79], [-0.5, 0x7fa8c9], [0, 0xe7e2d3], [0.5, 0xd9925b], [1, 0x8c2f1b]];

function colourOf(share) {
  const at = Math.max(-1, Math.min(1, share));
  for (let k = 1; k < STOPS.length; k += 1) {
    if (at <= STOPS[k][0]) {
      const [low, high] = [STOPS[k - 1], STOPS[k]];
      return new THREE.Color(low[1]).lerp(new THREE.Color(high[1]), (at - low[0]) / (high[0] - low[0]));
    }
  }
  return new THREE.Color(STOPS[STOPS.length - 1][1]);
}

function geometryOf(part, most) {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.Float32BufferAttribute(part.vertices, 3));
  geometry.setIndex(part.triangles);
  const flat = geometry.toNonIndexed();
  flat.computeVertexNormals();
  const colours = new Float32Array(part.triangles.length * 3);
  part.triangles.forEach((corner, k) => {
    colourOf(part.off && most ? part.off[corner] / most : 0).toArray(colours, 3 * k);
  });
  flat.setAttribute("color", new THREE.BufferAttribute(colours, 3));
  return flat;
}

function named(object, name) {
  object.name = name;
  return object;
}

function drawScale(most) {
  const scale = control("scale");
  if (!scale) return;
  scale.replaceChildren();
  if (!most) {
    scale.textContent = t("No difference in shape.");
    return;
  }
  [-1, -0.5, 0, 0.5, 1].forEach((share) => {
    const step = document.createElement("span");
    step.className = "scale-step";
    step.style.borderTopColor = `#${colourOf(share).getHexString()}`;
    step.textContent = `${share > 0 ? "+" : ""}${(share * most).toFixed(2)}`;
    scale.append(step);
  });
  scale.append(t(" mm: − too little material, + too much"));
}

function drawLines(view, ghost) {
  // where there is no WebGL: hidden-line pictures, the reference under the build
  const all = [...view.visible, ...view.hidden, ...ghost.visible];
  const points = all.flat();
  const low = [0, 1].map((k) => Math.min(...points.map((point) => point[k])));
  const high = [0, 1].map((k) => Math.max(...points.map((point) => point[k])));
  const svg = document.createElementNS("http://www.w3.org/2000/svg", "svg");
  svg.setAttribute("viewBox", `${low[0] - 2} ${-high[1] - 2} ${high[0] - low[0] + 4} ${high[1] - low[1] + 4}`);
  [[ghost.visible, "line-ghost"], [view.hidden, "line-hidden"], [view.visible, "line-seen"]].forEach(([lines, kind]) => {
    const path = document.createElementNS(svg.namespaceURI, "path");
    path.setAttribute("d", lines.map((line) => `M${line.map(([x, y]) => `${x} ${-y}`).join("L")}`).join(""));
    path.setAttribute("class", kind);
    svg.append(path);
  });
  place.replaceChildren(svg);
  place.dataset.drawn = "lines";
}

function show(data) {
  let renderer;
  try {
    if (place.dataset.force === "lines") throw new Error("lines wanted");
    renderer = sceneRenderer();
  } catch {
    if (data.view) drawLines(data.view, data.ghost_view || { visible: [] });
    else place.textContent = t("This browser cannot draw in 3D.");
    return;
  }
  former?.forceContextLoss();
  former = renderer;
  const here = place;
  place.replaceChildren(renderer.domElement);
  place.tabIndex = 0;

  const scene = new THREE.Scene();
  scene.background = new THREE.Color(0xfbf9f3);
  const offs = data.parts.flatMap((part) => part.off || []);
  const most = offs.reduce((greatest, off) => Math.max(greatest, Math.abs(off)), 0);
  drawScale(most);
  const plane = new THREE.Plane(new THREE.Vector3(-1, 0, 0), 0);
  const builds = new THREE.Group();
  const ghosts = new THREE.Group();
  data.parts.forEach((part) => {
    const shape = geometryOf(part, most);
    const material = new THREE.MeshLambertMaterial({
      vertexColors: true, side: THREE.DoubleSide, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1,
    });
    const ink = new THREE.LineBasicMaterial({ color: 0x17242b });
    builds.add(named(new THREE.Mesh(shape, material), part.name));
    builds.add(named(new THREE.LineSegments(new THREE.EdgesGeometry(shape, 20), ink), part.name));
    control("show-part").append(new Option(part.name, part.name));
  });
  data.ghosts.forEach((part) => {
    const shape = geometryOf(part, 0);
    const dashes = new THREE.LineDashedMaterial({ color: 0x0d5470, dashSize: 2, gapSize: 1.2 });
    ghosts.add(named(new THREE.LineSegments(new THREE.EdgesGeometry(shape, 20), dashes).computeLineDistances(), part.name));
    const veil = new THREE.MeshBasicMaterial({
      color: 0x0d5470, transparent: true, opacity: 0.08, depthWrite: false, side: THREE.DoubleSide,
    });
    ghosts.add(named(new THREE.Mesh(shape, veil), part.name));
  });
  scene.add(builds, ghosts, new THREE.HemisphereLight(0xffffff, 0xcfc8b6, 2.6));
  const sun = new THREE.DirectionalLight(0xffffff, 1.4);
  scene.add(sun);

  const whole = new THREE.Box3().setFromObject(scene);
  const camera = new THREE.OrthographicCamera(-1, 1, 1, -1, -1, 1);
  camera.up.set(0, 0, 1);
  let [turn, tilt, near] = [-2.2, 0.5, 1];

  function draw() {
    const only = control("show-part").value;
    const box = new THREE.Box3();
    [...builds.children, ...ghosts.children].forEach((object) => {
      object.visible = !only || object.name === only;
      if (object.visible) box.expandByObject(object);
    });
    if (box.isEmpty()) box.copy(whole);
    const middle = box.getCenter(new THREE.Vector3());
    const size = box.getSize(new THREE.Vector3()).length() || 1;
    camera.near = -10 * size;
    camera.far = 10 * size;
    const half = size / 1.9 / near;
    const aspect = here.clientWidth / here.clientHeight;
    camera.left = -half * aspect;
    camera.right = half * aspect;
    camera.top = half;
    camera.bottom = -half;
    camera.position.set(
      middle.x + size * Math.cos(tilt) * Math.cos(turn),
      middle.y + size * Math.cos(tilt) * Math.sin(turn),
      middle.z + size * Math.sin(tilt),
    );
    camera.lookAt(middle);
    camera.updateProjectionMatrix();
    sun.position.copy(camera.position).add(new THREE.Vector3(0, 0, size));
    const axis = control("section-axis").value;
    if (axis) {
      // the half nearer to the eye is taken away
      const side = camera.position[axis] >= middle[axis] ? -1 : 1;
      const at = box.min[axis] + (Number(control("section-at").value) / 100) * (box.max[axis] - box.min[axis]);
      plane.normal.set(axis === "x" ? side : 0, axis === "y" ? side : 0, axis === "z" ? side : 0);
      plane.constant = -side * at;
    }
    const isColoured = control("show-off")?.checked ?? false;
    scene.traverse((object) => {
      if (!object.material) return;
      object.material.clippingPlanes = axis ? [plane] : [];
      if (object.parent === builds && object.isMesh && object.material.vertexColors !== isColoured) {
        object.material.vertexColors = isColoured;
        object.material.color.set(isColoured ? 0xffffff : 0xd8d2c0);
        object.material.needsUpdate = true;
      }
    });
    ghosts.visible = control("show-ghost")?.checked ?? false;
    renderer.render(scene, camera);
  }

  let held = null;
  place.addEventListener("pointerdown", (event) => {
    held = [event.clientX, event.clientY];
    place.setPointerCapture(event.pointerId);
  });
  place.addEventListener("pointermove", (event) => {
    if (!held) return;
    turn -= (event.clientX - held[0]) / 120;
    tilt = Math.max(-1.55, Math.min(1.55, tilt + (event.clientY - held[1]) / 120));
    held = [event.clientX, event.clientY];
    draw();
  });
  place.addEventListener("pointerup", () => { held = null; });
  place.addEventListener("wheel", (event) => {
    event.preventDefault();
    near = Math.max(0.3, Math.min(20, near * (event.deltaY > 0 ? 0.9 : 1.1)));
    draw();
  }, { passive: false });
  place.addEventListener("keydown", (event) => {
    const moves = { ArrowLeft: [0.1, 0], ArrowRight: [-0.1, 0], ArrowUp: [0, 0.1], ArrowDown: [0, -0.1] };
    const move = moves[event.key];
    if (!move) return;
    event.preventDefault();
    turn += move[0];
    tilt = Math.max(-1.55, Math.min(1.55, tilt + move[1]));
    draw();
  });
  ["show-part", "show-ghost", "show-off", "section-axis", "section-at"].forEach((name) => control(name)?.addEventListener("input", draw));
  new ResizeObserver(() => {
    if (renderer !== former) return; // another build is shown in its place
    renderer.setSize(here.clientWidth, here.clientHeight);
    draw();
    here.dataset.drawn = "solid";
  }).observe(here);
}

async function start() {
  const here = document.getElementById("viewer");
  if (!here || here === place) return;
  place = here;
  try {
    const answer = await fetch(here.dataset.scene);
    if (!answer.ok) throw new Error(answer.status);
    const data = await answer.json();
    if (here !== place) return;
    if (data.parts.length) show(data);
    else here.textContent = t("There is no shape to show: only a build file was handed in, or it could not be read.");
  } catch {
    here.textContent = t("The comparison could not be loaded. Load the page again.");
  }
}

document.addEventListener("htmx:load", start); // another build is shown now
start();
