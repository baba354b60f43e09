// @ts-check
// Channels by their hashes: the numbers of display lists and curves. A page has some, and so has the worker that
// paints for it.
/** @type {Map<string, import("#types").Channel>} */
export const channels = new Map();

/**
 * @param {string} key
 * @returns {import("#types").Channel | undefined}
 */
export function channel(key) {
  return channels.get(key);
}

const NOTHING = { data: new Float32Array(0), start: 0, step: 0, width: 0 };

/**
 * Where the numbers of a frame begin in a channel, which has a row per frame from `start` on or a single one, and how
 * far it is from one element to the next: 0 where all have the same.
 * @param {string} key
 * @param {number} index
 */
export function stretch(key, index) {
  const one = channels.get(key);
  if (!one) return NOTHING;
  const k = one.rows > 1 ? Math.min(Math.max(index, 0), one.rows - 1) : 0;
  return { data: one.data, start: k * one.each * one.width, step: one.each > 1 ? one.width : 0, width: one.width };
}

/**
 * The numbers of one element (a copy by its number) at a frame.
 * @param {string} key
 * @param {number} index
 */
export function row(key, index, element = 0) {
  const { data, start, step, width } = stretch(key, index);
  return data.subarray(start + element * step, start + element * step + width);
}

/** How many rows a channel has, and how many elements side by side in each. @param {string} key */
export const extentOf = key => ({ rows: channels.get(key)?.rows ?? 0, each: channels.get(key)?.each ?? 1 });

/** Whether all elements have the same in a channel. @param {string} key */
export const isShared = key => (channels.get(key)?.each ?? 1) === 1;
