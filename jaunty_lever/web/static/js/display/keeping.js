// @ts-check
// While it plays: what rests is drawn once and laid down again, what rests at the bottom as one. Only where that
// costs less, and never for a frame that stands still, which is drawn as it is.
import { extentOf } from "../lib/channels.js";
import { boxOf, grown, onSheet, reachOf } from "./bounds.js";
import { layAt, sheetAt } from "./paint.js";
import { canvasOf } from "../lib/surroundings.js";

// Things drawn from which on laying down a sheet is cheaper; and how many pixels all sheets have at the most.
const WORTH = 12,
  MOST_PIXELS = 24_000_000;

const stillness = new WeakMap(),
  weights = new WeakMap(),
  kept = new WeakMap();
let pixels = 0;

const rests = key => extentOf(key).rows <= 1;

// Whether nothing inside it changes, nor where it lies; its own opacity may.
function isStill(node) {
  let still = stillness.get(node);
  if (still === undefined) {
    still =
      node.kind !== "clip" &&
      Object.entries(node.channels).every(([name, key]) => name === "opacity" || rests(key)) &&
      [...node.nodes, ...(node.matte ? [node.matte] : [])].every(
        inner => isStill(inner) && rests(inner.channels.opacity),
      );
    stillness.set(node, still);
  }
  return still;
}

// How many things it draws; a filter or a matte takes as long as many.
function weightOf(node) {
  let weight = weights.get(node);
  if (weight === undefined) {
    const inside = node.nodes.reduce((sum, inner) => sum + weightOf(inner), 0);
    weight =
      (node.kind === "array" ? node.copies * inside : node.kind === "group" ? inside : 1) +
      (node.filters || node.matte ? WORTH : 0);
    weights.set(node, weight);
  }
  return weight;
}

const placeKey = context => {
  const { a, b, c, d, e, f } = context.getTransform(),
    { width, height } = context.canvas;
  return `${a} ${b} ${c} ${d} ${e} ${f} ${width} ${height}`;
};

// What is known of something that is to be kept where it has stood at the same place before; null the first time.
function standing(context, thing) {
  const key = placeKey(context),
    known = kept.get(thing);
  if (known?.key === key) return known;
  if (known?.sheet) pixels -= known.sheet.width * known.sheet.height;
  kept.set(thing, { key, sheet: null, box: null });
  return null;
}

// Lays down what stands still and has been drawn at this place before; whether it did. `draw` draws it on a sheet,
// opaque.
export function laidDown(context, node, index, element, alpha, draw) {
  if (node.channels.blend || node.channels.plane || weightOf(node) < WORTH || !isStill(node)) return false;
  const known = standing(context, node);
  if (!known || (!known.sheet && pixels > MOST_PIXELS)) return false;
  if (!known.sheet) {
    const place = context.getTransform(),
      reach = reachOf(node, index, element, place);
    known.box = onSheet(context, grown(boxOf(place, node, index, element), reach), reach);
    if (!known.box) return true;
    known.sheet = sheetAt(context, known.box, draw);
    pixels += known.sheet.width * known.sheet.height;
  }
  layAt(context, known.sheet, known.box, alpha, "source-over", true);
  return true;
}

// How many of the lowest nodes never change.
function groundOf(answer) {
  if (!rests(answer.background)) return 0;
  const first = answer.nodes.findIndex(node => !isStill(node) || !rests(node.channels.opacity));
  const count = first < 0 ? answer.nodes.length : first;
  return answer.nodes.slice(0, count).reduce((sum, node) => sum + weightOf(node), 0) < 3 ? 0 : count;
}

// Lays down what rests at the bottom, the background included; how many of the lowest nodes that are. `draw` draws so
// many of them.
export function groundLaid(context, answer, draw) {
  const count = groundOf(answer);
  if (!count) return 0;
  const known = standing(context, answer),
    { width, height } = context.canvas;
  if (!known || (!known.sheet && pixels > MOST_PIXELS)) return 0;
  if (!known.sheet) {
    known.sheet = canvasOf(width, height);
    pixels += width * height;
    const inner = known.sheet.getContext("2d");
    inner.setTransform(context.getTransform());
    draw(inner, count);
  }
  context.save();
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.drawImage(known.sheet, 0, 0);
  context.restore();
  return count;
}
