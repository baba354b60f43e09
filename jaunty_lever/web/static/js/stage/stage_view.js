// @ts-check
// Where the scene lies on the page, and what of it is chosen or lies under a point.
import { choice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { views } from "../talk/views.js";
import { row } from "../lib/channels.js";
import { answerAt, curveAt } from "../talk/server.js";
import { hasInside, holdsOthers, lineWidthOf, nodesOf, pathOf, pointsOf } from "../display/list.js";

export const view = { zoom: 1, x: 0, y: 0, fitted: true };

export const toScreen = (matrix, x, y) => {
  const p = matrix.transformPoint({ x, y });
  return [view.x + p.x * view.zoom, view.y + p.y * view.zoom];
};
export const toScene = event => ({ x: (event.offsetX - view.x) / view.zoom, y: (event.offsetY - view.y) / view.zoom });

// Every shape of the frame that is shown, each copy for itself; made once for a frame of an answer.
let made = { answer: null, frame: -1, list: [] };
export const shapes = () => {
  const answer = answerAt(clock.frame),
    frame = Math.floor(clock.frame);
  if (made.answer !== answer || made.frame !== frame)
    made = { answer, frame, list: answer ? [...nodesOf(answer, frame)] : [] };
  return made.list;
};

// Those of some layers, and of what lies in them; while it plays, of copies only those that are shown. All copies of
// all layers are found for whoever points at them: to do that at each frame took longer than to draw it.
let some = { answer: null, key: "", list: [] };
export function shapesOf(layers) {
  const answer = answerAt(clock.frame),
    frame = Math.floor(clock.frame),
    { playing } = clock;
  const key = JSON.stringify([frame, layers, playing, playing && views.copies]);
  if (some.answer !== answer || some.key !== key) {
    const found =
      answer && layers.length ? [...nodesOf(answer, frame, new Set(layers), playing ? views.copies : null)] : [];
    some = { answer, key, list: found };
  }
  return some.list;
}

export const chosenShapes = () => shapesOf(choice.layers).filter(({ node }) => choice.layers.includes(node.id));

export function pivotOf(id) {
  return curveAt(`${id}.pivot`, Math.floor(clock.frame));
}

// The last chosen layer; inside arrays, that of the copies that are shown.
export const lastChosen = () => {
  const all = chosenShapes().filter(({ node }) => node.id === choice.layers.at(-1));
  return all.find(isShown) ?? all[0];
};

export const pivotOnScreen = ({ node, matrix }) =>
  toScreen(matrix, ...(pivotOf(node.id).length ? pivotOf(node.id) : [0, 0]));

// The topmost layer under a point: its outermost group, or, inside a chosen group, the layer itself.
const probe = document.createElement("canvas").getContext("2d");

// Whether a point lies in the box of a shape's outline, or so near to it that a line may be meant.
function isNear(node, index, element, matrix, point) {
  const { a, b, c, d, e, f } = matrix,
    size = a * d - b * c;
  if (!size) return false;
  const x = (d * (point.x - e) - c * (point.y - f)) / size,
    y = (a * (point.y - f) - b * (point.x - e)) / size;
  const numbers = pointsOf(node, index, element);
  const room = lineWidthOf(node, index, element) + 8 / (view.zoom * (Math.sqrt(Math.abs(size)) || 1));
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k + 1 < numbers.length; k += 2) {
    left = Math.min(left, numbers[k]);
    right = Math.max(right, numbers[k]);
    top = Math.min(top, numbers[k + 1]);
    bottom = Math.max(bottom, numbers[k + 1]);
  }
  return x >= left - room && x <= right + room && y >= top - room && y <= bottom + room;
}

export function under(point, deep) {
  let found = null;
  for (const { node, matrix, trail, index, element, copies } of shapes()) {
    if (holdsOthers(node) || row(node.channels.opacity, index, element)[0] <= 0) continue;
    if (!isNear(node, index, element, matrix, point)) continue;
    probe.setTransform(matrix);
    const path = pathOf(node, index, element);
    const width = lineWidthOf(node, index, element),
      filled = hasInside(node);
    const scale = Math.sqrt(Math.abs(matrix.a * matrix.d - matrix.b * matrix.c)) || 1;
    probe.lineWidth = Math.max(width, 8 / (view.zoom * scale));
    const inside = filled && probe.isPointInPath(path, point.x, point.y);
    const near = (width > 0 || !filled) && probe.isPointInStroke(path, point.x, point.y);
    if (inside || near) {
      const entered = trail.findLastIndex(
        group => choice.layers.includes(group) || choice.layers.some(l => trail.includes(l)),
      );
      found = deep ? node.id : [...trail, node.id][Math.max(entered, 0)];
      if (!deep && trail.some(group => choice.layers.includes(group)))
        found = trail.find(group => choice.layers.includes(group));
      if (choice.layers.includes(node.id)) found = node.id;
      hitCopies = copies;
    }
  }
  if (!found) hitCopies = {};
  return found;
}

let hitCopies = {};

// Which copy of each array the last hit lies in, by number.
export const copiesHit = () => hitCopies;

// Whether a shape stands in the copies that are shown, of all the arrays around it.
export const isShown = ({ copies }) =>
  Object.entries(copies).every(([array, number]) => (views.copies[array] ?? 0) === number);
