// @ts-check
// Colours as numbers, and as CSS writes them.
/** @param {number} v */
export const clamp = v => Math.min(Math.max(v, 0), 1);

/** @param {ArrayLike<number>} c red, green, blue and alpha, 0..1 */
export const css = (c, alpha = 1) =>
  `rgb(${[0, 1, 2].map(k => Math.round(clamp(c[k]) * 255)).join(" ")} / ${clamp(c[3]) * alpha})`;
