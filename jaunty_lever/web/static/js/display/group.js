// @ts-check
// A group: what is inside it, faded as one.
import { row } from "../lib/channels.js";
import { contentsBox, onSheet } from "./bounds.js";
import { faded } from "./paint.js";

// What is inside it in the order in which it is drawn, the lowest first.
export const inOrder = (node, index, element) =>
  node.channels.order ? [...row(node.channels.order, index, element)].map(k => node.nodes[k]) : node.nodes;

export function draw(context, node, index, alpha, drawNode, element) {
  const order = inOrder(node, index, element);
  const inside = where => {
    for (const inner of order) drawNode(where, inner, index, element);
  };
  if (alpha < 1 && node.nodes.length)
    faded(context, alpha, inside, onSheet(context, contentsBox(context.getTransform(), node.nodes, index, element)));
  else inside(context);
}
