// @ts-check
// An array: its pattern once for each copy, each faded as a whole.
import { stretch } from "../lib/channels.js";
import { boxOf, contentsBox, onSheet } from "./bounds.js";
import { isComposited } from "./compositing.js";
import { countOf, inOrder } from "./in_array.js";
import { clamp } from "../lib/colour.js";
import { faded } from "./paint.js";

export function draw(context, node, index, alpha, drawNode, element) {
  if (alpha < 1)
    faded(
      context,
      alpha,
      inner => drawCopies(inner, node, index, drawNode, element),
      onSheet(context, boxOf(context.getTransform(), node, index, element)),
    );
  else drawCopies(context, node, index, drawNode, element);
}

const known = new WeakMap();

// Whether anything inside has a matte, which may lie in the same copy.
function marks(node) {
  if (!known.has(node))
    known.set(
      node,
      node.nodes.some(inner => inner.matte || marks(inner)),
    );
  return known.get(node);
}

function drawCopies(context, node, index, drawNode, element) {
  const { a, b, c, d, e, f } = context.getTransform();
  const first = element * node.copies,
    last = first + countOf(node, index, element);
  const { turned, moved, faded: fades } = node.channels;
  const [turn, move, fade] = [turned, moved, fades].map(key => stretch(key, index));
  // What fades as a whole and is one thing fades by itself, and lies where its copy and it together say.
  const alone = node.nodes.length === 1 && !isComposited(node.nodes[0]),
    marked = marks(node);
  if (alone && !marked && !node.nodes[0].channels.plane)
    return drawAlone(
      context,
      node.nodes[0],
      index,
      drawNode,
      { a, b, c, d, e, f },
      { node, first, last, turn, move, fade },
    );
  for (let n = first; n < last; n += 1) {
    const k = inOrder(node, index, first, n);
    const opaque = clamp(fade.data[fade.start + k * fade.step]);
    if (opaque === 0) continue;
    const t = turn.start + k * turn.step,
      m = move.start + k * move.step;
    const p = turn.data[t],
      q = turn.data[t + 1],
      r = turn.data[t + 2],
      s = turn.data[t + 3],
      x = move.data[m],
      y = move.data[m + 1];
    context.setTransform(
      a * p + c * q,
      b * p + d * q,
      a * r + c * s,
      b * r + d * s,
      a * x + c * y + e,
      b * x + d * y + f,
    );
    const draw = marked ? drawNode.inCopy(context, k) : drawNode;
    if (opaque < 1)
      faded(
        context,
        opaque,
        inner => {
          for (const one of node.nodes) draw(inner, one, index, k);
        },
        onSheet(context, contentsBox(context.getTransform(), node.nodes, index, k)),
      );
    else for (const one of node.nodes) draw(context, one, index, k);
  }
  context.setTransform(a, b, c, d, e, f);
}

function drawAlone(context, inner, index, drawNode, { a, b, c, d, e, f }, { node, first, last, turn, move, fade }) {
  const place = stretch(inner.channels.matrix, index),
    own = stretch(inner.channels.opacity, index);
  const [T, M, P] = [turn.data, move.data, place.data];
  context.save();
  for (let spot = first; spot < last; spot += 1) {
    const k = inOrder(node, index, first, spot);
    const alpha = clamp(fade.data[fade.start + k * fade.step]) * clamp(own.data[own.start + k * own.step]);
    if (alpha === 0) continue;
    const t = turn.start + k * turn.step,
      m = move.start + k * move.step,
      n = place.start + k * place.step;
    const p = a * T[t] + c * T[t + 1],
      q = b * T[t] + d * T[t + 1],
      r = a * T[t + 2] + c * T[t + 3],
      s = b * T[t + 2] + d * T[t + 3];
    const x = a * M[m] + c * M[m + 1] + e,
      y = b * M[m] + d * M[m + 1] + f;
    context.setTransform(
      p * P[n] + r * P[n + 1],
      q * P[n] + s * P[n + 1],
      p * P[n + 2] + r * P[n + 3],
      q * P[n + 2] + s * P[n + 3],
      p * P[n + 4] + r * P[n + 5] + x,
      q * P[n + 4] + s * P[n + 5] + y,
    );
    drawNode.bare(context, inner, index, alpha, k);
  }
  context.restore();
  context.setTransform(a, b, c, d, e, f);
}
