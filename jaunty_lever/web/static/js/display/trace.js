// @ts-check
// A trace: the part of its lines that is seen, thinner and clearer where it is older if asked.
import { row } from "../lib/channels.js";
import { boxOf, onSheet } from "./bounds.js";
import { clamp, css } from "../lib/colour.js";
import { faded } from "./paint.js";

const PIECES = 64;

// Add the vertices of a line between two places on it, fractions of vertices, to a path.
function add(path, points, first, count, begin, end, close = false) {
  const at = place => {
    const k = Math.min(Math.floor(place), count - 1),
      after = Math.min(k + 1, count - 1),
      share = place - k;
    const [x, y] = [points[2 * (first + k)], points[2 * (first + k) + 1]];
    return [x + (points[2 * (first + after)] - x) * share, y + (points[2 * (first + after) + 1] - y) * share];
  };
  path.moveTo(...at(begin));
  for (let k = Math.floor(begin) + 1; k < Math.ceil(end); k += 1)
    path.lineTo(points[2 * (first + k)], points[2 * (first + k) + 1]);
  path.lineTo(...at(end));
  if (close) path.closePath();
}

export function path(node, index, element) {
  const made = new Path2D(),
    points = row(node.channels.points, index, element),
    part = row(node.channels.part, index, element);
  const closed = row(node.channels.closed, index, element)[0] >= 0.5;
  node.lines.forEach(([first, count], k) => {
    if (part[2 * k + 1] > part[2 * k]) add(made, points, first, count, part[2 * k], part[2 * k + 1], closed);
  });
  return made;
}

// The vertices that are seen.
export function points(node, index, element) {
  const all = row(node.channels.points, index, element),
    part = row(node.channels.part, index, element),
    made = [];
  node.lines.forEach(([first], k) => {
    for (let v = Math.ceil(part[2 * k]); v <= Math.floor(part[2 * k + 1]); v += 1)
      made.push(all[2 * (first + v)], all[2 * (first + v) + 1]);
  });
  return made.length ? made : [0, 0];
}

// The first line of which something is seen, with the frame at which it passed each of its vertices that it has come
// to; null if there is none. The oldest place that is seen is `from`.
export function passed(node, index, element) {
  const all = row(node.channels.points, index, element),
    part = row(node.channels.part, index, element);
  const line = node.lines.findIndex((_, k) => part[2 * k + 1] > part[2 * k]);
  if (line < 0) return null;
  const [first] = node.lines[line],
    ends = Array.from({ length: index + 1 }, (_, frame) => row(node.channels.part, frame, element)[2 * line + 1]);
  const made = [];
  for (let v = 0, frame = 0; v <= part[2 * line + 1]; v += 1) {
    while (frame < index && ends[frame] < v) frame += 1;
    const before = frame ? ends[frame - 1] : 0,
      way = ends[frame] - before;
    made.push({
      x: all[2 * (first + v)],
      y: all[2 * (first + v) + 1],
      frame: v && way > 0 ? frame - (ends[frame] - v) / way : frame,
    });
  }
  return { vertices: made, from: part[2 * line] };
}

export const hasInside = () => false;

export const lineWidth = (node, index, element) => row(node.channels.width, index, element)[0];

export function draw(context, node, index, alpha, _, element) {
  const told = name => row(node.channels[name], index, element)[0];
  const width = told("width"),
    taper = clamp(told("taper")),
    fade = clamp(told("fade")),
    colour = row(node.channels.stroke, index, element);
  if (width <= 0) return;
  const ready = where => {
    where.lineCap = where.lineJoin = "round";
    where.lineWidth = width;
    where.setLineDash([]);
  };
  if (!taper && !fade) {
    ready(context);
    context.globalAlpha = alpha;
    context.strokeStyle = css(colour);
    context.stroke(path(node, index, element));
    context.globalAlpha = 1;
    return;
  }
  // Where a line crosses itself the newer part lies on the older one, and neither adds to the other.
  faded(
    context,
    alpha,
    inner => {
      ready(inner);
      drawPieces(inner, node, index, element, { width, taper, fade, colour });
    },
    onSheet(context, boxOf(context.getTransform(), node, index, element)),
  );
}

function drawPieces(inner, node, index, element, { width, taper, fade, colour }) {
  const all = row(node.channels.points, index, element),
    part = row(node.channels.part, index, element);
  node.lines.forEach(([first, count], line) => {
    const begin = part[2 * line],
      end = part[2 * line + 1];
    for (let k = 0; k < PIECES && end > begin; k += 1) {
      const piece = new Path2D(),
        age = 1 - (k + 0.5) / PIECES;
      add(piece, all, first, count, begin + ((end - begin) * k) / PIECES, begin + ((end - begin) * (k + 1)) / PIECES);
      inner.lineWidth = width * (1 - taper * age);
      inner.globalCompositeOperation = "destination-out";
      inner.strokeStyle = "#000";
      inner.stroke(piece);
      // Taken out and added: at its soft edge each piece passes over into the one before.
      inner.globalCompositeOperation = "lighter";
      inner.strokeStyle = css(colour, 1 - fade * age);
      inner.stroke(piece);
    }
  });
  inner.globalCompositeOperation = "source-over";
}
