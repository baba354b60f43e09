// @ts-check
// A picture about its own middle, and what lies beyond its edge.
import { row } from "../lib/channels.js";
import { around } from "../lib/surroundings.js";
import { boxed } from "./box.js";

export const { path, points, hasInside, lineWidth } = boxed(node => node.size);

// Pictures are fetched when they are first drawn; the stage is drawn again when they have come.
const images = new Map();

function imageOf(id) {
  if (!images.has(id)) {
    images.set(id, null);
    fetch(`/api/projects/${around.project}/pictures/${id}`)
      .then(response => (response.ok ? response.blob() : Promise.reject(new Error("gone"))))
      .then(blob => createImageBitmap(blob))
      .then(image => {
        images.set(id, image);
        around.changed("frame");
      })
      .catch(() => images.delete(id));
  }
  return images.get(id);
}

// Whether a picture is still on its way.
export const waiting = () => [...images.values()].includes(null);

const tiles = new WeakMap();

// The picture with its mirror images to the right, below and across, as a tile that fits on itself.
function mirrored(image) {
  if (!tiles.has(image)) {
    const share = Math.min(1, 2048 / Math.max(image.width, image.height));
    const [width, height] = [image.width, image.height].map(side => Math.max(1, Math.round(side * share)));
    const tile = new OffscreenCanvas(width * 2, height * 2);
    const inner = tile.getContext("2d");
    for (const [x, y] of [
      [1, 1],
      [-1, 1],
      [1, -1],
      [-1, -1],
    ]) {
      inner.setTransform(x, 0, 0, y, x < 0 ? width * 2 : 0, y < 0 ? height * 2 : 0);
      inner.drawImage(image, 0, 0, width, height);
    }
    tiles.set(image, tile);
  }
  return tiles.get(image);
}

export function draw(context, node, index, alpha, _, element) {
  const image = imageOf(node.picture);
  if (!image) return;
  const [width, height] = node.size;
  context.globalAlpha = alpha;
  context.imageSmoothingQuality = "high";
  context.translate(-width / 2, -height / 2);
  const beyond = Math.round(row(node.channels.beyond, index, element)[0] ?? 0);
  if (beyond === 0) {
    context.drawImage(image, 0, 0, width, height);
    return;
  }
  const tile = beyond === 1 ? image : mirrored(image);
  const pattern = context.createPattern(tile, "repeat");
  const times = beyond === 1 ? 1 : 2;
  pattern.setTransform(new DOMMatrix([(width * times) / tile.width, 0, 0, (height * times) / tile.height, 0, 0]));
  // The whole canvas, in the picture's own coordinates.
  const back = context.getTransform().inverse();
  const far = [
    [0, 0],
    [context.canvas.width, 0],
    [0, context.canvas.height],
    [context.canvas.width, context.canvas.height],
  ].map(([x, y]) => back.transformPoint({ x, y }));
  const [xs, ys] = [far.map(p => p.x), far.map(p => p.y)];
  context.fillStyle = pattern;
  context.fillRect(
    Math.min(...xs),
    Math.min(...ys),
    Math.max(...xs) - Math.min(...xs),
    Math.max(...ys) - Math.min(...ys),
  );
}
