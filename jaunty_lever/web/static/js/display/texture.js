// @ts-check
// A texture: its grid as a picture, laid over its rectangle.
import { row } from "../lib/channels.js";
import { clamp } from "../lib/colour.js";
import { boxed } from "./box.js";
import { canvasOf } from "../lib/surroundings.js";

const sizeOf = (node, index, element) => row(node.channels.size, index, element);

export const { path, points, hasInside, lineWidth } = boxed(sizeOf);

const sheets = new Map();

export function draw(context, node, index, alpha, _, element) {
  const [wide, high] = sizeOf(node, index, element),
    [columns, rows] = node.grid;
  if (wide <= 0 || high <= 0) return;
  const size = `${columns} ${rows}`;
  if (!sheets.has(size)) {
    if (sheets.size > 20) sheets.clear();
    sheets.set(size, canvasOf(columns, rows));
  }
  const sheet = sheets.get(size),
    inner = sheet.getContext("2d");
  const light = row(node.channels.light, index, element),
    ramp = row(node.channels.ramp, index, element);
  const steps = new Uint32Array(256),
    bytes = new Uint8ClampedArray(steps.buffer);
  for (let k = 0; k < 1024; k += 1) bytes[k] = Math.round(clamp(ramp[k]) * 255);
  const image = inner.createImageData(columns, rows),
    pixels = new Uint32Array(image.data.buffer);
  for (let k = 0; k < pixels.length; k += 1) pixels[k] = steps[Math.round(light[k] * 255)];
  inner.putImageData(image, 0, 0);
  context.globalAlpha = alpha;
  context.imageSmoothingEnabled = true;
  context.imageSmoothingQuality = "low";
  context.drawImage(sheet, -wide / 2, -high / 2, wide, high);
  context.globalAlpha = 1;
}
