// @ts-check
// What is dragged and drawn on the stage for a chosen emitter: where its sparks start, which way and how fast they are
// thrown, how far apart, and the way of one of them.
import { clock } from "../talk/clock.js";
import { row } from "../lib/channels.js";
import { colours } from "../lib/charts.js";
import { sizeAt, trail } from "./planes.js";

const REACH = 0.4;
const AROUND = 64;

const turned = degrees => {
  const a = (degrees * Math.PI) / 180;
  return [Math.sin(a), -Math.cos(a)];
};
const degreesOf = (x, y) => (Math.atan2(x, -y) * 180) / Math.PI;

/**
 * Handles of an emitter: `put(x, y, words, edits)` places one in its coordinates, `now` and `set` read and write
 * settings.
 */
export function ofEmitter(array, plane, put, now, set) {
  const at = `${array.id}.arrangement`,
    [x, y] = now(`${at}.origin`);
  const [direction] = now(`${at}.direction`),
    [speed] = now(`${at}.speed`),
    [spread] = now(`${at}.spread`);
  if (x === undefined || speed === undefined) return;
  const size = sizeAt(plane, x, y),
    [dx, dy] = turned(direction),
    far = Math.max(speed * REACH, 30 / size);
  const [sx, sy] = turned(direction + spread),
    around = AROUND / size;
  const whole = v => Math.round(v),
    tenth = v => Math.round(v * 10) / 10;
  // What goes with a layer starts there: its start is set by that layer.
  if (!array.outlined) put(x, y, "Start", p => [set(`${at}.origin`, [tenth(p.x), tenth(p.y)])]);
  put(x + sx * around, y + sy * around, "Spread", p => {
    const off = Math.abs(((degreesOf(p.x - x, p.y - y) - direction + 540) % 360) - 180);
    return [set(`${at}.spread`, whole(off))];
  });
  put(x + dx * far, y + dy * far, "Direction and speed", p => {
    const length = Math.hypot(p.x - x, p.y - y),
      before = direction - degreesOf(dx, dy);
    return [
      set(`${at}.direction`, whole(degreesOf(p.x - x, p.y - y) + before)),
      set(`${at}.speed`, whole(length / REACH)),
    ];
  });
  if (Math.round(now(`${at}.shape`)[0]) === 1 || Math.round(now(`${at}.shape`)[0]) === 2) {
    const [wide, high] = now(`${at}.size`),
      disc = Math.round(now(`${at}.shape`)[0]) === 2;
    put(x + wide / 2, y + (disc ? high / 2 : 0), "Start size", p => [
      set(`${at}.size`, [tenth(Math.abs(2 * (p.x - x))), disc ? tenth(Math.abs(2 * (p.y - y))) : high]),
    ]);
  }
}

// The start, the fan in which sparks are thrown, and the way of one of them.
export function drawEmitter(context, answer, array, plane, now) {
  const at = `${array.id}.arrangement`,
    [x, y] = now(`${at}.origin`);
  const [direction] = now(`${at}.direction`),
    [speed] = now(`${at}.speed`),
    [spread] = now(`${at}.spread`);
  if (x === undefined || speed === undefined) return;
  const line = points => {
    context.beginPath();
    trail(context, plane, points);
    context.stroke();
  };
  const size = sizeAt(plane, x, y),
    around = AROUND / size,
    far = Math.max(speed * REACH, 30 / size);
  context.save();
  context.strokeStyle = colours.brass;
  context.lineWidth = 1.2;
  if (!array.outlined) {
    const shape = Math.round(now(`${at}.shape`)[0]),
      [wide, high] = now(`${at}.size`);
    if (shape === 1)
      line([
        [x - wide / 2, y],
        [x + wide / 2, y],
      ]);
    if (shape === 2)
      line(
        Array.from({ length: 49 }, (_, k) => [
          x + (wide / 2) * Math.cos((k * Math.PI) / 24),
          y + (high / 2) * Math.sin((k * Math.PI) / 24),
        ]),
      );
    const [dx, dy] = turned(direction);
    line([
      [x, y],
      [x + dx * far, y + dy * far],
    ]);
    context.globalAlpha = 0.55;
    line([
      ...Array.from({ length: 25 }, (_, k) => {
        const [a, b] = turned(direction - spread + (k * spread) / 12);
        return [x + a * around, y + b * around];
      }),
    ]);
  }
  const { flight } = answer;
  if (flight?.array === array.id) {
    const points = row(flight.points, Math.floor(clock.frame) - answer.start);
    context.globalAlpha = 0.9;
    context.strokeStyle = colours.sea;
    line(Array.from({ length: points.length / 2 }, (_, k) => [points[2 * k], points[2 * k + 1]]));
  }
  context.restore();
}
