// @ts-check
// Where the scene lies on the page, and what of it is chosen or lies under a point.
import { bench } from "./state.js";
import { answerAt, curveAt, row } from "./server.js";
import { hasInside, lineWidthOf, nodesOf, pathOf } from "./display/list.js";

export const view = { zoom: 1, x: 0, y: 0, fitted: true };

export const toScreen = (matrix, x, y) => {
  const p = matrix.transformPoint({ x, y });
  return [view.x + p.x * view.zoom, view.y + p.y * view.zoom];
};
export const toScene = (event) => ({ x: (event.offsetX - view.x) / view.zoom, y: (event.offsetY - view.y) / view.zoom });

// Every shape of the frame that is shown.
export const shapes = () => {
  const answer = answerAt(bench.frame);
  return answer ? nodesOf(answer, bench.frame) : [];
};

export const chosenShapes = () => [...shapes()].filter(({ node }) => bench.layers.includes(node.id));

export function pivotOf(id) {
  return curveAt(`${id}.pivot`, Math.floor(bench.frame));
}

export const lastChosen = () => chosenShapes().find(({ node }) => node.id === bench.layers.at(-1));

export const pivotOnScreen = ({ node, matrix }) => toScreen(matrix, ...(pivotOf(node.id).length ? pivotOf(node.id) : [0, 0]));

// The topmost layer under a point: its outermost group, or, inside a chosen group, the layer itself.
const probe = document.createElement("canvas").getContext("2d");

export function under(point, deep) {
  let found = null;
  for (const { node, matrix, trail, index } of shapes()) {
    if (node.kind === "group" || row(node.channels.opacity, index)[0] <= 0) continue;
    probe.setTransform(matrix);
    const path = pathOf(node, index);
    const width = lineWidthOf(node, index), filled = hasInside(node);
    const scale = Math.sqrt(Math.abs(matrix.a * matrix.d - matrix.b * matrix.c)) || 1;
    probe.lineWidth = Math.max(width, 8 / (view.zoom * scale));
    const inside = filled && probe.isPointInPath(path, point.x, point.y);
    const near = (width > 0 || !filled) && probe.isPointInStroke(path, point.x, point.y);
    if (inside || near) {
      const entered = trail.findLastIndex((group) => bench.layers.includes(group) || bench.layers.some((l) => trail.includes(l)));
      found = deep ? node.id : [...trail, node.id][Math.max(entered, 0)];
      if (!deep && trail.some((group) => bench.layers.includes(group))) found = trail.find((group) => bench.layers.includes(group));
      if (bench.layers.includes(node.id)) found = node.id;
    }
  }
  return found;
}
