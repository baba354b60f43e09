// @ts-check
// The planes in which what is dragged on the stage lies: flat on it, or in depth, as the camera sees them.
import { answers } from "../talk/answers.js";
import { clock } from "../talk/clock.js";
import { row } from "../lib/channels.js";
import { view } from "./stage_view.js";

/**
 * @typedef {{ x: number, y: number }} Point
 * @typedef {{ to: (x: number, y: number) => [number, number] | null, from: (point: Point) => Point }} Plane
 */

/** Where a point of the stage is on the screen. */
export const onScreen = (x, y) => [view.x + x * view.zoom, view.y + y * view.zoom];

/**
 * The plane of an array or a zone: leads its own coordinates to the stage, and back. What does not lie in depth lies as
 * `matrix` tells, or else on the stage itself.
 * @returns {Plane}
 */
export function planeOf(id, matrix = null) {
  const key = answers.last?.planes?.[id];
  if (!key) {
    const inverse = matrix?.inverse();
    return {
      to: (x, y) => {
        const p = matrix ? matrix.transformPoint({ x, y }) : { x, y };
        return [p.x, p.y];
      },
      from: ({ x, y }) => {
        const p = inverse ? inverse.transformPoint({ x, y }) : { x, y };
        return { x: p.x, y: p.y };
      },
    };
  }
  const [a, b, c, d, e, f, g, h, i] = row(key, Math.floor(clock.frame) - answers.last.start);
  const inverse = [
    e * i - f * h,
    c * h - b * i,
    b * f - c * e,
    f * g - d * i,
    a * i - c * g,
    c * d - a * f,
    d * h - e * g,
    b * g - a * h,
    a * e - b * d,
  ];
  return {
    // Nothing where it lies behind the viewer.
    to: (x, y) => {
      const w = g * x + h * y + i;
      return w > 0.02 ? [(a * x + b * y + c) / w, (d * x + e * y + f) / w] : null;
    },
    from: ({ x, y }) => {
      const w = inverse[6] * x + inverse[7] * y + inverse[8] || 1e-9;
      return {
        x: (inverse[0] * x + inverse[1] * y + inverse[2]) / w,
        y: (inverse[3] * x + inverse[4] * y + inverse[5]) / w,
      };
    },
  };
}

/** Where a point of a plane is on the screen; nothing behind the viewer. */
export function screen(plane, x, y) {
  const seen = plane.to(x, y);
  return seen && onScreen(...seen);
}

/** How many pixels of the screen one of a plane's own has about a point. */
export function sizeAt(plane, x, y) {
  const [at, right, down] = [plane.to(x, y), plane.to(x + 1, y), plane.to(x, y + 1)];
  if (!at || !right || !down) return 1;
  return (
    view.zoom * Math.sqrt(Math.abs((right[0] - at[0]) * (down[1] - at[1]) - (right[1] - at[1]) * (down[0] - at[0]))) ||
    1
  );
}

/** A line through points of a plane, as far as it is seen. */
export function trail(context, plane, points) {
  let begun = false;
  for (const [x, y] of points) {
    const seen = screen(plane, x, y);
    if (seen && begun) context.lineTo(...seen);
    else if (seen) context.moveTo(...seen);
    begun = Boolean(seen);
  }
}
