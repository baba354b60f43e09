// @ts-check
// A group: what is inside it, faded as one.
import { faded } from "./paint.js";

export function draw(context, node, index, alpha, drawNode, element) {
  const inside = (where) => { for (const inner of node.nodes) drawNode(where, inner, index, element); };
  if (alpha < 1 && node.nodes.length) faded(context, alpha, inside);
  else inside(context);
}
