// @ts-check
// A picture that lies in depth: its plane as a grid of triangles, each of which is flat.
import { row } from "../lib/channels.js";
import { faded } from "./paint.js";

const NEAREST = 0.02,
  MOST_CELLS = 32,
  MOST_SIDE = 2048,
  OVERLAP = 0.7;

// Where a point of the plane is seen, in own coordinates, and its w.
export function seenAt(h, x, y) {
  const w = Math.max(h[6] * x + h[7] * y + h[8], NEAREST);
  return [(h[0] * x + h[1] * y + h[2]) / w, (h[3] * x + h[4] * y + h[5]) / w, w];
}

// Its corners as they are seen, x y x y …
export function cornersOf(node, index, element, corners) {
  const h = row(node.channels.plane, index, element),
    seen = [];
  for (let k = 0; k + 1 < corners.length; k += 2) seen.push(...seenAt(h, corners[k], corners[k + 1]).slice(0, 2));
  return seen;
}

export function outlineOf(node, index, element, corners) {
  const path = new Path2D(),
    p = cornersOf(node, index, element, corners);
  for (let k = 0; k + 1 < p.length; k += 2) path.lineTo(p[k], p[k + 1]);
  path.closePath();
  return path;
}

// Draw by `draw`, which draws on a sheet what lies flat; `corners`: its own rectangle.
export function inPlane(context, node, index, element, alpha, corners, draw) {
  const h = row(node.channels.plane, index, element);
  const [left, top, right, bottom] = [corners[0], corners[1], corners[4], corners[5]],
    wide = right - left,
    high = bottom - top;
  if (!(wide > 0) || !(high > 0)) return;
  const at = [
    [left, top],
    [right, top],
    [right, bottom],
    [left, bottom],
  ].map(([x, y]) => seenAt(h, x, y));
  const ws = at.map(([, , w]) => w);
  if (ws.every(w => w <= NEAREST * 1.01)) return;
  const { a, b, c, d } = context.getTransform(),
    size = Math.sqrt(Math.abs(a * d - b * c)) || 1;
  const side = (k, m) => Math.hypot(at[k][0] - at[m][0], at[k][1] - at[m][1]) * size;
  const across = Math.max(side(0, 1), side(3, 2)),
    down = Math.max(side(1, 2), side(0, 3));
  // A straight step over a cell strays by this much less, the more cells there are.
  const bend = Math.max(...ws) / Math.max(Math.min(...ws), NEAREST) - 1;
  const cells = Math.min(Math.max(Math.ceil(Math.sqrt(Math.max(across, down) * bend)), 1), MOST_CELLS);
  const fine = Math.min(Math.max(across / wide, down / high, 0.05), 2, MOST_SIDE / Math.max(wide, high));
  const sheet = new OffscreenCanvas(Math.max(1, Math.ceil(wide * fine)), Math.max(1, Math.ceil(high * fine))),
    inner = sheet.getContext("2d");
  const [sx, sy] = [sheet.width / wide, sheet.height / high];
  inner.setTransform(sx, 0, 0, sy, -left * sx, -top * sy);
  draw(inner);
  const cover = where => {
    where.save();
    where.clip(outlineOf(node, index, element, corners));
    const points = [];
    for (let j = 0; j <= cells; j += 1)
      for (let i = 0; i <= cells; i += 1) points.push(seenAt(h, left + (wide * i) / cells, top + (high * j) / cells));
    for (let j = 0; j < cells; j += 1) {
      for (let i = 0; i < cells; i += 1) {
        const n = j * (cells + 1) + i,
          four = [points[n], points[n + 1], points[n + cells + 2], points[n + cells + 1]];
        if (four.some(([, , w]) => w <= NEAREST * 1.01)) continue;
        for (const upper of [true, false]) triangle(where, sheet, four, i, j, cells, upper, OVERLAP / size);
      }
    }
    where.restore();
  };
  if (alpha < 1) faded(context, alpha, cover);
  else cover(context);
}

// Half a cell: the sheet by the flat matrix that leads its three corners to where they are seen.
function triangle(context, sheet, four, i, j, cells, upper, overlap) {
  const [p, q, r] = upper ? [four[0], four[1], four[3]] : [four[2], four[3], four[1]];
  const middle = [(p[0] + q[0] + r[0]) / 3, (p[1] + q[1] + r[1]) / 3];
  context.save();
  context.beginPath();
  for (const [x, y] of [p, q, r]) {
    const far = Math.hypot(x - middle[0], y - middle[1]) || 1,
      more = 1 + (2 * overlap) / far;
    context.lineTo(middle[0] + (x - middle[0]) * more, middle[1] + (y - middle[1]) * more);
  }
  context.closePath();
  context.clip();
  const [wide, high] = [sheet.width / cells, sheet.height / cells];
  const [ux, uy] = upper ? [q[0] - p[0], q[1] - p[1]] : [p[0] - q[0], p[1] - q[1]];
  const [vx, vy] = upper ? [r[0] - p[0], r[1] - p[1]] : [p[0] - r[0], p[1] - r[1]];
  const corner = upper ? p : [p[0] - ux - vx, p[1] - uy - vy];
  context.transform(
    ux / wide,
    uy / wide,
    vx / high,
    vy / high,
    corner[0] - ux * i - vx * j,
    corner[1] - uy * i - vy * j,
  );
  context.imageSmoothingQuality = "high";
  context.drawImage(sheet, 0, 0);
  context.restore();
}
