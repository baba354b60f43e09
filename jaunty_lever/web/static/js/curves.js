// Curves: a station's in and out, small ones in the panels, keys that can be dragged.
import { bench, on } from "./state.js";
import { channel, commitEdits, curveAt, curveOf, requestFrames, row, withScene } from "./server.js";
import { css } from "./display/paint.js";
import { grip } from "./dragging.js";
import { menu } from "./menus.js";
import { complainAt } from "./notes.js";

export const colours = {
  ink: "#22303C", faded: "#5F6B74", rule: "#D9D2C3", brass: "#8F5F12", sea: "#1F6F78", sheet: "#FFFDF8", brick: "#A93C28",
};

// Sizes a canvas to its box in real pixels and gives its context in CSS pixels.
export function fitCanvas(canvas) {
  const ratio = devicePixelRatio || 1;
  const width = canvas.clientWidth, height = canvas.clientHeight;
  if (!width || !height) return null;
  if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
  }
  const context = canvas.getContext("2d");
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  return context;
}

function reach(keys, component) {
  let low = Infinity, high = -Infinity;
  for (const key of keys) {
    const one = channel(key);
    if (!one) continue;
    for (let k = component; k < one.data.length; k += one.width) {
      const v = one.data[k];
      if (v < low) low = v;
      if (v > high) high = v;
    }
  }
  return low > high ? [0, 1] : [low, high];
}

// A lane for each component, one under the other, all with the same number of pixels to a unit.
function lanes(keys, count, box, pad = 0.12) {
  const ranges = Array.from({ length: count }, (_, component) => reach(keys, component));
  const most = Math.max(...ranges.map(([low, high]) => high - low));
  const height = box.height / count;
  return ranges.map(([low, high], component) => {
    const span = most * (1 + 2 * pad) || Math.max(Math.abs(high) * 0.2, 1);
    const middle = (low + high) / 2;
    return { range: [middle - span / 2, middle + span / 2], box: { ...box, y: box.y + component * height, height: height - (count > 1 ? 2 : 0) } };
  });
}

// One component as a line: where frames are denser than pixels, from the lowest to the highest in each pixel.
function line(context, one, component, box, [low, high]) {
  const { x, y, width, height } = box;
  const at = (v) => y + height - ((v - low) / (high - low)) * height;
  context.beginPath();
  if (one.rows === 1) {
    context.moveTo(x, at(one.data[component]));
    context.lineTo(x + width, at(one.data[component]));
  } else if (one.rows <= width * 2) {
    for (let k = 0; k < one.rows; k++) context.lineTo(x + (k / (one.rows - 1)) * width, at(one.data[k * one.width + component]));
  } else {
    for (let px = 0; px < width; px++) {
      let least = Infinity, most = -Infinity;
      const last = Math.ceil(((px + 1) / width) * one.rows);
      for (let k = Math.floor((px / width) * one.rows); k < last; k++) {
        const v = one.data[k * one.width + component];
        if (v < least) least = v;
        if (v > most) most = v;
      }
      context.lineTo(x + px, at(least));
      context.lineTo(x + px, at(most));
    }
  }
  context.stroke();
}

function strip(context, one, { x, y, width, height }) {
  for (let px = 0; px < width; px++) {
    const k = Math.min(one.rows - 1, Math.floor((px / width) * one.rows));
    context.fillStyle = css(one.data.subarray(k * 4, k * 4 + 4));
    context.fillRect(x + px, y, 1.5, height);
  }
}

// A text over time: each stretch with what stands there.
function runs(context, texts, { x, y, width, height }) {
  const at = (frame) => x + (frame / Math.max(1, bench.length - 1)) * width;
  context.font = "11px 'Instrument Sans Variable', 'Instrument Sans'";
  texts.forEach(([frame, text], k) => {
    const left = at(frame), right = at(texts[k + 1]?.[0] ?? bench.length - 1);
    context.fillStyle = k % 2 ? "#EFE9DB" : "#F7F3E9";
    context.fillRect(left, y + 14, right - left, height - 14);
    if (right - left < 9) return;
    context.save();
    context.beginPath();
    context.rect(left, y, right - left - 1, height);
    context.clip();
    context.fillStyle = colours.ink;
    context.fillText(text.split("\n")[0], left + 2, y + 18 + height / 3);
    context.restore();
  });
}

const textAt = (texts, frame) => texts.filter(([start]) => start <= frame).at(-1)?.[1] ?? "";

function playhead(context, box) {
  const x = Math.round(box.x + (Math.floor(bench.frame) / Math.max(1, bench.length - 1)) * box.width) + 0.5;
  context.strokeStyle = colours.brass;
  context.setLineDash([]);
  context.lineWidth = 1;
  context.beginPath();
  context.moveTo(x, 0);
  context.lineTo(x, box.y * 2 + box.height);
  context.stroke();
}

const scales = new Map();

function drawCurve(canvas, kind) {
  const stations = bench.answer?.chosen?.outputs;
  const context = stations && bench.answer.chosen.parameter === bench.parameter ? fitCanvas(canvas) : null;
  if (!context) return;
  const box = { x: 4, y: 4, width: canvas.clientWidth - 8, height: canvas.clientHeight - 8 };
  context.clearRect(0, 0, canvas.clientWidth, canvas.clientHeight);
  const name = canvas.dataset.curve;
  const k = name === "result" ? stations.length - 1 : Number(name);
  const out = channel(stations[k]);
  const before = name === "0" ? null : channel(stations[name === "result" ? 0 : k - 1]);
  if (!out) return;
  if (kind === "text") {
    if (name === "result") runs(context, bench.answer.chosen.texts ?? [], box);
    playhead(context, box);
    return;
  }
  if (kind === "colour") {
    strip(context, out, { ...box, height: before ? box.height * 0.72 : box.height });
    if (before) strip(context, before, { ...box, y: box.y + box.height * 0.8, height: box.height * 0.2 });
    playhead(context, box);
    return;
  }
  const compared = before ? [stations[k], stations[name === "result" ? 0 : k - 1]] : [stations[k]];
  const rows = name === "0" && dragging ? dragging.rows : lanes(compared, out.width, box);
  scales.set(name, { rows, box });
  rows.forEach(({ range, box: lane }, c) => {
    if (range[0] < 0 && range[1] > 0) {
      const zero = Math.round(lane.y + lane.height + (range[0] / (range[1] - range[0])) * lane.height) + 0.5;
      context.strokeStyle = colours.rule;
      context.lineWidth = 1;
      context.setLineDash([]);
      context.beginPath();
      context.moveTo(lane.x, zero);
      context.lineTo(lane.x + lane.width, zero);
      context.stroke();
    }
    if (before) {
      context.strokeStyle = colours.faded;
      context.lineWidth = 0.8;
      context.setLineDash([2, 3]);
      line(context, before, c, lane, range);
    }
    context.strokeStyle = colours.ink;
    context.lineWidth = c ? 1.2 : 1.5;
    context.setLineDash(c ? [6, 3] : []);
    line(context, out, c, lane, range);
  });
  context.setLineDash([]);
  playhead(context, box);
  if (name === "0") pegs(context, rows);
}

function keysNow() {
  const place = document.querySelector("[data-chain]");
  return place ? JSON.parse(place.dataset.keys) : [];
}

const pegAt = (frame, value, { range, box }) => ({
  x: box.x + (frame / Math.max(1, bench.length - 1)) * box.width,
  y: box.y + box.height - ((value - range[0]) / (range[1] - range[0])) * box.height,
});

function pegPlaces(rows) {
  const found = [];
  for (const [frame, ease, ...values] of keysNow()) {
    values.forEach((value, component) => {
      if (rows[component]) found.push({ frame, ease, value, values, component, ...pegAt(frame, value, rows[component]) });
    });
  }
  return found;
}

function pegs(context, rows) {
  for (const peg of pegPlaces(rows)) {
    const held = dragging && dragging.peg.frame === peg.frame;
    const frame = held ? dragging.now.frame : peg.frame;
    const value = held && dragging.peg.component === peg.component ? dragging.now.value : peg.value;
    const { x, y } = pegAt(frame, value, rows[peg.component]);
    context.beginPath();
    context.arc(x, y, 4, 0, 7);
    context.fillStyle = Math.abs(frame - Math.floor(bench.frame)) < 0.5 ? colours.brass : colours.sheet;
    context.strokeStyle = colours.brass;
    context.lineWidth = 1.6;
    context.fill();
    context.stroke();
  }
}

function drawMini(canvas) {
  const one = curveOf(canvas.dataset.track);
  const context = one ? fitCanvas(canvas) : null;
  if (!context) return;
  const box = { x: 1, y: 2, width: canvas.clientWidth - 2, height: canvas.clientHeight - 4 };
  context.clearRect(0, 0, canvas.clientWidth, canvas.clientHeight);
  if (canvas.dataset.kind === "colour") strip(context, one, box);
  else {
    context.strokeStyle = colours.ink;
    lanes([bench.answer.curves.result[canvas.dataset.track]], one.width, box, 0.06).forEach(({ range, box: lane }, c) => {
      context.lineWidth = c ? 0.8 : 1.1;
      context.setLineDash(c ? [4, 2] : []);
      line(context, one, c, lane, range);
    });
  }
  playhead(context, box);
}

export function figure(value, digits = 2) {
  const text = digits ? value.toFixed(digits).replace(/\.?0+$/, "") : value.toFixed(0);
  return (text === "-0" ? "0" : text).replace("-", "−");
}

const spoken = (values, unit) => [...values].map((v) => figure(v, Math.abs(v) < 10 ? 2 : 1)).join(", ") + (unit === "°" ? "°" : unit ? ` ${unit === "Hz" ? "/s" : unit}` : "");

// Such as "turns 12.5 times a minute, backwards"; nothing when it stands still.
export function turningWords(speed) {
  if (!Number.isFinite(speed) || Math.abs(speed) < 0.005) return "";
  return `${figure(Math.abs(speed), Math.abs(speed) < 10 ? 2 : 1)} turns a minute${speed < 0 ? ", backwards" : ""}`;
}

function drawFigures() {
  const frame = Math.floor(bench.frame);
  const chosen = bench.answer?.chosen;
  const chain = document.querySelector("[data-chain]");
  if (chosen && chain) {
    const shown = chain.dataset.kind !== "colour" && chain.dataset.kind !== "text";
    for (const place of document.querySelectorAll("[data-station-value]")) {
      const name = place.dataset.stationValue;
      const key = chosen.outputs[name === "result" ? chosen.outputs.length - 1 : Number(name)];
      const values = row(key, frame);
      if (chain.dataset.kind === "text") place.textContent = name === "result" ? textAt(chosen.texts ?? [], frame).slice(0, 24) : "";
      else if (shown) place.textContent = spoken(values, chain.dataset.unit);
      else if (chain.dataset.kind === "colour" && values.length) {
        place.textContent = "#" + [...values].slice(0, 3).map((v) => Math.round(Math.min(Math.max(v, 0), 1) * 255).toString(16).padStart(2, "0")).join("");
      }
    }
    const range = document.querySelector("[data-range]");
    const result = channel(chosen.outputs.at(-1));
    if (range && result && shown) {
      const reaches = Array.from({ length: result.width }, (_, c) => reach([chosen.outputs.at(-1)], c));
      const words = reaches.map(([low, high]) => `${figure(low)} to ${figure(high)}`);
      range.textContent = reaches.every(([low, high]) => low === high) ? "stands still" : words.length > 1 ? `x ${words.join(", y ")}` : `from ${words[0]}`;
    }
  }
  const turning = document.querySelector("[data-turning]");
  if (turning) turning.textContent = turningWords(curveAt(bench.parameter, frame, "turning")[0]);
  for (const place of document.querySelectorAll("[data-value]")) {
    const values = curveAt(place.dataset.value, frame);
    if (values.length && values.length < 4) place.textContent = spoken(values, place.dataset.unit);
  }
}

export function drawCurves() {
  const chain = document.querySelector("[data-chain]");
  if (chain) for (const canvas of document.querySelectorAll("[data-curve]")) drawCurve(canvas, chain.dataset.kind);
  for (const canvas of document.querySelectorAll("[data-track].mini")) drawMini(canvas);
  drawFigures();
}

on("values", drawCurves);
on("frame", drawCurves);
addEventListener("resize", drawCurves);

// Keys on the first curve.
let dragging = null;

function pegUnder(canvas, event) {
  const scale = scales.get("0");
  if (!scale) return null;
  return pegPlaces(scale.rows).reverse().find((peg) => Math.hypot(peg.x - event.offsetX, peg.y - event.offsetY) < 9) ?? null;
}

const frameUnder = (event, box) => ((event.offsetX - box.x) / box.width) * (bench.length - 1);

document.addEventListener("pointerdown", (event) => {
  const canvas = event.target.closest?.('canvas[data-curve="0"]');
  const peg = canvas && event.button === 0 ? pegUnder(canvas, event) : null;
  if (!peg) return;
  const scale = scales.get("0");
  const { range, box: lane } = scale.rows[peg.component];
  dragging = { peg, rows: scale.rows, now: { frame: peg.frame, value: peg.value } };
  let moved = false;
  const edit = () => {
    const values = [...peg.values];
    values[peg.component] = dragging.now.value;
    return { kind: "move key", parameter: bench.parameter, frame: peg.frame, to: dragging.now.frame, value: values.length > 1 ? values : values[0] };
  };
  const move = (e) => {
    moved ||= Math.hypot(e.offsetX - peg.x, e.offsetY - peg.y) > 3;
    if (!moved) return;
    const frame = frameUnder(e, scale.box);
    dragging.now.frame = Math.min(Math.max(e.altKey ? Number(frame.toFixed(2)) : Math.round(frame), 0), bench.length - 1);
    const raw = range[0] + (1 - (e.offsetY - lane.y) / lane.height) * (range[1] - range[0]);
    const digits = Math.max(0, 2 - Math.floor(Math.log10(range[1] - range[0])));
    dragging.now.value = e.shiftKey ? peg.value : Number(raw.toFixed(Math.min(digits, 6)));
    requestFrames(withScene([edit()]));
  };
  const end = (commit) => {
    const made = edit();
    dragging = null;
    if (moved && commit) commitEdits([made]).catch((error) => complainAt(canvas, error.message));
    else if (moved) requestFrames([]);
  };
  if (!grip(canvas, event, { move, end })) dragging = null;
});

document.addEventListener("dblclick", (event) => {
  const canvas = event.target.closest?.('canvas[data-curve="0"]');
  if (!canvas || pegUnder(canvas, event)) return;
  const frame = Math.min(Math.max(Math.round(frameUnder(event, scales.get("0").box)), 0), bench.length - 1);
  commitEdits([{ kind: "set key", parameter: bench.parameter, frame }]).catch((error) => complainAt(canvas, error.message));
});

document.addEventListener("contextmenu", (event) => {
  const canvas = event.target.closest?.('canvas[data-curve="0"]');
  const peg = canvas && pegUnder(canvas, event);
  if (!peg) return;
  event.preventDefault();
  keyMenu(canvas, peg.frame, peg.ease, event);
});

const EASES = ["hold", "linear", "ease", "ease-in", "ease-out", "ease-in-out"];

export function keyMenu(anchor, frame, ease, event = null) {
  const set = (value) => commitEdits([{ kind: "set ease", parameter: bench.parameter, frame, ease: value }]).catch((error) => complainAt(anchor, error.message));
  menu(anchor, [
    { title: `Key at frame ${frame}: on to the next` },
    ...EASES.map((name) => ({ words: name, ticked: name === ease, run: () => set(name) })),
    { field: "cubic-bezier", value: Array.isArray(ease) ? ease.join(", ") : "0.6, 0, 0.2, 1", run: (text) => set(text.split(/[,\s]+/).filter(Boolean).map(Number)) },
    { line: true },
    { words: "Remove this key", danger: true, run: () => commitEdits([{ kind: "remove key", parameter: bench.parameter, frame }]).catch((error) => complainAt(anchor, error.message)) },
  ], event);
}

export function keyAtOrBefore(frame) {
  const keys = keysNow();
  return keys.filter(([at]) => at <= frame + 0.5).at(-1) ?? keys[0];
}
