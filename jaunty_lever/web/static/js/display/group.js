// @ts-check
// A group: what is inside it, faded as one.
import { row } from "../server.js";
import { faded } from "./paint.js";

export function draw(context, node, index, alpha, drawNode, element) {
  const order = node.channels.order ? [...row(node.channels.order, index, element)].map((k) => node.nodes[k]) : node.nodes;
  const inside = (where) => { for (const inner of order) drawNode(where, inner, index, element); };
  if (alpha < 1 && node.nodes.length) faded(context, alpha, inside);
  else inside(context);
}
