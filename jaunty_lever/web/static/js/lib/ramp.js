// @ts-check
// Colours for values: from paper to ink, and around 0 from brick over paper to sea.
const PAPER = [245, 241, 232],
  INK = [34, 48, 60],
  BRICK = [169, 60, 40],
  SEA = [31, 111, 120];

/**
 * @param {number[]} from
 * @param {number[]} to
 * @param {number} share
 */
const mixed = (from, to, share) => from.map((v, k) => Math.round(v + (to[k] - v) * share));

/**
 * The colour of each value between the least and the greatest, as r, g, b in 0..255.
 * @param {number} low
 * @param {number} high
 * @returns {(value: number) => number[]}
 */
export function ramp(low, high) {
  if (low < 0 && high > 0) {
    const most = Math.max(-low, high);
    return value => mixed(PAPER, value < 0 ? BRICK : SEA, Math.min(Math.abs(value) / most, 1));
  }
  return value => mixed(PAPER, INK, high > low ? Math.min(Math.max((value - low) / (high - low), 0), 1) : 0);
}

/** From paper to sea for 0 to 1: how far a gauge has come. @param {number} share */
export const seaOf = share => `rgb(${mixed(PAPER, SEA, Math.min(Math.max(share, 0), 1)).join(" ")})`;
