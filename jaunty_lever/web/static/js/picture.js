// Draws a frame of a table on a canvas. It only draws: every number comes from the server.
import { channel, row } from "./server.js";
import { bench, emit } from "./state.js";

const css = (c, alpha = 1) =>
  `rgb(${Math.round(clamp(c[0]) * 255)} ${Math.round(clamp(c[1]) * 255)} ${Math.round(clamp(c[2]) * 255)} / ${clamp(c[3]) * alpha})`;
const clamp = (v) => Math.min(Math.max(v, 0), 1);

const still = new WeakMap();

export function pathOf(layer, index) {
  if (layer.picture) {
    const frame = new Path2D();
    frame.rect(-layer.size[0] / 2, -layer.size[1] / 2, ...layer.size);
    return frame;
  }
  const which = layer.variants.length > 1 ? Math.round(row(layer.which, index)[0]) : 0;
  const [verbs, key] = layer.variants[which] ?? ["", null];
  const points = channel(key);
  if (!points) return new Path2D();
  if (points.rows > 1) return trace(verbs, row(key, index));
  let path = still.get(points);
  if (!path) {
    path = trace(verbs, points.data);
    still.set(points, path);
  }
  return path;
}

// The numbers of a layer's outline (x, y, x, y …) in its own coordinates; of a picture, its corners.
export function pointsOf(layer, index) {
  if (layer.picture) {
    const [x, y] = [layer.size[0] / 2, layer.size[1] / 2];
    return [-x, -y, x, -y, x, y, -x, y];
  }
  const which = layer.variants.length > 1 ? Math.round(row(layer.which, index)[0]) : 0;
  return row(layer.variants[which]?.[1], index);
}

function boxOf(layer, index) {
  const points = pointsOf(layer, index);
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k + 1 < points.length; k += 2) {
    left = Math.min(left, points[k]);
    right = Math.max(right, points[k]);
    top = Math.min(top, points[k + 1]);
    bottom = Math.max(bottom, points[k + 1]);
  }
  return [left, top, right, bottom];
}

function trace(verbs, p) {
  const path = new Path2D();
  let k = 0;
  for (const verb of verbs) {
    if (verb === "M") { path.moveTo(p[k], p[k + 1]); k += 2; }
    else if (verb === "L") { path.lineTo(p[k], p[k + 1]); k += 2; }
    else if (verb === "Q") { path.quadraticCurveTo(p[k], p[k + 1], p[k + 2], p[k + 3]); k += 4; }
    else if (verb === "C") { path.bezierCurveTo(p[k], p[k + 1], p[k + 2], p[k + 3], p[k + 4], p[k + 5]); k += 6; }
    else path.closePath();
  }
  return path;
}

function paintOf(context, layer, index) {
  if (layer.fill === "solid") return css(row(layer.paint[0], index));
  const [one, two] = [row(layer.paint[0], index), row(layer.paint[1], index)];
  const gradient = layer.fill === "linear"
    ? context.createLinearGradient(one[0], one[1], two[0], two[1])
    : context.createRadialGradient(one[0], one[1], 0, one[0], one[1], Math.max(two[0], 1e-3));
  const stops = [];
  for (let k = 2; k < layer.paint.length; k += 2) stops.push([clamp(row(layer.paint[k], index)[0]), css(row(layer.paint[k + 1], index))]);
  stops.sort((a, b) => a[0] - b[0]);
  for (const [place, colour] of stops) gradient.addColorStop(place, colour);
  return gradient;
}

// Sheets by size. A small one for a small shape: the browser copies a whole sheet when it is drawn on again.
const spare = new Map();

// The pixels that a shape can touch, from the points of its outline; none when it lies beside the canvas.
function boundsOf(context, layer, index, width) {
  const [left, top, right, bottom] = boxOf(layer, index);
  const { a, b, c, d, e, f } = context.getTransform();
  const reach = [Math.abs(a) + Math.abs(c), Math.abs(b) + Math.abs(d)].map((scale) => scale * width + 2);
  const xs = [a * left + c * top, a * left + c * bottom, a * right + c * top, a * right + c * bottom].map((x) => x + e);
  const ys = [b * left + d * top, b * left + d * bottom, b * right + d * top, b * right + d * bottom].map((y) => y + f);
  const [x0, y0] = [Math.max(0, Math.floor(Math.min(...xs) - reach[0])), Math.max(0, Math.floor(Math.min(...ys) - reach[1]))];
  const x1 = Math.min(context.canvas.width, Math.ceil(Math.max(...xs) + reach[0]));
  const y1 = Math.min(context.canvas.height, Math.ceil(Math.max(...ys) + reach[1]));
  return x1 > x0 && y1 > y0 ? [x0, y0, x1 - x0, y1 - y0] : null;
}

// Draw something on a sheet of its own and lay it down faded, so that overlapping parts fade as one.
function faded(context, alpha, draw, box = [0, 0, context.canvas.width, context.canvas.height]) {
  if (!box) return;
  const [x, y, wide, high] = box;
  const [width, height] = [wide, high].map((side) => Math.ceil(side / 128) * 128);
  const size = `${width} ${height}`;
  if (!spare.has(size)) spare.set(size, []);
  const sheet = spare.get(size).pop() ?? Object.assign(document.createElement("canvas"), { width, height });
  const inner = sheet.getContext("2d");
  inner.setTransform(1, 0, 0, 1, 0, 0);
  inner.clearRect(0, 0, width, height);
  inner.setTransform(new DOMMatrix().translate(-x, -y).multiply(context.getTransform()));
  draw(inner);
  context.save();
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.globalAlpha = alpha;
  context.drawImage(sheet, 0, 0, wide, high, x, y, wide, high);
  context.restore();
  spare.get(size).push(sheet);
  if (spare.size > 60) spare.clear();
}

// Pictures are fetched when they are first drawn; the stage is drawn again when they have come.
const images = new Map();

function imageOf(id) {
  if (!images.has(id)) {
    images.set(id, null);
    fetch(`/api/projects/${bench.project}/pictures/${id}`)
      .then((response) => response.ok ? response.blob() : Promise.reject(new Error("gone")))
      .then((blob) => createImageBitmap(blob))
      .then((image) => { images.set(id, image); emit("frame"); })
      .catch(() => images.delete(id));
  }
  return images.get(id);
}

const tiles = new WeakMap();

// The picture with its mirror images to the right, below and across, as a tile that fits on itself.
function mirrored(image) {
  if (!tiles.has(image)) {
    const share = Math.min(1, 2048 / Math.max(image.width, image.height));
    const [width, height] = [image.width, image.height].map((side) => Math.max(1, Math.round(side * share)));
    const tile = new OffscreenCanvas(width * 2, height * 2);
    const inner = tile.getContext("2d");
    for (const [x, y] of [[1, 1], [-1, 1], [1, -1], [-1, -1]]) {
      inner.setTransform(x, 0, 0, y, x < 0 ? width * 2 : 0, y < 0 ? height * 2 : 0);
      inner.drawImage(image, 0, 0, width, height);
    }
    tiles.set(image, tile);
  }
  return tiles.get(image);
}

function drawPicture(context, layer, index, alpha) {
  const image = imageOf(layer.picture);
  if (!image) return;
  const [width, height] = layer.size;
  context.globalAlpha = alpha;
  context.imageSmoothingQuality = "high";
  context.translate(-width / 2, -height / 2);
  const beyond = Math.round(row(layer.beyond, index)[0] ?? 0);
  if (beyond === 0) { context.drawImage(image, 0, 0, width, height); return; }
  const tile = beyond === 1 ? image : mirrored(image);
  const pattern = context.createPattern(tile, "repeat");
  const times = beyond === 1 ? 1 : 2;
  pattern.setTransform(new DOMMatrix([(width * times) / tile.width, 0, 0, (height * times) / tile.height, 0, 0]));
  // The whole canvas, in the picture's own coordinates.
  const back = context.getTransform().inverse();
  const far = [[0, 0], [context.canvas.width, 0], [0, context.canvas.height], [context.canvas.width, context.canvas.height]]
    .map(([x, y]) => back.transformPoint({ x, y }));
  const [xs, ys] = [far.map((p) => p.x), far.map((p) => p.y)];
  context.fillStyle = pattern;
  context.fillRect(Math.min(...xs), Math.min(...ys), Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys));
}

function drawLayer(context, layer, index) {
  const alpha = clamp(row(layer.opacity, index)[0]);
  if (alpha === 0) return;
  context.save();
  context.transform(...row(layer.matrix, index));
  if (layer.layers) {
    const inside = (where) => { for (const child of layer.layers) drawLayer(where, child, index); };
    if (alpha < 1 && layer.layers.length) faded(context, alpha, inside);
    else inside(context);
  } else if (layer.picture) drawPicture(context, layer, index, alpha);
  else {
    const width = row(layer.width, index)[0];
    const filled = layer.fill !== "none", stroked = width > 0;
    if (filled && stroked && alpha < 1) faded(context, alpha, (inner) => shape(inner, layer, index, 1, width), boundsOf(context, layer, index, width));
    else shape(context, layer, index, alpha, width);
  }
  context.restore();
}

function shape(context, layer, index, alpha, width) {
  const path = pathOf(layer, index);
  context.globalAlpha = alpha;
  if (layer.fill !== "none") {
    context.fillStyle = paintOf(context, layer, index);
    context.fill(path);
  }
  if (width > 0) {
    context.lineWidth = width;
    context.lineCap = context.lineJoin = "round";
    context.strokeStyle = css(row(layer.stroke, index));
    context.stroke(path);
  }
  context.globalAlpha = 1;
}

// The scene's frame in scene coordinates; the context's transform says where it lies.
export function drawScene(context, answer, frame) {
  const index = Math.floor(frame) - answer.start;
  context.fillStyle = css(row(answer.background, index));
  context.fillRect(0, 0, answer.width, answer.height);
  context.save();
  context.beginPath();
  context.rect(0, 0, answer.width, answer.height);
  context.clip();
  for (const layer of answer.layers) drawLayer(context, layer, index);
  if (answer.ghost) faded(context, 0.4, (inner) => drawLayer(inner, answer.ghost, index));
  context.restore();
}

// Every shape with its matrix to the stage and its group trail, from the lowest up.
export function* shapesOf(answer, frame) {
  const index = Math.floor(frame) - answer.start;
  function* walk(layers, outer, trail) {
    for (const layer of layers) {
      const matrix = outer.multiply(new DOMMatrix(Array.from(row(layer.matrix, index))));
      yield { layer, matrix, outer, trail, index };
      if (layer.layers) yield* walk(layer.layers, matrix, [...trail, layer.id]);
    }
  }
  yield* walk(answer.layers, new DOMMatrix(), []);
}

export { css };
