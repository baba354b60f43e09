// @ts-check
// The zones of a chosen array on the stage: their centre, size and angle are dragged; of those with the shape of
// something drawn, how far they reach from its line.
import { colours } from "../lib/charts.js";
import { pathOf, pointsOf as numbersOf } from "../display/list.js";
import { onScreen, planeOf, screen, trail } from "./planes.js";
import { nodeOf, now, one, pointsOf, round, set } from "./read.js";
import { view } from "./stage_view.js";

const SHAPES = ["disc", "box", "bar", "outline", "line"],
  LINED = ["outline", "line"];

function zoneOf(gauge) {
  const [cx, cy] = now(`${gauge.id}.centre`),
    [wide, high] = now(`${gauge.id}.size`);
  if (cx === undefined || wide === undefined) return null;
  return {
    cx,
    cy,
    wide,
    high,
    angle: (one(`${gauge.id}.angle`) * Math.PI) / 180,
    inner: one(`${gauge.id}.inner`) / 100,
    hollow: one(`${gauge.id}.hollow`) / 100,
    shape: SHAPES[Math.round(one(`${gauge.id}.shape`))] ?? "disc",
  };
}

export function ofZone(gauge) {
  const zone = zoneOf(gauge);
  if (!zone) return [];
  if (LINED.includes(zone.shape)) return ofLine(gauge, zone);
  const { cx, cy, wide, high, angle } = zone,
    [cos, sin] = [Math.cos(angle), Math.sin(angle)],
    plane = planeOf(gauge.id);
  const found = [];
  const put = (x, y, words, more, edits, aside = [0, 0]) => {
    const seen = screen(plane, x, y);
    if (seen)
      found.push({
        at: [seen[0] + aside[0], seen[1] + aside[1]],
        words: `${gauge.name}: ${words}`,
        zone: true,
        ...more,
        edits: point => edits(plane.from({ x: point.x - aside[0] / view.zoom, y: point.y - aside[1] / view.zoom })),
      });
  };
  const disc = zone.shape === "disc",
    corner = disc ? 0 : 1;
  put(cx, cy, "centre", {}, p => [set(`${gauge.id}.centre`, [round(p.x), round(p.y)])]);
  put(
    cx + cos * wide - sin * high * corner,
    cy + sin * wide + cos * high * corner,
    disc ? "size across" : "size",
    {},
    p => {
      const [dx, dy] = [p.x - cx, p.y - cy],
        across = Math.abs(dx * cos + dy * sin),
        down = Math.abs(dy * cos - dx * sin);
      return [
        set(
          `${gauge.id}.size`,
          disc ? [round(across), Math.abs(wide - high) < 0.5 ? round(across) : high] : [round(across), round(down)],
        ),
      ];
    },
  );
  if (disc)
    put(cx - sin * high, cy + cos * high, "size down", {}, p => [
      set(`${gauge.id}.size`, [wide, round(Math.abs((p.y - cy) * cos - (p.x - cx) * sin))]),
    ]);
  // A little further out than where its edge is seen.
  const [middle, edge] = [plane.to(cx, cy), plane.to(cx + cos * wide, cy + sin * wide)];
  if (middle && edge) {
    const far = Math.hypot(edge[0] - middle[0], edge[1] - middle[1]) || 1;
    put(
      cx + cos * wide,
      cy + sin * wide,
      "angle",
      { turn: true },
      p => [set(`${gauge.id}.angle`, Math.round((Math.atan2(p.y - cy, p.x - cx) * 180) / Math.PI))],
      [0, 1].map(k => (26 * (edge[k] - middle[k])) / far),
    );
  }
  return found;
}

const FAR = 4000,
  ROUND = Array.from({ length: 73 }, (_, k) => [Math.cos((k * Math.PI) / 36), Math.sin((k * Math.PI) / 36)]);

// The lines of a zone's edge, or of its inner part, about its own middle.
function edgesOf({ shape, wide, high }, share) {
  const [w, h] = [wide * share, high * share];
  if (shape === "disc") return [ROUND.map(([x, y]) => [w * x, h * y])];
  if (shape === "box")
    return [
      [
        [-w, -h],
        [w, -h],
        [w, h],
        [-w, h],
        [-w, -h],
      ],
    ];
  // As many steps as it takes to leave out what lies behind the viewer.
  return [-w, w].map(x => Array.from({ length: 41 }, (_, k) => [x, FAR * (k / 20 - 1)]));
}

export function drawZone(context, gauge) {
  const zone = zoneOf(gauge);
  if (!zone) return;
  if (LINED.includes(zone.shape)) return drawLine(context, gauge, zone);
  const plane = planeOf(gauge.id),
    [cos, sin] = [Math.cos(zone.angle), Math.sin(zone.angle)];
  const trailed = line =>
    trail(
      context,
      plane,
      line.map(([x, y]) => [zone.cx + cos * x - sin * y, zone.cy + sin * x + cos * y]),
    );
  const way = share => {
    context.beginPath();
    edgesOf(zone, share).forEach(trailed);
  };
  context.save();
  context.strokeStyle = context.fillStyle = colours.sea;
  context.lineWidth = 1.2;
  const hole = 2 * zone.hollow - 1,
    plateau = zone.inner * (1 - zone.hollow);
  way(1);
  context.globalAlpha = 0.06;
  if (zone.shape !== "bar") context.fill();
  context.globalAlpha = 0.9;
  context.stroke();
  if (hole > 0) {
    // What a ring leaves out.
    way(hole);
    context.stroke();
  }
  if (zone.hollow > 0) {
    // The ring along which it is strongest.
    way(zone.hollow);
    context.globalAlpha = 0.5;
    context.lineWidth = 3;
    context.stroke();
    context.lineWidth = 1.2;
  }
  way(zone.hollow + plateau);
  if (zone.hollow > plateau) for (const line of edgesOf(zone, zone.hollow - plateau)) trailed(line);
  context.setLineDash([3, 4]);
  context.globalAlpha = 0.6;
  context.stroke();
  context.restore();
}

// The line of a zone on the stage: as a path on the screen, and its points in the scene.
function lineOf(gauge) {
  const path = new Path2D();
  if (!gauge.outline) {
    path.addPath(new Path2D(gauge.data), new DOMMatrix([view.zoom, 0, 0, view.zoom, view.x, view.y]));
    return { path, points: pointsOf(gauge.data) };
  }
  // A layer that is hidden has its line all the same, but none that could be shown.
  const lead = nodeOf(gauge.outline);
  if (!lead) return null;
  const { node, matrix, index, element } = lead,
    numbers = numbersOf(node, index, element);
  path.addPath(
    pathOf(node, index, element),
    new DOMMatrix([view.zoom, 0, 0, view.zoom, view.x, view.y]).multiply(matrix),
  );
  const points = Array.from({ length: Math.floor(numbers.length / 2) }, (_, k) =>
    matrix.transformPoint({ x: numbers[2 * k], y: numbers[2 * k + 1] }),
  );
  return { path, points };
}

const SIDES = [
  [1, 0],
  [0, -1],
  [-1, 0],
  [0, 1],
];

// How far it reaches, dragged beside what lies furthest to one side: the first of them that is in sight.
function ofLine(gauge, { shape, wide, high }) {
  const line = lineOf(gauge);
  if (!line?.points.length) return [];
  const ends = SIDES.map(([x, y]) => {
    const end = line.points.reduce((best, point) =>
      (point.x - best.x) * x + (point.y - best.y) * y > 0 ? point : best,
    );
    return { end, x, y, at: onScreen(end.x + x * wide, end.y + y * wide) };
  });
  const stage = document.getElementById("handles").getBoundingClientRect();
  const { end, x, y, at } =
    ends.find(({ at }) => at[0] > 8 && at[1] > 8 && at[0] < stage.width - 8 && at[1] < stage.height - 8) ?? ends[0];
  const words = `${gauge.name}: how far it reaches from ${shape === "outline" ? "its outline" : "its line"}`;
  const far = point => round(Math.max((point.x - end.x) * x + (point.y - end.y) * y, 0));
  return [{ at, words, zone: true, edits: point => [set(`${gauge.id}.size`, [far(point), high])] }];
}

function drawLine(context, gauge, { shape, wide, inner, hollow }) {
  const line = lineOf(gauge);
  if (!line) return;
  const band = (share, alpha) => {
    context.globalAlpha = alpha;
    context.lineWidth = 2 * wide * view.zoom * share;
    if (context.lineWidth > 0 && share > 0) context.stroke(line.path);
  };
  context.save();
  context.strokeStyle = context.fillStyle = colours.sea;
  context.lineJoin = context.lineCap = "round";
  context.globalAlpha = 0.08;
  if (shape === "outline") context.fill(line.path);
  band(1, 0.1);
  band(hollow + inner * (1 - hollow), 0.1);
  context.globalAlpha = 0.9;
  context.lineWidth = 1.2;
  context.stroke(line.path);
  context.restore();
}
