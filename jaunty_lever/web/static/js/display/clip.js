// @ts-check
// A clip about its own middle, at the frame that it shows. Frames are fetched as they are needed, those near the
// playhead first, no larger than they are shown; until one has come, the nearest that is there stands in for it.
import { extentOf, row } from "../lib/channels.js";
import { around } from "../lib/surroundings.js";
import { boxed } from "./box.js";

const AT_ONCE = 4,
  AHEAD = 48,
  MOST_BYTES = 384 * 2 ** 20,
  LEAST_SIDE = 16,
  MOST_LEVEL = 6;

export const { path, points, hasInside, lineWidth } = boxed(node => node.size);

// What has come, by clip, level and frame, the longest unused first; how many bytes that is; and what is on its way.
/** @type {Map<string, ImageBitmap>} */
const images = new Map();
const coming = new Map(),
  gone = new Set();
// What is wanted now, and soon; and what clips are drawn, to see what comes next.
let now = new Map(),
  soon = new Map(),
  nodes = new Map();
let held = 0,
  come = 0;
/** @type {any} */
let planned = 0;

const keyOf = (clip, level, frame) => `${clip} ${level} ${frame}`;

// How often its sides are halved for what is shown by a transform.
function levelOf(node, matrix) {
  const scale = Math.max(Math.hypot(matrix.a, matrix.b), Math.hypot(matrix.c, matrix.d));
  const most = Math.floor(Math.log2(Math.max(Math.min(...node.size) / LEAST_SIDE, 1)));
  return scale > 0
    ? Math.min(Math.floor(-Math.log2(Math.min(scale, 1)) + 1e-6), most, MOST_LEVEL)
    : Math.min(most, MOST_LEVEL);
}

// A frame at a level, or at any other, or the nearest one that has come; with whether it is the one that is meant.
/** @returns {[ImageBitmap | null, boolean]} */
function imageOf(clip, level, frame, frames) {
  const meant = images.get(keyOf(clip, level, frame));
  if (meant) return [meant, true];
  const any = n => {
    for (let k = 0; k <= MOST_LEVEL; k += 1) {
      const found = images.get(keyOf(clip, k, n));
      if (found) return found;
    }
    return null;
  };
  for (let away = 0; away < Math.min(frames, 120); away += 1) {
    const found = any(frame - away) ?? any(frame + away);
    if (found) return [found, false];
  }
  return [null, false];
}

// The first of them, taken out; or the first that is there to be fetched.
function next() {
  for (const wanted of [now, soon]) {
    for (const [key, one] of wanted) {
      wanted.delete(key);
      if (!images.has(key) && !coming.has(key) && !gone.has(key)) return [key, one];
    }
  }
  return null;
}

function fetchMore() {
  while (coming.size < AT_ONCE) {
    const found = next();
    if (!found) break;
    const [key, [clip, level, frame]] = found;
    coming.set(key, true);
    fetch(`/api/projects/${around.project}/clips/${clip}/frames/${frame}?level=${level}`)
      .then(response => (response.ok ? response.blob() : Promise.reject(new Error("gone"))))
      .then(blob => createImageBitmap(blob))
      .then(image => keep(key, image))
      .catch(() => gone.add(key))
      .finally(() => {
        coming.delete(key);
        come += 1;
        around.changed("clips");
        around.changed("frame");
        fetchMore();
      });
  }
}

function keep(key, image) {
  images.set(key, image);
  held += image.width * image.height * 4;
  for (const [old, other] of images) {
    if (held <= MOST_BYTES || old === key) break;
    images.delete(old);
    held -= other.width * other.height * 4;
    other.close();
  }
}

// The frames that are shown next, as the display list tells.
function look() {
  planned = 0;
  soon = new Map();
  for (const [node, [level, index]] of nodes) {
    const { rows, each } = extentOf(node.channels.frame);
    for (let ahead = 1; ahead <= AHEAD && rows > 1; ahead += 1) {
      for (let element = 0; element < each; element += 1) {
        const frame = Math.round(row(node.channels.frame, (index + ahead) % rows, element)[0]);
        if (frame >= 0) soon.set(keyOf(node.clip, level, frame), [node.clip, level, frame]);
      }
    }
  }
  nodes = new Map();
  fetchMore();
}

// How many frames of clips are shown now that have not come yet.
export const missing = () => [...now.keys()].filter(key => !images.has(key) && !gone.has(key)).length;

// Those, and what is on its way besides.
export const waiting = () => missing() + coming.size;

// A number that is another one whenever a frame has come.
export const arrivals = () => come;

// A new frame of the stage is drawn: what was wanted for the last one is not needed any more.
export function begin() {
  now = new Map();
}

export function draw(context, node, index, alpha, _, element) {
  const frame = Math.round(row(node.channels.frame, index, element)[0] ?? -1);
  if (frame < 0) return;
  const level = levelOf(node, context.getTransform()),
    [width, height] = node.size;
  const known = nodes.get(node);
  nodes.set(node, [known ? Math.min(level, known[0]) : level, index]);
  const [image, meant] = imageOf(node.clip, level, frame, node.frames);
  const key = keyOf(node.clip, level, frame);
  if (meant) {
    images.delete(key);
    images.set(key, image);
  } else now.set(key, [node.clip, level, frame]);
  if (!planned) planned = setTimeout(look, 0);
  if (!image) return;
  context.globalAlpha = alpha;
  context.imageSmoothingQuality = "high";
  context.drawImage(image, -width / 2, -height / 2, width, height);
}
