// @ts-check
// Draws a frame of a display list on a canvas. It only draws: every number comes from the server.
// Each kind of node has a file; a new kind is added to KINDS.
import { row } from "../server.js";
import * as group from "./group.js";
import { clamp, css, faded } from "./paint.js";
import * as picture from "./picture.js";
import * as shape from "./shape.js";

export const KINDS = { shape, picture, group };

// The outline of a node as a path, and as its numbers (x, y, x, y …), in its own coordinates.
export const pathOf = (node, index) => KINDS[node.kind].path(node, index);
export const pointsOf = (node, index) => KINDS[node.kind].points(node, index);

// Whether a point inside its outline lies on the node, and how wide its stroke is.
export const hasInside = (node) => KINDS[node.kind].hasInside(node);
export const lineWidthOf = (node, index) => KINDS[node.kind].lineWidth(node, index);

function drawNode(context, node, index) {
  const alpha = clamp(row(node.channels.opacity, index)[0]);
  if (alpha === 0) return;
  context.save();
  context.transform(...row(node.channels.matrix, index));
  KINDS[node.kind].draw(context, node, index, alpha, drawNode);
  context.restore();
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
  for (const node of answer.nodes) drawNode(context, node, index);
  if (answer.ghost) faded(context, 0.4, (inner) => drawNode(inner, answer.ghost, index));
  context.restore();
}

// Every node with its matrix to the stage and its group trail, from the lowest up.
export function* nodesOf(answer, frame) {
  const index = Math.floor(frame) - answer.start;
  function* walk(nodes, outer, trail) {
    for (const node of nodes) {
      const matrix = outer.multiply(new DOMMatrix(Array.from(row(node.channels.matrix, index))));
      yield { node, matrix, outer, trail, index };
      yield* walk(node.nodes, matrix, [...trail, node.id]);
    }
  }
  yield* walk(answer.nodes, new DOMMatrix(), []);
}
