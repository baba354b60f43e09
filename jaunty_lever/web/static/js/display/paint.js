// @ts-check
// Sheets that the drawing of every kind of node shares.
import { canvasOf } from "../lib/surroundings.js";

// Sheets by size. A small one for a small shape: the browser copies a whole sheet when it is drawn on again.
const spare = new Map();

// A clear sheet of a size, to be given back when it is done with.
export function sheetFor(width, height) {
  const known = spare.get(`${width} ${height}`)?.pop();
  if (!known) return canvasOf(width, height);
  const inner = known.getContext("2d");
  inner.setTransform(1, 0, 0, 1, 0, 0);
  inner.clearRect(0, 0, width, height);
  inner.globalAlpha = 1;
  return known;
}

export function spareSheet(sheet) {
  const size = `${sheet.width} ${sheet.height}`;
  if (spare.size > 60) spare.clear();
  if (!spare.has(size)) spare.set(size, []);
  spare.get(size).push(sheet);
}

// Where a sheet lies on the canvas that all of it ends on, in pixels.
const offsets = new WeakMap();
export const offsetOf = context => offsets.get(context.canvas) ?? [0, 0];
export const liesAt = (context, offset) => offsets.set(context.canvas, offset);

// Something on a sheet of its own that lies at a box [x, y, wide, high] of a context's sheet; where `draw` draws on
// it, things lie where they lie on that. Its size is rounded up, so that sheets can be used again.
export function sheetAt(context, [x, y, wide, high], draw) {
  const sheet = sheetFor(...[wide, high].map(side => Math.ceil(side / 128) * 128));
  const inner = sheet.getContext("2d"),
    [ox, oy] = offsetOf(context);
  liesAt(inner, [ox + x, oy + y]);
  inner.setTransform(new DOMMatrix().translate(-x, -y).multiply(context.getTransform()));
  draw(inner);
  return sheet;
}

// Lay such a sheet down where it lies; `keep`: it is to be laid down again.
export function layAt(context, sheet, [x, y, wide, high], alpha, blend = "source-over", keep = false) {
  context.save();
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.globalAlpha = alpha;
  context.globalCompositeOperation = blend;
  context.drawImage(sheet, 0, 0, wide, high, x, y, wide, high);
  context.restore();
  if (!keep) spareSheet(sheet);
}

// Draw something on a sheet of its own and lay it down faded, so that overlapping parts fade as one.
/** @param {[number, number, number, number] | null} box */
export function faded(context, alpha, draw, box = [0, 0, context.canvas.width, context.canvas.height]) {
  if (box) layAt(context, sheetAt(context, box, draw), box, alpha);
}
