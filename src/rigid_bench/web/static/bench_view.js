// The view of the bench: draws the parts where they stand, and says what is under the pointer. Draws when something moved.
import * as THREE from "./vendor/three.module.min.js";
import { drawHiddenLines } from "./bench_lines.js";
import { sceneRenderer } from "./renderer.js";

const PAPER = 0xfbf9f3, INK = 0x17242b, SKIN = 0xd8d2c0, BASE = 0xb9c4bd;
export const LIT = 0xe0a030, CHOSEN = 0x0d5470, TOUCHING = 0xb4552d;
const STEEPEST = Math.PI / 2;

export class BenchView {
  constructor(place) {
    this.place = place;
    this.parts = {};
    this.shown = new Map(); // instance -> its group
    this.hidden = new Set();
    this.away = {}; // instance -> how far it goes when the build is drawn apart
    this.share = 0;
    this.look = { turn: -0.9, lift: 0.5, half: 100 };
    this.middle = new THREE.Vector3();
    this.knife = null;
    this.isStale = false;
    this.geometries = new Map();
    this.ray = new THREE.Raycaster();
    this.scene = new THREE.Scene();
    this.scene.background = new THREE.Color(PAPER);
    this.scene.add(new THREE.HemisphereLight(0xffffff, 0xb8b2a0, 2.4));
    this.sun = new THREE.DirectionalLight(0xffffff, 1.3);
    this.trails = new THREE.LineSegments(new THREE.BufferGeometry(), new THREE.LineBasicMaterial({ color: CHOSEN }));
    this.ground = new THREE.LineSegments(new THREE.BufferGeometry(), new THREE.LineBasicMaterial({ color: INK }));
    this.trails.frustumCulled = this.ground.frustumCulled = false;
    this.scene.add(this.sun, this.trails, this.ground);
    this.camera = new THREE.OrthographicCamera(-1, 1, 1, -1, -1e5, 1e5);
    this.renderer = null;
    this.flat = null; // a plain canvas where there is no WebGL
    try {
      this.renderer = sceneRenderer();
    } catch {
      this.flat = document.createElement("canvas");
    }
    place.prepend(this.renderer ? this.renderer.domElement : this.flat);
    new ResizeObserver(() => this.resize()).observe(place);
  }

  resize() {
    if (this.renderer) this.renderer.setSize(this.place.clientWidth, this.place.clientHeight);
    this.draw();
  }

  draw() {
    if (this.isStale) return;
    this.isStale = true;
    requestAnimationFrame(() => {
      this.isStale = false;
      this.aim();
      if (this.renderer) this.renderer.render(this.scene, this.camera);
      else this.drawLines();
      const { place, look, middle } = this;
      place.dataset.drawn = this.renderer ? "webgl" : "lines";
      place.dataset.look = JSON.stringify({ ...look, middle: middle.toArray() });
      place.dataset.pictures = String(Number(place.dataset.pictures || 0) + 1);
    });
  }

  aim() {
    const { camera, look, middle, place } = this;
    const aside = place.clientWidth / place.clientHeight;
    const up = Math.sin(look.lift), out = Math.cos(look.lift);
    camera.position.set(Math.cos(look.turn) * out, Math.sin(look.turn) * out, up).multiplyScalar(1000).add(middle);
    // straight from above or below the world's Z is no way up
    camera.up.set(...(out < 1e-3 ? [-Math.sign(up) * Math.cos(look.turn), -Math.sign(up) * Math.sin(look.turn), 0] : [0, 0, 1]));
    camera.lookAt(middle);
    Object.assign(camera, { left: -look.half * aside, right: look.half * aside, top: look.half, bottom: -look.half });
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
    this.sun.position.copy(camera.position).add(new THREE.Vector3(300, -200, 500));
  }

  drawLines() {
    const { flat, place, camera, look, middle } = this;
    [flat.width, flat.height] = [place.clientWidth, place.clientHeight];
    const axes = [0, 1, 2].map((column) => new THREE.Vector3().setFromMatrixColumn(camera.matrixWorld, column));
    const scale = flat.height / (2 * look.half);
    const row = (axis, factor, offset) => [axis.x * factor, axis.y * factor, axis.z * factor, offset - factor * axis.dot(middle)];
    const rows = [row(axes[0], scale, flat.width / 2), row(axes[1], -scale, flat.height / 2), row(axes[2], -1, 0)];
    const groups = [...this.shown.values()].filter((group) => group.visible);
    groups.forEach((group) => group.updateMatrixWorld());
    drawHiddenLines(flat, groups, { rows, slack: 3 / scale }, (at) => this.isCut(new THREE.Vector3(...at)));
  }

  geometryOf(part) {
    if (!this.geometries.has(part)) {
      const data = this.parts[part];
      const geometry = new THREE.BufferGeometry();
      geometry.setAttribute("position", new THREE.Float32BufferAttribute(data.vertices, 3));
      geometry.setIndex(data.triangles);
      geometry.computeVertexNormals();
      this.geometries.set(part, { geometry, ...outlines(data), lit: new Map() });
    }
    return this.geometries.get(part);
  }

  litOf(part, feature) {
    const drawn = this.geometryOf(part);
    if (!drawn.lit.has(feature)) {
      const data = this.parts[part];
      const index = data.faces.flatMap((owner, k) => (owner === feature ? data.triangles.slice(3 * k, 3 * k + 3) : []));
      const geometry = new THREE.BufferGeometry();
      geometry.setAttribute("position", drawn.geometry.attributes.position);
      geometry.setIndex(index);
      drawn.lit.set(feature, geometry);
    }
    return drawn.lit.get(feature);
  }

  // show instances where they stand: 4 x 4 matrices by their names
  set(poses, placed, chosen) {
    this.shown.forEach((group, name) => {
      if (poses[name]) return;
      this.scene.remove(group);
      this.shown.delete(name);
    });
    const count = this.shown.size;
    Object.entries(poses).forEach(([name, pose]) => {
      if (!this.shown.has(name)) this.add(name, placed[name].part);
      const group = this.shown.get(name);
      Object.assign(group.userData, { pose, part: placed[name].part });
      group.visible = !this.hidden.has(name);
      group.userData.mesh.material.color.set(placed[name].grounded ? BASE : SKIN);
      group.userData.edges.material.color.set(name === chosen ? CHOSEN : INK);
    });
    this.base = Object.keys(placed).find((name) => placed[name].grounded);
    this.spread(this.share);
    if (this.shown.size > count) this.fit(); // something new is there
    this.place.dataset.poses = JSON.stringify(Object.fromEntries(Object.entries(poses).map(([name, pose]) => [name, pose.slice(12, 15)])));
  }

  add(name, part) {
    const drawn = this.geometryOf(part);
    const planes = this.knife ? [this.knife] : [];
    const material = new THREE.MeshLambertMaterial({
      color: SKIN, side: THREE.DoubleSide, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1, clippingPlanes: planes,
    });
    const mesh = new THREE.Mesh(drawn.geometry, material);
    const edges = new THREE.LineSegments(drawn.edges, new THREE.LineBasicMaterial({ color: INK, clippingPlanes: planes }));
    mesh.userData.instance = name;
    const group = new THREE.Group();
    group.userData = { mesh, edges, inner: drawn.inner, lit: [] };
    group.matrixAutoUpdate = false;
    group.add(mesh, edges);
    this.scene.add(group);
    this.shown.set(name, group);
  }

  // draw the parts so much of their way out, each with a trail
  spread(share) {
    this.share = share;
    const trails = [];
    this.shown.forEach((group, name) => {
      const [x, y, z] = (this.away[name] || [0, 0, 0]).map((along) => share * along);
      group.matrix.fromArray(group.userData.pose).premultiply(new THREE.Matrix4().makeTranslation(x, y, z));
      group.matrixWorldNeedsUpdate = true;
      group.updateMatrixWorld(true);
      if (!share || !group.visible) return;
      const box = this.parts[group.userData.part].box;
      const end = new THREE.Vector3(...[0, 1, 2].map((k) => (box[0][k] + box[1][k]) / 2)).applyMatrix4(group.matrix);
      trails.push(end.x - x, end.y - y, end.z - z, end.x, end.y, end.z);
    });
    this.trails.geometry.setAttribute("position", new THREE.Float32BufferAttribute(trails, 3));
    this.hatch();
    this.draw();
  }

  // the ground's sign under the base (ISO 3952: a line with slanted strokes)
  hatch() {
    const strokes = [];
    const group = this.shown.get(this.base);
    if (group && group.visible) {
      const box = new THREE.Box3().setFromObject(group.userData.mesh);
      const size = box.getSize(new THREE.Vector3());
      const step = Math.max(size.x, size.y) / 16;
      strokes.push(box.min.x, box.min.y, box.min.z, box.max.x, box.min.y, box.min.z);
      for (let x = box.min.x + step; x <= box.max.x + 1e-6; x += step) {
        strokes.push(x, box.min.y, box.min.z, x - step, box.min.y, box.min.z - step);
      }
    }
    this.ground.geometry.setAttribute("position", new THREE.Float32BufferAttribute(strokes, 3));
  }

  bounds() {
    const box = new THREE.Box3();
    this.shown.forEach((group) => {
      if (group.visible) box.expandByObject(group.userData.mesh);
    });
    return box;
  }

  fit() {
    const box = this.bounds();
    if (box.isEmpty()) return;
    box.getCenter(this.middle);
    const size = box.getSize(new THREE.Vector3());
    const aside = this.place.clientWidth / this.place.clientHeight;
    // how tall and how wide the box is as it is looked at
    const { turn, lift } = this.look;
    const wide = size.x * Math.abs(Math.sin(turn)) + size.y * Math.abs(Math.cos(turn));
    const deep = size.x * Math.abs(Math.cos(turn)) + size.y * Math.abs(Math.sin(turn));
    const tall = size.z * Math.cos(lift) + deep * Math.abs(Math.sin(lift));
    this.look.half = Math.max(0.56 * Math.max(tall, wide / aside), 5);
    this.draw();
  }

  from(name) {
    const views = { front: [-Math.PI / 2, 0], top: [-Math.PI / 2, STEEPEST], side: [0, 0], iso: [-0.9, 0.5] };
    if (views[name]) [this.look.turn, this.look.lift] = views[name];
    this.fit();
  }

  orbit(turn, lift) {
    this.look.turn = turn;
    this.look.lift = Math.max(-STEEPEST, Math.min(STEEPEST, lift));
    this.draw();
  }

  nearer(factor) {
    this.look.half *= factor;
    this.draw();
  }

  // a point moved by pixels across the view
  across(point, dx, dy) {
    const mm = 2 * this.look.half / this.place.clientHeight;
    const [right, up] = [0, 1].map((column) => new THREE.Vector3().setFromMatrixColumn(this.camera.matrixWorld, column));
    return point.clone().addScaledVector(right, dx * mm).addScaledVector(up, -dy * mm);
  }

  // the direction in which one looks
  sight() {
    return new THREE.Vector3().setFromMatrixColumn(this.camera.matrixWorld, 2).toArray();
  }

  shift(from, dx, dy) {
    this.middle.copy(this.across(from, -dx, -dy));
    this.draw();
  }

  under(event) {
    const box = this.place.getBoundingClientRect();
    const spot = new THREE.Vector2(2 * (event.clientX - box.left) / box.width - 1, 1 - 2 * (event.clientY - box.top) / box.height);
    this.aim();
    this.ray.setFromCamera(spot, this.camera);
    const meshes = [...this.shown.values()].filter((group) => group.visible).map((group) => group.userData.mesh);
    const hit = this.ray.intersectObjects(meshes, false).find((crossing) => !this.isCut(crossing.point));
    if (!hit) return null;
    const name = hit.object.userData.instance;
    return { name, feature: this.parts[this.shown.get(name).userData.part].faces[hit.faceIndex], point: hit.point };
  }

  isCut(point) {
    return Boolean(this.knife) && this.knife.distanceToPoint(point) < 0;
  }

  // cut the parts across an axis, at a share of their extent; nothing for no cut
  cut(axis, share) {
    this.knife = null;
    if (axis) {
      const box = this.bounds();
      const sign = axis === "y" ? 1 : -1; // the half that is nearer to the eye in most views goes
      const level = box.min[axis] + share * (box.max[axis] - box.min[axis]);
      this.knife = new THREE.Plane(new THREE.Vector3(...["x", "y", "z"].map((name) => (name === axis ? sign : 0))), -sign * level);
    }
    this.shown.forEach(({ userData }) => {
      for (const drawn of [userData.mesh, userData.edges]) drawn.material.clippingPlanes = this.knife ? [this.knife] : [];
    });
    this.draw();
  }

  hide(name) {
    if (!this.hidden.delete(name)) this.hidden.add(name);
    this.shown.get(name).visible = !this.hidden.has(name);
    this.spread(this.share);
    return this.hidden.has(name);
  }

  // light features up: ["instance:number", colour] each
  light(wanted) {
    this.shown.forEach((group) => {
      group.userData.lit.forEach((patch) => group.remove(patch));
      group.userData.lit = [];
    });
    wanted.forEach(([value, colour]) => {
      const [, name, feature] = value.match(/^(.*):(-?\d+)$/) || [];
      const group = this.shown.get(name);
      if (!group || feature < 0) return;
      const clippingPlanes = this.knife ? [this.knife] : [];
      const material = new THREE.MeshBasicMaterial({
        color: colour, side: THREE.DoubleSide, transparent: true, opacity: 0.75, clippingPlanes,
      });
      const mesh = new THREE.Mesh(this.litOf(group.userData.part, Number(feature)), material);
      group.add(mesh);
      group.userData.lit.push(mesh);
    });
    this.place.dataset.lit = wanted.map(([value]) => value).join(" ");
    this.draw();
  }
}

// the borders of every face, and the sides that two triangles within it share: their corners and both triangles
function outlines(data) {
  const sides = new Map(), places = new Map(), same = [];
  for (let k = 0; k < data.vertices.length; k += 3) { // a seam's corners stand there twice
    const key = data.vertices.slice(k, k + 3).join();
    if (!places.has(key)) places.set(key, k / 3);
    same.push(places.get(key));
  }
  data.faces.forEach((face, k) => {
    const corners = data.triangles.slice(3 * k, 3 * k + 3).map((corner) => same[corner]);
    corners.forEach((a, turn) => {
      const b = corners[(turn + 1) % 3];
      const key = `${face} ${Math.min(a, b)} ${Math.max(a, b)}`;
      if (sides.has(key)) sides.get(key).push(k);
      else sides.set(key, [a, b, k]);
    });
  });
  const points = [];
  const all = [...sides.values()];
  all.filter((side) => side.length === 3).forEach((side) => side.slice(0, 2).forEach((corner) => {
    points.push(data.vertices[3 * corner], data.vertices[3 * corner + 1], data.vertices[3 * corner + 2]);
  }));
  const edges = new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(points, 3));
  return { edges, inner: all.filter((side) => side.length === 4) };
}

// come nearer by the wheel or by + and -, look round by the arrow keys
export function lookAround(place, view) {
  place.addEventListener("wheel", (event) => {
    event.preventDefault();
    view.nearer(Math.exp(event.deltaY / 600));
  }, { passive: false });
  place.addEventListener("keydown", (event) => {
    const by = { ArrowLeft: [-0.1, 0], ArrowRight: [0.1, 0], ArrowUp: [0, 0.1], ArrowDown: [0, -0.1] }[event.key];
    if (by) {
      event.preventDefault();
      view.orbit(view.look.turn + by[0], view.look.lift + by[1]);
    } else if (event.key === "+" || event.key === "-") view.nearer(event.key === "+" ? 0.85 : 1.18);
  });
}
