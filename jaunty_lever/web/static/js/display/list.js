// @ts-check
// Draws a frame of a display list on a canvas. It only draws: every number comes from the server.
// Each kind of node has a file; a new kind is put into KINDS here.
import { row } from "../lib/channels.js";
import * as array from "./array.js";
import * as clip from "./clip.js";
import * as group from "./group.js";
import { isComposited, layDown } from "./compositing.js";
import { copiesOf } from "./in_array.js";
import { groundLaid, laidDown } from "./keeping.js";
import { clamp, css } from "../lib/colour.js";
import { faded, offsetOf } from "./paint.js";
import { KINDS } from "./kinds.js";
import * as picture from "./picture.js";
import { cornersOf, inPlane, outlineOf } from "./plane.js";
import * as shape from "./shape.js";
import * as texture from "./texture.js";
import * as trace from "./trace.js";

Object.assign(KINDS, { shape, picture, clip, texture, trace, group, array });
export { KINDS };

// Whether a node is nothing by itself but holds others.
export const holdsOthers = node => node.kind === "group" || node.kind === "array";

// The outline of a node as a path, and as its numbers (x, y, x, y …), in its own coordinates.
export const pathOf = (node, index, element) =>
  node.channels.plane
    ? outlineOf(node, index, element, flatPoints(node, index, element))
    : KINDS[node.kind].path(node, index, element);
export const pointsOf = (node, index, element) =>
  node.channels.plane
    ? cornersOf(node, index, element, flatPoints(node, index, element))
    : flatPoints(node, index, element);
const flatPoints = (node, index, element) => KINDS[node.kind].points(node, index, element);

// Whether a point inside its outline lies on the node, and how wide its stroke is.
export const hasInside = node => KINDS[node.kind].hasInside(node);
export const lineWidthOf = (node, index, element) => KINDS[node.kind].lineWidth(node, index, element);

// What draws nodes. `levels`: the matrix of the stage, and of the copies of arrays around what is drawn, from the
// outermost in, and which copy each is. `keeping`: what rests is drawn once for many frames.
function drawer(levels, keeping) {
  function drawNode(context, node, index, element = 0, share = 1) {
    const alpha = clamp(row(node.channels.opacity, index, element)[0]) * share;
    if (alpha === 0) return;
    context.save();
    context.transform(...row(node.channels.matrix, index, element));
    if (keeping && laidDown(context, node, index, element, alpha, sheet => painted(sheet, node, index, element, 1)))
      return context.restore();
    painted(context, node, index, element, alpha);
    context.restore();
  }
  function painted(context, node, index, element, alpha) {
    const flat = (where, opaque) => KINDS[node.kind].draw(where, node, index, opaque, drawNode, element);
    const draw = node.channels.plane
      ? (where, opaque) =>
          inPlane(where, node, index, element, opaque, flatPoints(node, index, element), sheet => flat(sheet, 1))
      : flat;
    if (isComposited(node)) layDown(context, node, index, element, alpha, drawNode, inner => draw(inner, 1));
    else draw(context, alpha);
  }
  drawNode.levels = levels;
  // A node alone, where the context's transform already is what its matrix and all around it make.
  drawNode.bare = (context, node, index, alpha, element) =>
    KINDS[node.kind].draw(context, node, index, alpha, drawNode, element);
  // What draws in a copy, where the context stands; and what draws on the stage, or in the copy of so many arrays.
  drawNode.inCopy = (context, element) => {
    const [x, y] = offsetOf(context);
    return drawer(
      [...levels, { matrix: new DOMMatrix().translate(x, y).multiply(context.getTransform()), element }],
      false,
    );
  };
  drawNode.at = depth => drawer(levels.slice(0, depth + 1), false);
  return drawNode;
}

// The scene's frame in scene coordinates; the context's transform says where it lies. `keeping`: one of many that
// follow.
export function drawScene(context, answer, frame, keeping = false) {
  const index = Math.floor(frame) - answer.start;
  clip.begin();
  const drawn = keeping
    ? groundLaid(context, answer, (sheet, count) => drawPart(sheet, answer, index, 0, count, false))
    : 0;
  drawPart(context, answer, index, drawn, answer.nodes.length, keeping);
}

// Some of a scene's nodes, from the lowest on with the background below them.
function drawPart(context, answer, index, first, end, keeping) {
  if (!first) {
    context.fillStyle = css(row(answer.background, index));
    context.fillRect(0, 0, answer.width, answer.height);
  }
  context.save();
  context.beginPath();
  context.rect(0, 0, answer.width, answer.height);
  context.clip();
  const drawNode = drawer([{ matrix: context.getTransform(), element: 0 }], keeping);
  for (const node of answer.nodes.slice(first, end)) drawNode(context, node, index);
  if (answer.ghost && end === answer.nodes.length) faded(context, 0.4, inner => drawNode(inner, answer.ghost, index));
  context.restore();
}

// Which of some layers a node is or holds, for each answer's nodes: 0 none of them, 1 one inside it, 2 it is one.
function holding(nodes, wanted) {
  const found = new Map();
  const look = node => {
    const inside = node.nodes?.reduce((some, inner) => look(inner) > 0 || some, false);
    const told = wanted.has(node.id) ? 2 : inside ? 1 : 0;
    found.set(node, told);
    return told;
  };
  nodes.forEach(look);
  return found;
}

// Every node with its matrix to the stage and its group trail, from the lowest up; what is inside an array once for
// each copy, whose number (`element`) and arrays (`copies`: number by array) are told. `within`: only these layers,
// with what they lie in and what lies in them. `shown`: of each array that one copy, by array; 0 of those that are
// not told.
export function* nodesOf(answer, frame, within = null, shown = null) {
  const index = Math.floor(frame) - answer.start;
  const holds = within && holding(answer.nodes, within);
  function* walk(nodes, outer, trail, element, copies, all) {
    for (const node of nodes) {
      if (!all && !holds.get(node)) continue;
      const matrix = outer.multiply(new DOMMatrix(Array.from(row(node.channels.matrix, index, element))));
      yield { node, matrix, outer, trail, index, element, copies };
      const inside = [...trail, node.id],
        whole = all || holds.get(node) === 2;
      if (node.kind !== "array")
        yield* walk(group.inOrder(node, index, element), matrix, inside, element, copies, whole);
      else
        for (const [copy, number, place] of copiesOf(node, index, element, shown && (shown[node.id] ?? 0)))
          yield* walk(node.nodes, matrix.multiply(place), inside, copy, { ...copies, [node.id]: number }, whole);
    }
  }
  yield* walk(answer.nodes, new DOMMatrix(), [], 0, {}, !holds);
}
