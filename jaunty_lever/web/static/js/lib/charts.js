// @ts-check
// Drawing values over time. It knows channels ({ rows, width, data }) and boxes, and nothing of the page.
import { css } from "./colour.js";

export const colours = {
  ink: "#22303C",
  faded: "#5F6B74",
  rule: "#D9D2C3",
  brass: "#8F5F12",
  sea: "#1F6F78",
  sheet: "#FFFDF8",
  brick: "#A93C28",
};

/** @typedef {import("#types").Channel} Channel */
/** @typedef {{ x: number, y: number, width: number, height: number }} Box */

/**
 * The least and the greatest of one component of several channels.
 * @param {(Channel | null | undefined)[]} channels
 * @param {number} component
 */
export function reach(channels, component) {
  let low = Infinity,
    high = -Infinity;
  for (const one of channels) {
    if (!one) continue;
    for (let k = component; k < one.data.length; k += one.width) {
      const v = one.data[k];
      if (v < low) low = v;
      if (v > high) high = v;
    }
  }
  return low > high ? [0, 1] : [low, high];
}

/**
 * A lane for each component, one under the other, all with the same number of pixels to a unit.
 * @param {(Channel | null | undefined)[]} channels
 * @param {number} count
 * @param {Box} box
 */
export function lanes(channels, count, box, pad = 0.12) {
  const ranges = Array.from({ length: count }, (_, component) => reach(channels, component));
  const most = Math.max(...ranges.map(([low, high]) => high - low));
  const height = box.height / count;
  return ranges.map(([low, high], component) => {
    const span = most * (1 + 2 * pad) || Math.max(Math.abs(high) * 0.2, 1);
    const middle = (low + high) / 2;
    return {
      range: [middle - span / 2, middle + span / 2],
      box: { ...box, y: box.y + component * height, height: height - (count > 1 ? 2 : 0) },
    };
  });
}

/**
 * One component as a line: where frames are denser than pixels, from the lowest to the highest in each pixel.
 * @param {CanvasRenderingContext2D} context
 * @param {Channel} one
 * @param {number} component
 * @param {Box} box
 * @param {number[]} range what its lowest and its highest edge stand for
 */
export function line(context, one, component, box, [low, high]) {
  const { x, y, width, height } = box;
  const at = (/** @type {number} */ v) => y + height - ((v - low) / (high - low)) * height;
  context.beginPath();
  if (one.rows === 1) {
    context.moveTo(x, at(one.data[component]));
    context.lineTo(x + width, at(one.data[component]));
  } else if (one.rows <= width * 2) {
    for (let k = 0; k < one.rows; k++)
      context.lineTo(x + (k / (one.rows - 1)) * width, at(one.data[k * one.width + component]));
  } else {
    for (let px = 0; px < width; px++) {
      let least = Infinity,
        most = -Infinity;
      const last = Math.ceil(((px + 1) / width) * one.rows);
      for (let k = Math.floor((px / width) * one.rows); k < last; k++) {
        const v = one.data[k * one.width + component];
        if (v < least) least = v;
        if (v > most) most = v;
      }
      context.lineTo(x + px, at(least));
      context.lineTo(x + px, at(most));
    }
  }
  context.stroke();
}

/**
 * Colours over time, side by side.
 * @param {CanvasRenderingContext2D} context
 * @param {Channel} one
 * @param {Box} box
 */
export function strip(context, one, { x, y, width, height }) {
  for (let px = 0; px < width; px++) {
    const k = Math.min(one.rows - 1, Math.floor((px / width) * one.rows));
    context.fillStyle = css(one.data.subarray(k * 4, k * 4 + 4));
    context.fillRect(x + px, y, 1.5, height);
  }
}

/**
 * A text over time: each stretch with what stands there.
 * @param {CanvasRenderingContext2D} context
 * @param {[number, string][]} texts
 * @param {Box} box
 * @param {number} length
 */
export function runs(context, texts, { x, y, width, height }, length) {
  const at = (/** @type {number} */ frame) => x + (frame / Math.max(1, length - 1)) * width;
  context.font = "11px 'Instrument Sans Variable', 'Instrument Sans'";
  texts.forEach(([frame, text], k) => {
    const left = at(frame),
      right = at(texts[k + 1]?.[0] ?? length - 1);
    context.fillStyle = k % 2 ? "#EFE9DB" : "#F7F3E9";
    context.fillRect(left, y + 14, right - left, height - 14);
    if (right - left < 9) return;
    context.save();
    context.beginPath();
    context.rect(left, y, right - left - 1, height);
    context.clip();
    context.fillStyle = colours.ink;
    context.fillText(text.split("\n")[0], left + 2, y + 18 + height / 3);
    context.restore();
  });
}

/**
 * Where the moment is; share 0..1 of the box.
 * @param {CanvasRenderingContext2D} context
 * @param {Box} box
 * @param {number} share
 */
export function playhead(context, box, share) {
  const x = Math.round(box.x + share * box.width) + 0.5;
  context.strokeStyle = colours.brass;
  context.setLineDash([]);
  context.lineWidth = 1;
  context.beginPath();
  context.moveTo(x, 0);
  context.lineTo(x, box.y * 2 + box.height);
  context.stroke();
}
