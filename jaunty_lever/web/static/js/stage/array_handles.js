// @ts-check
// What is drawn and dragged on the stage for a chosen array: how its copies stand, where its order begins, its zones,
// the fronts of its sweeps, and a gauge as dots on the copies.
import { choice } from "../talk/choice.js";
import { hands } from "../talk/hands.js";
import { row, stretch } from "../lib/channels.js";
import { curveOf } from "../talk/server.js";
import { colours } from "../lib/charts.js";
import { seaOf } from "../lib/ramp.js";
import { view } from "./stage_view.js";
import { handlesOfLayer } from "./layer_handles.js";
import { drawEmitter, ofEmitter } from "./emitter_handles.js";
import { onScreen, planeOf, screen, sizeAt, trail } from "./planes.js";
import { frameNow, nodeOf, now, one, pointsOf, round, set, withPoint } from "./read.js";
import { drawZone, ofZone } from "./zone_handles.js";

const MEASURES = ["number", "columns", "rows", "diagonal", "square", "round", "shuffled", "points", "line", "gauge"];

// What the page tells of the array whose gauges are shown.
export function arrayHere() {
  const place = document.querySelector("[data-array]");
  return place ? JSON.parse(place.dataset.array) : null;
}

// How many copies stand side by side and behind one another in rows, grids and on the ground, and how far apart.
function spacing({ id, kind }) {
  const at = `${id}.arrangement`;
  const counts =
    kind === "row" ? [one(`${at}.count`, 1), one(`${at}.count`, 1)] : [one(`${at}.columns`, 1), one(`${at}.rows`, 1)];
  const steps = counts.map(count => Math.max(Math.round(count), 1) - 1);
  const spans = one(`${at}.fit`) >= 0.5,
    given = now(`${at}.${spans ? "span" : "gap"}`);
  return { steps, spans, given, reach: [0, 1].map(axis => (spans ? given[axis] : given[axis] * steps[axis]) / 2) };
}

// The places of up to 120 copies at the playhead, in the plane that they are laid out in, and their extent.
function placesOf(array) {
  const { id } = array;
  if (array.kind === "ground") {
    const {
      reach: [wide, deep],
      steps,
      spans,
      given,
    } = spacing(array);
    const brick =
      steps[1] > 0 ? (one(`${id}.arrangement.brick`) / 100) * (spans ? given[0] / Math.max(steps[0], 1) : given[0]) : 0;
    return { xs: [], ys: [], left: -wide, right: wide + brick, top: -deep, bottom: deep };
  }
  const channel = curveOf(`${id}.place`, "each");
  if (!channel || !channel.each) return null;
  const row = channel.rows > 1 ? Math.min(frameNow(), channel.rows - 1) : 0;
  const data = channel.data.subarray(row * channel.each * 2, (row + 1) * channel.each * 2);
  const xs = [],
    ys = [];
  for (let k = 0; k < data.length; k += 2) {
    xs.push(data[k]);
    ys.push(data[k + 1]);
  }
  if (!xs.length) return null;
  return { xs, ys, left: Math.min(...xs), right: Math.max(...xs), top: Math.min(...ys), bottom: Math.max(...ys) };
}

// The handles of the arrangement: each has a place on the screen and tells the edits that bring it somewhere.
function ofArrangement(array, plane, spots) {
  const at = `${array.id}.arrangement`;
  const found = [];
  const put = (x, y, words, edits) => {
    const seen = screen(plane, x, y);
    if (seen) found.push({ at: seen, words, edits: point => edits(plane.from(point)) });
  };
  if (array.kind === "emitter") {
    ofEmitter(array, plane, put, now, set);
    return found;
  }
  if (["row", "grid", "ground"].includes(array.kind)) {
    const { steps, spans, given, reach: corner } = spacing(array);
    if (steps[0] > 0 || steps[1] > 0) {
      put(corner[0], corner[1], spans ? "Span" : "Gap", p => [
        set(
          `${at}.${spans ? "span" : "gap"}`,
          [p.x, p.y].map((v, axis) => (steps[axis] > 0 ? round((2 * v) / (spans ? 1 : steps[axis])) : given[axis])),
        ),
      ]);
    }
  } else if (array.kind === "ring") {
    const radius = one(`${at}.radius`),
      start = (one(`${at}.start`) * Math.PI) / 180;
    put(radius * Math.sin(start), -radius * Math.cos(start), "Radius", p => [
      set(`${at}.radius`, round(Math.hypot(p.x, p.y))),
    ]);
  } else if (array.kind === "scatter" && !array.outlined) {
    const [wide, high] = now(`${at}.area`);
    put(wide / 2, high / 2, "Area", p => [set(`${at}.area`, [round(Math.abs(2 * p.x)), round(Math.abs(2 * p.y))])]);
  } else {
    for (const [name, data] of [
      ["data", array.data],
      ["other_data", array.other],
    ]) {
      for (const [k, { x, y }] of pointsOf(data ?? "").entries()) {
        put(x, y, array.kind === "rails" ? "A point of the rail" : "A point of the path", p => [
          { kind: "set arrangement", array: array.id, [name]: withPoint(data, k, round(p.x), round(p.y)) },
        ]);
      }
    }
  }
  const measure = MEASURES[Math.round(one(`${array.id}.order.measure`))];
  if (spots && !["shuffled", "line", "gauge"].includes(measure)) {
    const [x, y] = now(`${array.id}.order.origin`);
    const wide = spots.right - spots.left,
      high = spots.bottom - spots.top;
    const share = (v, low, span) => {
      const s = span > 0 ? ((v - low) / span) * 100 : 0;
      const near = Math.round(s / 50) * 50;
      return Math.abs(s - near) < 4 && near >= 0 && near <= 100 ? near : Math.round(s);
    };
    for (const [k, [across, down]] of (measure === "points" ? array.points : []).entries()) {
      const seen = screen(plane, spots.left + (wide * across) / 100, spots.top + (high * down) / 100);
      if (!seen) continue;
      found.push({
        at: seen,
        words: "Another point to count from",
        order: true,
        edits: point => {
          const p = plane.from(point),
            moved = [share(p.x, spots.left, wide), share(p.y, spots.top, high)];
          return [{ kind: "change order", array: array.id, points: array.points.with(k, moved) }];
        },
      });
    }
    const at = screen(plane, spots.left + (wide * x) / 100, spots.top + (high * y) / 100),
      pivot = screen(plane, ...(now(`${array.id}.pivot`).length ? now(`${array.id}.pivot`) : [0, 0]));
    // Beside the pivot, where both would lie on one spot.
    const aside = at && pivot && Math.hypot(at[0] - pivot[0], at[1] - pivot[1]) < 16 ? 22 : 0;
    if (at)
      found.push({
        at: [at[0], at[1] - aside],
        words: "Where the order begins",
        order: true,
        edits: point => {
          const p = plane.from({ x: point.x, y: point.y + aside / view.zoom });
          return [set(`${array.id}.order.origin`, [share(p.x, spots.left, wide), share(p.y, spots.top, high)])];
        },
      });
  }
  return found;
}

// Every handle of the chosen layer, and of the array that it is or stands in.
export function handlesOfArray() {
  const array = arrayHere();
  if (!array || hands.pointing) return handlesOfLayer();
  const shape = nodeOf(array.id);
  if (!shape) return handlesOfLayer();
  const inside = choice.layers.at(-1) === array.id;
  const own = inside
    ? ofArrangement(array, planeOf(array.id, shape.matrix), array.kind === "emitter" ? null : placesOf(array))
    : [];
  return [...handlesOfLayer(), ...own, ...array.gauges.filter(({ kind }) => kind === "zone").flatMap(ofZone)];
}

export function handleAt(event) {
  return (
    handlesOfArray()
      .reverse()
      .find(({ at: [x, y] }) => Math.hypot(x - event.offsetX, y - event.offsetY) < 9) ?? null
  );
}

// Where a sweep's front stands now, as a line across the copies.
function drawFront(context, array, gauge, plane, spots) {
  const order = `${gauge.ordered ? gauge.id : array.id}.order`;
  const measure = MEASURES[Math.round(one(`${order}.measure`))];
  const [soft, width, travel] = ["soft", "width", "travel"].map(name => one(`${gauge.id}.${name}`) / 100);
  const band = Math.round(one(`${gauge.id}.way`)) >= 2;
  let u = band ? travel * (1 + width + soft) - (width + soft) / 2 : travel * (1 + soft);
  if (u < 0 || u > 1.0001) return;
  if (one(`${order}.backwards`) >= 0.5) u = 1 - u;
  const [ox, oy] = now(`${order}.origin`).map(v => v / 100);
  const { left, top, right, bottom } = spots,
    wide = right - left,
    high = bottom - top,
    pad = 26 / sizeAt(plane, (left + right) / 2, (top + bottom) / 2);
  const far = (from, span) => Math.max(from, 1 - from) * span;
  context.save();
  context.strokeStyle = colours.sea;
  context.lineWidth = 1.4;
  const lines = [];
  const cx = left + ox * wide,
    cy = top + oy * high;
  if (measure === "columns" || (measure === "number" && array.kind === "row" && wide >= high)) {
    for (const side of [-1, 1]) {
      const x = cx + side * u * far(ox, wide);
      if (x >= left - 1 && x <= right + 1)
        lines.push([
          [x, top - pad],
          [x, bottom + pad],
        ]);
    }
  } else if (measure === "rows" || (measure === "number" && ["row", "grid", "ground"].includes(array.kind))) {
    for (const side of [-1, 1]) {
      const y = cy + side * u * far(oy, high);
      if (y >= top - 1 && y <= bottom + 1)
        lines.push([
          [left - pad, y],
          [right + pad, y],
        ]);
    }
  } else if (measure === "round") {
    const most = Math.hypot(far(ox, wide), far(oy, high)),
      r = u * most;
    lines.push(
      Array.from({ length: 73 }, (_, k) => [
        cx + r * Math.cos((k * Math.PI) / 36),
        cy + r * Math.sin((k * Math.PI) / 36),
      ]),
    );
  } else if (measure === "square" || measure === "diagonal") {
    const share =
      measure === "square"
        ? u * Math.max(Math.max(ox, 1 - ox), Math.max(oy, 1 - oy))
        : u * (Math.max(ox, 1 - ox) + Math.max(oy, 1 - oy));
    const [dx, dy] = [share * wide, share * high];
    lines.push(
      measure === "square"
        ? [
            [cx - dx, cy - dy],
            [cx + dx, cy - dy],
            [cx + dx, cy + dy],
            [cx - dx, cy + dy],
            [cx - dx, cy - dy],
          ]
        : [
            [cx, cy - dy],
            [cx + dx, cy],
            [cx, cy + dy],
            [cx - dx, cy],
            [cx, cy - dy],
          ],
    );
  } else if (measure === "number") {
    // Along a ring or a path: across the way, at the copy that the front has come to.
    const at = u * (spots.xs.length - 1),
      k = Math.min(Math.floor(at), spots.xs.length - 2),
      rest = at - k;
    if (k >= 0) {
      const [x, y] = [
        spots.xs[k] + (spots.xs[k + 1] - spots.xs[k]) * rest,
        spots.ys[k] + (spots.ys[k + 1] - spots.ys[k]) * rest,
      ];
      const [tx, ty] = [spots.xs[k + 1] - spots.xs[k], spots.ys[k + 1] - spots.ys[k]],
        size = Math.hypot(tx, ty) || 1;
      lines.push([
        [x - (ty / size) * pad, y + (tx / size) * pad],
        [x + (ty / size) * pad, y - (tx / size) * pad],
      ]);
    }
  }
  for (const points of lines) {
    context.beginPath();
    trail(context, plane, points);
    context.stroke();
  }
  context.restore();
}

function drawDots(context, answer) {
  const { dots } = answer;
  if (!dots) return;
  const index = frameNow() - answer.start,
    places = stretch(dots.places, index),
    values = stretch(dots.values, index);
  const size = Math.max(2.5, Math.min(7, 90 / Math.sqrt(dots.count + 1)));
  const count = Math.min(row(dots.counts, index)[0], dots.count);
  for (let k = 0; k < count; k += 1) {
    const p = places.start + k * places.step,
      [x, y] = onScreen(places.data[p], places.data[p + 1]);
    context.beginPath();
    context.arc(x, y, size, 0, 7);
    context.fillStyle = seaOf(values.data[values.start + k * values.step]);
    context.fill();
    context.strokeStyle = "rgb(34 48 60 / 0.35)";
    context.lineWidth = 0.8;
    context.stroke();
  }
}

export function drawArray(context, answer) {
  drawDots(context, answer);
  const array = arrayHere();
  const shape = array && !hands.pointing ? nodeOf(array.id) : null;
  if (!shape) return;
  // Those of the layer are drawn with it.
  const own = new Set(handlesOfLayer().map(({ words }) => words));
  const spots = array.kind === "emitter" ? null : placesOf(array),
    plane = planeOf(array.id, shape.matrix);
  if (array.kind === "emitter" && choice.layers.at(-1) === array.id) drawEmitter(context, answer, array, plane, now);
  for (const gauge of array.gauges) {
    if (gauge.kind === "zone") drawZone(context, gauge);
    if (gauge.kind === "sweep" && spots) drawFront(context, array, gauge, plane, spots);
  }
  for (const {
    at: [x, y],
    order,
    zone,
    turn,
    words,
  } of handlesOfArray()) {
    if (own.has(words)) continue;
    context.beginPath();
    if (order) {
      context.moveTo(x, y - 7);
      context.lineTo(x + 7, y);
      context.lineTo(x, y + 7);
      context.lineTo(x - 7, y);
      context.closePath();
    } else if (turn || zone) context.arc(x, y, turn ? 4 : 5, 0, 7);
    else context.rect(x - 4.5, y - 4.5, 9, 9);
    context.fillStyle = colours.sheet;
    context.strokeStyle = zone || order ? colours.sea : colours.brass;
    context.lineWidth = 1.6;
    context.fill();
    context.stroke();
  }
}
