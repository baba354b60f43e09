// @ts-check
// What parts of a page tell one another, without knowing who listens.

/**
 * The playhead moved; answers came; the panels are others; what is pointed at; a server that is back or gone, or
 * refused; the stage or a lane took another size; a picture was painted or looked over; clips came.
 * @typedef {"frame" | "values" | "panels" | "pointing" | "elsewhere" | "refused" | "size" | "lane" | "painted"
 *   | "looked" | "clips"} Told
 */

/** @type {Map<Told, ((detail?: any) => void)[]>} */
const listeners = new Map();

/** @param {Told} event @param {(detail?: any) => void} listener */
export function on(event, listener) {
  const there = listeners.get(event);
  if (there) there.push(listener);
  else listeners.set(event, [listener]);
}

/** @param {Told} event @param {any} [detail] */
export function emit(event, detail) {
  for (const listener of listeners.get(event) ?? []) listener(detail);
}
