// A picture of lines without WebGL: what a nearer face covers is left out. Depths are kept pixel by pixel.

// The picture's size in pixels, and how the world comes into it: rows give x, y (pixels) and depth (mm, nearer is less).
export function drawHiddenLines(canvas, groups, look, isCut) {
  const pen = canvas.getContext("2d");
  const { width, height } = canvas;
  pen.fillStyle = "#fbf9f3";
  pen.fillRect(0, 0, width, height);
  const depths = new Float32Array(width * height).fill(Infinity);
  const drawn = groups.map((group) => {
    const { mesh, edges, lit } = group.userData;
    const seen = (attribute) => flat(attribute, group.matrixWorld.elements, look, isCut);
    const corners = seen(mesh.geometry.attributes.position);
    const index = mesh.geometry.index.array;
    fill(depths, width, height, corners, index);
    lit.forEach((patch) => paint(pen, corners, patch.geometry.index.array, `#${patch.material.color.getHexString()}`));
    const borders = seen(edges.geometry.attributes.position);
    return { ends: [...borders, ...rims(corners, index, group.userData.inner)], colour: `#${edges.material.color.getHexString()}` };
  });
  drawn.forEach(({ ends, colour }) => {
    pen.strokeStyle = colour;
    pen.beginPath();
    for (let k = 0; k < ends.length; k += 6) trace(pen, depths, width, height, ends, k, look.slack);
    pen.stroke();
  });
}

// x, y and depth of each corner; cut ones are not a number
function flat(attribute, matrix, look, isCut) {
  const seen = new Float32Array(3 * attribute.count);
  for (let k = 0; k < attribute.count; k += 1) {
    const [x, y, z] = [attribute.getX(k), attribute.getY(k), attribute.getZ(k)];
    const at = [0, 1, 2].map((row) => matrix[row] * x + matrix[row + 4] * y + matrix[row + 8] * z + matrix[row + 12]);
    const cut = isCut(at);
    for (let row = 0; row < 3; row += 1) {
      const [a, b, c, d] = look.rows[row];
      seen[3 * k + row] = cut ? NaN : a * at[0] + b * at[1] + c * at[2] + d;
    }
  }
  return seen;
}

function fill(depths, width, height, corners, index) {
  for (let k = 0; k < index.length; k += 3) {
    const [a, b, c] = [3 * index[k], 3 * index[k + 1], 3 * index[k + 2]];
    const [ax, ay, bx, by, cx, cy] = [corners[a], corners[a + 1], corners[b], corners[b + 1], corners[c], corners[c + 1]];
    const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
    if (!(Math.abs(area) > 1e-9)) continue;
    const [left, right] = [Math.max(0, Math.ceil(Math.min(ax, bx, cx))), Math.min(width - 1, Math.floor(Math.max(ax, bx, cx)))];
    const [top, bottom] = [Math.max(0, Math.ceil(Math.min(ay, by, cy))), Math.min(height - 1, Math.floor(Math.max(ay, by, cy)))];
    for (let y = top; y <= bottom; y += 1) {
      for (let x = left; x <= right; x += 1) {
        const s = ((x - ax) * (cy - ay) - (y - ay) * (cx - ax)) / area;
        const t = ((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / area;
        if (s < 0 || t < 0 || s + t > 1) continue;
        const depth = corners[a + 2] + s * (corners[b + 2] - corners[a + 2]) + t * (corners[c + 2] - corners[a + 2]);
        const at = y * width + x;
        if (depth < depths[at]) depths[at] = depth;
      }
    }
  }
}

// where a triangle looks to the eye: above 0 towards it, below away
function facing(corners, index, k) {
  const [a, b, c] = [3 * index[3 * k], 3 * index[3 * k + 1], 3 * index[3 * k + 2]];
  // y runs down the picture
  return (corners[b + 1] - corners[a + 1]) * (corners[c] - corners[a]) - (corners[b] - corners[a]) * (corners[c + 1] - corners[a + 1]);
}

// the rims of what is round: sides between a triangle that looks to the eye and one that looks away
function rims(corners, index, inner) {
  const pieces = [];
  inner.forEach(([a, b, one, other]) => {
    if ((facing(corners, index, one) > 0) === (facing(corners, index, other) > 0)) return;
    for (const corner of [a, b]) pieces.push(corners[3 * corner], corners[3 * corner + 1], corners[3 * corner + 2]);
  });
  return pieces;
}

function paint(pen, corners, index, colour) {
  pen.fillStyle = colour;
  pen.globalAlpha = 0.5;
  pen.beginPath();
  for (let k = 0; k < index.length; k += 3) {
    if (!(facing(corners, index, k / 3) > 0)) continue;
    [0, 1, 2].forEach((turn) => pen[turn ? "lineTo" : "moveTo"](corners[3 * index[k + turn]], corners[3 * index[k + turn] + 1]));
    pen.closePath();
  }
  pen.fill();
  pen.globalAlpha = 1;
}

// draw the pieces of one edge that nothing covers
function trace(pen, depths, width, height, ends, k, slack) {
  const length = Math.hypot(ends[k + 3] - ends[k], ends[k + 4] - ends[k + 1]);
  if (!(length >= 0)) return;
  const count = Math.max(1, Math.ceil(length / 2));
  let wasSeen = false;
  for (let step = 0; step <= count; step += 1) {
    const share = step / count;
    const [x, y, depth] = [0, 1, 2].map((row) => ends[k + row] + share * (ends[k + 3 + row] - ends[k + row]));
    const isSeen = depth <= farthest(depths, width, height, Math.round(x), Math.round(y)) + slack;
    if (isSeen) pen[wasSeen ? "lineTo" : "moveTo"](x, y);
    wasSeen = isSeen;
  }
}

// an edge lies on the rim of its own faces: one of the pixels round it shows the face, or what lies behind
function farthest(depths, width, height, x, y) {
  let nearest = -Infinity;
  for (const [dx, dy] of [[0, 0], [1, 0], [-1, 0], [0, 1], [0, -1]]) {
    const [column, row] = [x + dx, y + dy];
    if (column < 0 || row < 0 || column >= width || row >= height) return Infinity;
    nearest = Math.max(nearest, depths[row * width + column]);
  }
  return nearest;
}
