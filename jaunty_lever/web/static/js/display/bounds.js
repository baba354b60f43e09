// @ts-check
// Which pixels of a sheet things may touch: what is drawn by way of a sheet of its own needs one no larger than that.
// Boxes are [left, top, right, bottom]; null is nothing at all.
import { row } from "../lib/channels.js";
import { copiesOf } from "./in_array.js";
import { KINDS } from "./kinds.js";

const EVERYWHERE = [-Infinity, -Infinity, Infinity, Infinity];
// Of more copies than this it costs more to look at each than to take a sheet that covers all.
const MOST_COPIES = 200;

export const grown = (box, by) => box && [box[0] - by, box[1] - by, box[2] + by, box[3] + by];
const joined = (one, other) =>
  !one
    ? other
    : !other
      ? one
      : [
          Math.min(one[0], other[0]),
          Math.min(one[1], other[1]),
          Math.max(one[2], other[2]),
          Math.max(one[3], other[3]),
        ];

// The box of points (x, y, x, y …) where a matrix leads them.
function around({ a, b, c, d, e, f }, points) {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k + 1 < points.length; k += 2) {
    const x = a * points[k] + c * points[k + 1] + e,
      y = b * points[k] + d * points[k + 1] + f;
    if (x < left) left = x;
    if (x > right) right = x;
    if (y < top) top = y;
    if (y > bottom) bottom = y;
  }
  return left <= right && top <= bottom ? [left, top, right, bottom] : null;
}

// How many pixels further than what is there its filters reach.
export function reachOf(node, index, element, { a, b, c, d }) {
  const size = Math.sqrt(Math.abs(a * d - b * c));
  return (node.filters ?? []).reduce((sum, kind, k) => {
    const told = row(node.channels[`filter.${k}`], index, element);
    if (kind === "blur") return sum + 3 * told[0] * size;
    if (kind === "matrix") return sum;
    return (
      sum + Math.max(Math.abs(a * told[0] + c * told[1]), Math.abs(b * told[0] + d * told[1])) + 3 * told[2] * size
    );
  }, 0);
}

// How far a stroke reaches beyond its line, in widths: half of one, more in its corners.
const strokeReach = (node, index, element) => {
  if (!node.channels.join || Math.round(row(node.channels.join, index, element)[0]) !== 1) return 0.75;
  return node.channels.miter ? Math.max(row(node.channels.miter, index, element)[0] / 2, 0.75) : 5;
};

function shapeBox(place, node, index, element) {
  const names = Object.keys(node.channels).filter(name => /^(points|line|inner\.\d+)\.\d+$/.test(name));
  const box = names.reduce(
    (whole, name) => joined(whole, around(place, row(node.channels[name], index, element))),
    null,
  );
  return grown(box, row(node.channels.width, index, element)[0] * strokeReach(node, index, element) * scaleOf(place));
}

const scaleOf = ({ a, b, c, d }) => Math.max(Math.hypot(a, b), Math.hypot(c, d));

// The box of what is inside a group, or in all copies of an array.
function insideBox(place, node, index, element) {
  if (node.kind === "group") return contentsBox(place, node.nodes, index, element);
  let whole = null,
    many = 0;
  for (const [copy, , own] of copiesOf(node, index, element)) {
    many += 1;
    if (many > MOST_COPIES) return EVERYWHERE;
    whole = joined(whole, contentsBox(place.multiply(own), node.nodes, index, copy));
  }
  return whole;
}

// The box of some nodes where a matrix leads them, each by its own matrix first.
export const contentsBox = (place, nodes, index, element) =>
  nodes.reduce((whole, inner) => joined(whole, placedBox(place, inner, index, element)), null);

function placedBox(outer, node, index, element) {
  const place = outer.multiply(new DOMMatrix([...row(node.channels.matrix, index, element)]));
  return grown(boxOf(place, node, index, element), reachOf(node, index, element, place));
}

// The box of a node where its own coordinates are led by `place`, without its filters.
export function boxOf(place, node, index, element) {
  if (node.channels.plane) return EVERYWHERE;
  if (node.kind === "group" || node.kind === "array") return insideBox(place, node, index, element);
  if (node.kind === "shape") return shapeBox(place, node, index, element);
  // What lies beyond a picture's edge may be anywhere.
  if (node.channels.beyond && Math.round(row(node.channels.beyond, index, element)[0] ?? 0) !== 0) return EVERYWHERE;
  const kind = KINDS[node.kind];
  // What is seen of a trace may begin, end, or lie between two of its vertices.
  const points = node.kind === "trace" ? row(node.channels.points, index, element) : kind.points(node, index, element);
  return grown(around(place, points), (kind.lineWidth(node, index, element) + 1) * scaleOf(place));
}

// A box as whole pixels of a context's sheet and so many beyond its edges, as [x, y, wide, high]; null when it lies
// beside it.
/** @returns {[number, number, number, number] | null} */
export function onSheet(context, box, beyond = 0) {
  if (!box) return null;
  const { width, height } = context.canvas,
    [left, top, right, bottom] = grown(box, 2);
  const x = Math.max(Math.floor(left), -Math.ceil(beyond)),
    y = Math.max(Math.floor(top), -Math.ceil(beyond));
  const wide = Math.min(Math.ceil(right), width + Math.ceil(beyond)) - x,
    high = Math.min(Math.ceil(bottom), height + Math.ceil(beyond)) - y;
  return wide > 0 && high > 0 ? [x, y, wide, high] : null;
}
