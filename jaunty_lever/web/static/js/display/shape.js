// @ts-check
// A shape: an outline, filled and stroked. Fill and stroke fade as one.
import { channel, isShared, row } from "../lib/channels.js";
import { boxOf, onSheet } from "./bounds.js";
import { clamp, css } from "../lib/colour.js";
import { faded } from "./paint.js";

const still = new WeakMap();

export const which = (node, index, element) =>
  node.verbs.length > 1 ? Math.round(row(node.channels.which, index, element)[0]) : 0;

// An outline of a node by the names of its channels: its own, or that of a shell.
export function path(node, index, element, name = "points", verbs = node.verbs, k = which(node, index, element)) {
  const key = node.channels[`${name}.${k}`],
    points = channel(key);
  if (!points) return new Path2D();
  if (points.rows > 1 || points.each > 1) return trace(verbs[k], row(key, index, element));
  let made = still.get(points);
  if (!made) {
    made = trace(verbs[k], points.data);
    still.set(points, made);
  }
  return made;
}

// The numbers of its outline (x, y, x, y …) in its own coordinates.
export function points(node, index, element) {
  return row(node.channels[`points.${which(node, index, element)}`], index, element);
}

export const hasInside = node => node.fill !== "none";

export const lineWidth = (node, index, element) => row(node.channels.width, index, element)[0];

function trace(verbs, p) {
  const path = new Path2D();
  let k = 0;
  for (const verb of verbs) {
    if (verb === "M") {
      path.moveTo(p[k], p[k + 1]);
      k += 2;
    } else if (verb === "L") {
      path.lineTo(p[k], p[k + 1]);
      k += 2;
    } else if (verb === "Q") {
      path.quadraticCurveTo(p[k], p[k + 1], p[k + 2], p[k + 3]);
      k += 4;
    } else if (verb === "C") {
      path.bezierCurveTo(p[k], p[k + 1], p[k + 2], p[k + 3], p[k + 4], p[k + 5]);
      k += 6;
    } else path.closePath();
  }
  return path;
}

function paintOf(context, node, index, element) {
  const at = name => row(node.channels[name], index, element);
  if (node.fill === "solid") return css(at("colour"));
  let gradient;
  if (node.fill === "linear") gradient = context.createLinearGradient(...at("start"), ...at("end"));
  else if (node.fill === "conic")
    gradient = context.createConicGradient(((at("angle")[0] - 90) * Math.PI) / 180, ...at("centre"));
  else {
    const [x, y] = at("centre");
    const [dx, dy] = node.channels.focus ? at("focus") : [0, 0];
    gradient = context.createRadialGradient(x + dx, y + dy, 0, x, y, Math.max(at("radius")[0], 1e-3));
  }
  const stops = [];
  for (let k = 0; k < node.stops; k += 1) stops.push([clamp(at(`offset.${k}`)[0]), css(at(`colour.${k}`))]);
  stops.sort((a, b) => a[0] - b[0]);
  for (const [offset, colour] of stops) gradient.addColorStop(offset, colour);
  return gradient;
}

const shared = new WeakMap();

// Whether all copies have the same outline and colours, so that these are made once for a frame.
function isSame(node) {
  let same = shared.get(node);
  if (same === undefined) {
    same = Object.entries(node.channels).every(
      ([name, key]) => name === "matrix" || name === "opacity" || isShared(key),
    );
    shared.set(node, same);
  }
  return same;
}

// What is stroked: the outline, or the part of it that is drawn.
const lineOf = (node, index, element, outline) =>
  node.line_verbs
    ? path(node, index, element, "line", node.line_verbs, Math.round(row(node.channels.line_which, index, element)[0]))
    : outline;

const CAPS = ["round", "butt", "square"],
  JOINS = ["round", "miter", "bevel"];

function styleOf(node, index, element) {
  const chosen = name =>
    node.channels[name] ? Math.min(Math.max(Math.round(row(node.channels[name], index, element)[0]), 0), 2) : 0;
  const [dash, gap, phase] = node.channels.dash ? row(node.channels.dash, index, element) : [0, 0, 0];
  const miter = node.channels.miter ? Math.max(row(node.channels.miter, index, element)[0], 1) : 10;
  return {
    cap: CAPS[chosen("cap")],
    join: JOINS[chosen("join")],
    miter,
    dashes: dash > 0 && gap > 0 ? [dash, gap] : [],
    phase,
  };
}

// What a frame's copies have in common, made for the last node that was drawn.
let last = {
  node: null,
  index: -1,
  context: null,
  outline: null,
  fill: null,
  shells: [],
  stroke: "",
  width: 0,
  line: null,
  style: null,
};

// What stands inside it, from the outermost in.
const shellsOf = (node, index, element) =>
  Array.from({ length: node.shells ?? 0 }, (_, j) => ({
    outline: path(node, index, element, `inner.${j}`, node.shell_verbs ?? node.verbs),
    colour: css(row(node.channels[`inner_colour.${j}`], index, element)),
  }));

function dressed(context, node, index, element) {
  if (last.node === node && last.index === index && last.context === context && isSame(node)) return last;
  const width = lineWidth(node, index, element);
  const outline = path(node, index, element);
  last = {
    node,
    index,
    context,
    width,
    outline,
    line: width > 0 ? lineOf(node, index, element, outline) : null,
    style: width > 0 ? styleOf(node, index, element) : null,
    fill: hasInside(node) ? paintOf(context, node, index, element) : null,
    shells: shellsOf(node, index, element),
    stroke: width > 0 ? css(row(node.channels.stroke, index, element)) : "",
  };
  return last;
}

export function draw(context, node, index, alpha, _, element = 0) {
  if (alpha < 1 && (hasInside(node) || node.shells)) {
    const width = lineWidth(node, index, element);
    if (width > 0 || node.shells)
      return faded(
        context,
        alpha,
        inner => paint(inner, node, index, element, 1),
        onSheet(context, boxOf(context.getTransform(), node, index, element)),
      );
  }
  return paint(context, node, index, element, alpha);
}

function paint(context, node, index, element, alpha) {
  const { outline, fill, shells, stroke, width, line, style } = dressed(context, node, index, element);
  context.globalAlpha = alpha;
  if (fill) {
    context.fillStyle = fill;
    context.fill(outline);
  }
  for (const shell of shells) {
    context.fillStyle = shell.colour;
    context.fill(shell.outline);
  }
  if (width > 0) {
    context.lineWidth = width;
    context.lineCap = style.cap;
    context.lineJoin = style.join;
    context.miterLimit = style.miter;
    context.setLineDash(style.dashes);
    context.lineDashOffset = style.phase;
    context.strokeStyle = context.fillStyle = stroke;
    if (node.ribbon) context.fill(line);
    else context.stroke(line);
    context.setLineDash([]);
  }
  context.globalAlpha = 1;
}
