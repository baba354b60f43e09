// @ts-check
// Colours as numbers, and as CSS writes them.
export const clamp = (v) => Math.min(Math.max(v, 0), 1);

export const css = (c, alpha = 1) =>
  `rgb(${Math.round(clamp(c[0]) * 255)} ${Math.round(clamp(c[1]) * 255)} ${Math.round(clamp(c[2]) * 255)} / ${clamp(c[3]) * alpha})`;
