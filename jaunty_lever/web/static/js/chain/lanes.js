// @ts-check
// The sheet of curves: a lane for each value, all on one stretch of time.
import { setAnswers } from "../talk/answers.js";
import { choice, setChoice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { emit } from "../talk/events.js";
import { scene } from "../talk/scene.js";
import { curveOf } from "../talk/server.js";
import { fitCanvas } from "../lib/canvases.js";
import { colours } from "../lib/charts.js";
import { figure, unitBehind, withUnit } from "../lib/figures.js";
import { css } from "../lib/colour.js";
import { drawRuler as drawBar, frameStep, shareScale } from "../stage/time.js";

export const NAMES = 210;
// Left of the curves is room for the figures of their scales, so that no line and no playhead runs through them.
const SCALE = 52,
  PAD = 14,
  LEAST = 92,
  MOST = 900,
  ROOM = 12;

export const sheet = document.getElementById("lanes");
export const canvas = document.getElementById("lane-canvas");
const body = document.getElementById("lane-body");
const names = document.getElementById("lane-names");
const ruler = document.getElementById("lane-ruler");

// To the end of the last frame, where a key may stand and the next round begins.
export const view = { from: 0, to: Math.max(1, scene.length) };
export let lanes = [];

const width = () => canvas.clientWidth - NAMES - SCALE - PAD;
export const xOf = frame => NAMES + SCALE + ((frame - view.from) / (view.to - view.from)) * width();
export const frameAt = x => view.from + ((x - NAMES - SCALE) / width()) * (view.to - view.from);
// The time bar has its ruler under the sheet: the same frame stands at the same place in both.
const bar = document.getElementById("ruler");
const shift = () => bar.getBoundingClientRect().left - canvas.getBoundingClientRect().left;
shareScale({
  xOf: frame => xOf(frame) - shift(),
  frameAt: x => Math.round(frameAt(x + shift())),
  each: () => (view.to - view.from) / Math.max(1, width()),
  from: () => Math.ceil(view.from),
  to: () => Math.floor(view.to),
});
// Each component has a band of its own in its lane, all with the same number of pixels to a unit.
const band = (lane, c) => {
  const count = lane.lows.length,
    height = (lane.height - 2 * ROOM - (count - 1) * 6) / count;
  return { low: lane.lows[c] ?? 0, top: lane.y - sheet.scrollTop + ROOM + c * (height + 6), height };
};
export const yOf = (lane, value, c = 0) => {
  const { low, top, height } = band(lane, c);
  return top + (1 - (value - low) / lane.span) * height;
};
export const valueAt = (lane, y, c = 0) => {
  const { low, top, height } = band(lane, c);
  return low + (1 - (y - top) / height) * lane.span;
};
export const laneAt = y =>
  lanes.find(lane => y + sheet.scrollTop >= lane.y && y + sheet.scrollTop < lane.y + lane.height);
export const focused = () => lanes.find(lane => lane.parameter === choice.parameter) ?? lanes[0];
export const plain = lane => lane.kind !== "colour";

// Whether a lane is shown as a map of copies, and how that is drawn; whoever shows maps puts itself here.
export const maps = { is: _lane => false, draw: (_context, _lane) => {} };

export function fitTime() {
  view.from = 0;
  view.to = Math.max(1, scene.length);
}

export function zoomTime(frame, factor) {
  const span = Math.min(Math.max((view.to - view.from) * factor, 4), Math.max(4, scene.length));
  const share = (frame - view.from) / (view.to - view.from);
  moveTime(frame - share * span, span);
}

export function moveTime(from, span = view.to - view.from) {
  view.from = Math.min(Math.max(from, 0), Math.max(0, scene.length - span));
  view.to = view.from + span;
}

// Reads what the page was given, and lays the lanes out.
export function readLanes() {
  const given = JSON.parse(document.getElementById("lane-data").textContent);
  const known = new Map(lanes.map(lane => [lane.parameter, lane]));
  lanes = given.map(lane => ({
    ...lane,
    lows: known.get(lane.parameter)?.lows ?? [0],
    span: known.get(lane.parameter)?.span ?? 1,
    keys: lane.keys.map(([frame, ease, values, value]) => ({ frame, ease, values, value })),
  }));
  const asked = lanes.map(({ parameter }) => parameter);
  setAnswers({
    wanted: { result: asked, source: asked, awake: lanes.filter(({ idle }) => idle).map(({ parameter }) => parameter) },
  });
  layOut();
}

export function layOut() {
  const room = sheet.clientHeight;
  const even = Math.min(Math.max(room / Math.max(lanes.length, 1), LEAST), MOST);
  const crowded = lanes.length * LEAST > room;
  let y = 0;
  for (const lane of lanes) {
    lane.y = y;
    lane.height = maps.is(lane)
      ? Math.max(room, LEAST)
      : crowded && lane === focused()
        ? Math.min(room * 0.6, 260)
        : even;
    y += lane.height;
  }
  body.style.height = `${Math.max(y, room)}px`;
  names.replaceChildren(...lanes.map(nameOf));
  sheet.classList.toggle("is-empty", !lanes.length);
}

function nameOf(lane) {
  const place = document.createElement("button");
  place.type = "button";
  place.className = `lane-name${lane === focused() ? " is-chosen" : ""}`;
  place.dataset.lane = lane.parameter;
  place.style.top = `${lane.y}px`;
  place.style.height = `${lane.height}px`;
  const [name, owner, now] = ["b", "span", "output"].map(tag => document.createElement(tag));
  name.textContent = lane.name;
  owner.textContent = lane.owner;
  now.dataset.laneNow = lane.parameter;
  place.title = `${lane.label}: click to give it room and see its speed`;
  place.append(name, ...(lane.owner ? [owner] : []), now);
  return place;
}

const curve = (lane, what = "result") => curveOf(lane.parameter, what);

function reach(lane) {
  const count = curve(lane)?.width ?? 0;
  if (!count) return;
  const ranges = Array.from({ length: count }, (_, c) => {
    let low = Infinity,
      high = -Infinity;
    const see = v => {
      if (v < low) low = v;
      if (v > high) high = v;
    };
    for (const way of ["result", "source", "awake"]) {
      const one = curve(lane, way);
      for (let k = c; one && k < one.data.length; k += one.width) see(one.data[k]);
    }
    for (const key of lane.keys) see(key.values[c]);
    return [low, high];
  });
  const most = Math.max(...ranges.map(([low, high]) => high - low));
  lane.span = most * 1.16 || Math.max(Math.abs(ranges[0][1]) * 0.2, 1);
  lane.lows = ranges.map(([low, high]) => (low + high - lane.span) / 2);
}

export function measure() {
  for (const lane of lanes) reach(lane);
}

function line(context, lane, one, component) {
  const first = Math.max(0, Math.floor(view.from)),
    last = Math.min(scene.length - 1, Math.ceil(view.to));
  context.beginPath();
  if (one.rows === 1) {
    const y = yOf(lane, one.data[component], component);
    context.moveTo(xOf(view.from), y);
    context.lineTo(xOf(view.to), y);
  } else {
    for (let k = first; k <= Math.min(last, one.rows - 1); k++) {
      const x = xOf(k),
        y = yOf(lane, one.data[k * one.width + component], component);
      if (lane.stepped && k > first) context.lineTo(x, yOf(lane, one.data[(k - 1) * one.width + component], component));
      context.lineTo(x, y);
    }
  }
  context.stroke();
}

const nice = (span, count) => {
  const raw = span / count,
    power = 10 ** Math.floor(Math.log10(raw));
  return [1, 2, 5, 10].find(step => step * power >= raw) * power;
};

function levels(context, lane) {
  const step = nice(lane.span, Math.max(1.5, lane.height / lane.lows.length / 36));
  context.font = "10px 'Martian Mono Variable', 'Martian Mono'";
  context.textAlign = "left";
  context.lineWidth = 1;
  lane.lows.forEach((low, c) => {
    for (let v = Math.ceil(low / step) * step; v <= low + lane.span; v += step) {
      const y = Math.round(yOf(lane, v, c)) + 0.5;
      context.strokeStyle = Math.abs(v) < step / 1e6 ? "#BDB39C" : "#EFEAdd";
      context.beginPath();
      context.moveTo(NAMES + SCALE - 4, y);
      context.lineTo(canvas.clientWidth, y);
      context.stroke();
      context.fillStyle = colours.faded;
      context.textAlign = "right";
      const { top, height } = band(lane, c);
      if (y > top + 4 && y < top + height + 4)
        context.fillText(figure(v, step < 1 ? 2 : 0), NAMES + SCALE - 8, y + 3.5);
    }
    if (lane.lows.length > 1) nameBand(context, lane, c);
  });
  context.textAlign = "left";
}

// Which of a vector's components a band shows, and where one band ends and the next begins.
function nameBand(context, lane, c) {
  const { top } = band(lane, c);
  context.font = "600 11px 'Instrument Sans Variable', 'Instrument Sans'";
  context.textAlign = "left";
  context.fillStyle = colours.ink;
  context.fillText("xyz"[c] ?? "", NAMES + 6, top + 10);
  context.strokeStyle = colours.ink;
  context.lineWidth = 1.4;
  context.setLineDash(DASH[c]);
  context.beginPath();
  context.moveTo(NAMES + 6, top + 16);
  context.lineTo(NAMES + 22, top + 16);
  context.stroke();
  context.setLineDash([]);
  if (c) {
    context.strokeStyle = colours.rule;
    context.lineWidth = 1;
    context.beginPath();
    context.moveTo(NAMES, Math.round(top - 3) + 0.5);
    context.lineTo(canvas.clientWidth, Math.round(top - 3) + 0.5);
    context.stroke();
  }
  context.font = "10px 'Martian Mono Variable', 'Martian Mono'";
}

const DASH = [[], [7, 4], [2, 3], [9, 3, 2, 3]];

function drawLane(context, lane) {
  if (maps.is(lane)) {
    maps.draw(context, lane);
    return;
  }
  const result = curve(lane),
    source = curve(lane, "source"),
    idle = curve(lane, "awake");
  if (!plain(lane)) {
    for (const { one, top, height } of [
      { one: result, top: 0.3, height: 0.4 },
      { one: source, top: 0.74, height: 0.1 },
    ]) {
      for (let x = NAMES + SCALE; one && x < canvas.clientWidth - PAD; x++) {
        const k = one.rows === 1 ? 0 : Math.min(Math.max(Math.round(frameAt(x)), 0), one.rows - 1);
        context.fillStyle = css(one.data.subarray(k * 4, k * 4 + 4));
        context.fillRect(x, lane.y - sheet.scrollTop + lane.height * top, 1.5, lane.height * height);
      }
    }
    return;
  }
  levels(context, lane);
  const strokes = [
    { one: idle, colour: "#A93C28", thick: 1, dash: [1, 3] },
    { one: lane.rigged ? source : null, colour: colours.brass, thick: 1 },
    { one: result, colour: colours.ink, thick: 1.7 },
  ];
  for (const { one, colour, thick, dash } of strokes) {
    for (let c = 0; one && c < one.width; c++) {
      context.strokeStyle = colour;
      context.lineWidth = thick;
      context.setLineDash(dash ?? DASH[c]);
      line(context, lane, one, c);
    }
  }
  context.setLineDash([]);
}

// `over` draws keys and handles; it comes from whoever handles them.
export function drawLanes(over) {
  canvas.style.height = `${sheet.clientHeight}px`;
  const context = fitCanvas(canvas);
  if (!context) return;
  const { clientWidth, clientHeight } = canvas;
  context.clearRect(0, 0, clientWidth, clientHeight);
  context.save();
  context.beginPath();
  context.rect(NAMES, 0, clientWidth - NAMES, clientHeight);
  context.clip();
  for (const lane of lanes) {
    const y = lane.y - sheet.scrollTop;
    if (y > clientHeight || y + lane.height < 0) continue;
    context.save();
    context.beginPath();
    context.rect(NAMES, y, clientWidth, lane.height);
    context.clip();
    context.fillStyle = lane === focused() ? "#FFFFFF" : "#FFFDF8";
    context.fillRect(NAMES, y, clientWidth, lane.height);
    drawLane(context, lane);
    context.restore();
    context.strokeStyle = colours.rule;
    context.lineWidth = 1;
    context.beginPath();
    context.moveTo(NAMES, Math.round(y + lane.height) - 0.5);
    context.lineTo(clientWidth, Math.round(y + lane.height) - 0.5);
    context.stroke();
  }
  over(context);
  playhead(context, clientHeight);
  context.restore();
  drawRuler();
  drawBar();
  for (const place of names.querySelectorAll("[data-lane-now]")) {
    const lane = lanes.find(one => one.parameter === place.dataset.laneNow);
    const one = lane && curve(lane);
    if (!one || !plain(lane)) continue;
    const k = one.rows === 1 ? 0 : Math.min(Math.floor(clock.frame), one.rows - 1);
    place.textContent = withUnit(one.data.subarray(k * one.width, (k + 1) * one.width), lane.unit);
  }
}

export function playhead(context, height, top = 0) {
  const x = Math.round(xOf(Math.floor(clock.frame))) + 0.5;
  context.strokeStyle = colours.brass;
  context.lineWidth = 1;
  context.setLineDash([]);
  context.beginPath();
  context.moveTo(x, top);
  context.lineTo(x, height);
  context.stroke();
}

function drawRuler() {
  const context = fitCanvas(ruler);
  if (!context) return;
  const { clientWidth, clientHeight } = ruler;
  context.clearRect(0, 0, clientWidth, clientHeight);
  const each = (view.to - view.from) / Math.max(1, width());
  const label = frameStep(each * 56),
    tick = frameStep(each * 7);
  context.font = "10px 'Martian Mono Variable', 'Martian Mono'";
  context.textAlign = "center";
  context.fillStyle = colours.faded;
  context.strokeStyle = colours.rule;
  context.beginPath();
  for (let f = Math.ceil(view.from / tick) * tick; f <= view.to; f += tick) {
    const x = Math.round(xOf(f)) + 0.5;
    context.moveTo(x, clientHeight);
    context.lineTo(x, clientHeight - (f % label ? 4 : 8));
    if (f % label === 0) context.fillText(String(f), x, 11);
  }
  context.stroke();
  const x = xOf(Math.floor(clock.frame));
  if (x < NAMES) return;
  context.fillStyle = colours.brass;
  context.beginPath();
  context.roundRect(x - 4, clientHeight - 10, 8, 10, 3);
  context.fill();
}

export function chooseLane(parameter) {
  if (choice.parameter === parameter) return;
  setChoice({ parameter: parameter });
  layOut();
  emit("lane");
}

// The speed of the chosen value, in units a second, beneath the sheet.
export function drawSpeed(place, now, of) {
  const context = fitCanvas(place);
  const lane = focused();
  if (!context) return;
  context.clearRect(0, 0, place.clientWidth, place.clientHeight);
  const one = lane && plain(lane) ? curve(lane) : null;
  of.textContent = lane ? `of ${lane.label}` : "of the chosen value";
  now.textContent = "";
  if (!one) return;
  const speed = (k, c) => {
    const a = Math.max(k - 1, 0),
      b = Math.min(k + 1, one.rows - 1);
    return b > a ? ((one.data[b * one.width + c] - one.data[a * one.width + c]) / (b - a)) * scene.fps : 0;
  };
  let most = 1e-6;
  for (let k = 0; k < one.rows; k++) for (let c = 0; c < one.width; c++) most = Math.max(most, Math.abs(speed(k, c)));
  // Below its heading, so that no line runs through the words.
  const head = 24,
    middle = head + (place.clientHeight - head) / 2,
    gain = (place.clientHeight - head - 12) / 2 / most;
  context.strokeStyle = colours.rule;
  context.beginPath();
  context.moveTo(NAMES + SCALE - 4, Math.round(middle) + 0.5);
  context.lineTo(place.clientWidth, Math.round(middle) + 0.5);
  context.stroke();
  context.strokeStyle = colours.sea;
  context.lineWidth = 1.4;
  for (let c = 0; c < one.width; c++) {
    context.setLineDash(DASH[c]);
    context.beginPath();
    for (let k = Math.max(0, Math.floor(view.from)); k <= Math.min(Math.ceil(view.to), scene.length - 1); k++)
      context.lineTo(xOf(k), middle - (one.rows > 1 ? speed(k, c) : 0) * gain);
    context.stroke();
  }
  context.clearRect(0, 0, NAMES, place.clientHeight);
  context.font = "10px 'Martian Mono Variable', 'Martian Mono'";
  context.fillStyle = colours.faded;
  context.textAlign = "right";
  if (most > 1e-5) {
    const words = figure(most, most < 10 ? 2 : 0);
    context.fillText(words, NAMES + SCALE - 8, middle - gain * most + 6);
    context.fillText(`−${words}`, NAMES + SCALE - 8, middle + gain * most + 2);
  }
  playhead(context, place.clientHeight, head);
  const k = Math.min(Math.floor(clock.frame), one.rows - 1);
  const unit = unitBehind(lane.unit);
  const speeds = Array.from({ length: one.width }, (_, c) => figure(one.rows > 1 ? speed(k, c) : 0, 1));
  now.textContent = `${speeds.join(", ")}${unit} a second`;
}
