// @ts-check
// The curves of a page: a station's in and out, small ones in the panels, keys that can be dragged.
import { answers } from "../talk/answers.js";
import { choice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { on } from "../talk/events.js";
import { scene } from "../talk/scene.js";
import { channel, row } from "../lib/channels.js";
import { commitEdits, curveAt, curveOf, requestFrames, withScene } from "../talk/server.js";
import { fitCanvas, highOf, wideOf } from "../lib/canvases.js";
import { colours, lanes, line, playhead, reach, runs, strip } from "../lib/charts.js";
import { figure, hexOf, spoken, turningWords } from "../lib/figures.js";
import { drawMap, fanOf, mapped } from "./copies.js";
import { grip } from "../lib/dragging.js";
import { easesOf, menu } from "../talk/menus.js";
import { complainAt } from "../talk/notes.js";
import { all, first } from "../lib/places.js";

const textAt = (texts, frame) => texts.filter(([start]) => start <= frame).at(-1)?.[1] ?? "";

const share = () => Math.floor(clock.frame) / Math.max(1, scene.length - 1);

const scales = new Map();

function drawCurve(canvas, kind) {
  const stations = answers.last?.chosen?.outputs;
  const context = stations && answers.last.chosen.parameter === choice.parameter ? fitCanvas(canvas) : null;
  if (!context) return;
  const box = { x: 4, y: 4, width: wideOf(canvas) - 8, height: highOf(canvas) - 8 };
  context.clearRect(0, 0, wideOf(canvas), highOf(canvas));
  const name = canvas.dataset.curve;
  const k = name === "result" ? stations.length - 1 : Number(name);
  const out = channel(stations[k]);
  const before = name === "0" ? null : channel(stations[name === "result" ? 0 : k - 1]);
  if (!out) return;
  if (mapped() && kind !== "text") {
    drawMap(context, k, kind, box);
    return;
  }
  if (kind === "text") {
    if (name === "result") runs(context, answers.last.chosen.texts ?? [], box, scene.length);
    playhead(context, box, share());
    return;
  }
  if (kind === "colour") {
    const others = fanOf(k);
    // The copy shown on top, the others in thin bands below it.
    const tall = others.length ? 0.4 : before ? 0.72 : 1;
    strip(context, out, { ...box, height: box.height * tall });
    others.forEach((other, n) =>
      strip(context, other, {
        ...box,
        y: box.y + box.height * (0.44 + (0.32 * n) / others.length),
        height: (box.height * 0.32) / others.length,
      }),
    );
    if (before) strip(context, before, { ...box, y: box.y + box.height * 0.8, height: box.height * 0.2 });
    playhead(context, box, share());
    return;
  }
  const others = fanOf(k);
  const compared = [out, ...(before ? [before] : []), ...others];
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
    context.strokeStyle = colours.faded;
    context.lineWidth = 0.7;
    context.globalAlpha = 0.35;
    context.setLineDash([]);
    for (const other of others) line(context, other, c, lane, range);
    context.globalAlpha = 1;
    context.strokeStyle = colours.ink;
    context.lineWidth = c ? 1.2 : 1.5;
    context.setLineDash(c ? [6, 3] : []);
    line(context, out, c, lane, range);
  });
  context.setLineDash([]);
  playhead(context, box, share());
  if (name === "0" && !first(".gauge-settings")) pegs(context, rows);
}

function keysNow() {
  const place = first("[data-chain]");
  return place ? JSON.parse(place.dataset.keys) : [];
}

// A key at the scene's end, where the next round begins, stands at the edge.
const pegAt = (frame, value, { range, box }) => ({
  x: Math.min(box.x + (frame / Math.max(1, scene.length - 1)) * box.width, box.x + box.width + 3),
  y: box.y + box.height - ((value - range[0]) / (range[1] - range[0])) * box.height,
});

function pegPlaces(rows) {
  const found = [];
  for (const [frame, ease, ...values] of keysNow()) {
    values.forEach((value, component) => {
      if (rows[component])
        found.push({ frame, ease, value, values, component, ...pegAt(frame, value, rows[component]) });
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
    context.fillStyle = Math.abs(frame - Math.floor(clock.frame)) < 0.5 ? colours.brass : colours.sheet;
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
  const box = { x: 1, y: 2, width: wideOf(canvas) - 2, height: highOf(canvas) - 4 };
  context.clearRect(0, 0, wideOf(canvas), highOf(canvas));
  if (canvas.dataset.kind === "colour") strip(context, one, box);
  else {
    context.strokeStyle = colours.ink;
    lanes([one], one.width, box, 0.06).forEach(({ range, box: lane }, c) => {
      context.lineWidth = c ? 0.8 : 1.1;
      context.setLineDash(c ? [4, 2] : []);
      line(context, one, c, lane, range);
    });
  }
  playhead(context, box, share());
}

function drawFigures() {
  const frame = Math.floor(clock.frame);
  const chosen = answers.last?.chosen;
  const chain = first("[data-chain]");
  if (chain && chosen?.parameter !== chain.dataset.chain) {
    // The chain is here, its values are on their way: no figures of another's under its name.
    for (const place of all("[data-station-value]")) place.textContent = "…";
    const range = first("[data-range]");
    if (range) range.textContent = "";
  } else if (chain) {
    const shown = chain.dataset.kind !== "colour" && chain.dataset.kind !== "text";
    for (const place of all("[data-station-value]")) {
      const name = place.dataset.stationValue;
      const key = chosen.outputs[name === "result" ? chosen.outputs.length - 1 : Number(name)];
      const values = row(key, frame);
      if (chain.dataset.kind === "text")
        place.textContent = name === "result" ? textAt(chosen.texts ?? [], frame).slice(0, 24) : "";
      else if (shown) place.textContent = spoken(values, chain.dataset.unit);
      else if (chain.dataset.kind === "colour" && values.length) {
        place.textContent = hexOf(values);
      }
    }
    const range = first("[data-range]");
    const result = channel(chosen.outputs.at(-1));
    if (range && result && shown) {
      const reaches = Array.from({ length: result.width }, (_, c) => reach([result], c));
      const words = reaches.map(([low, high]) => `${figure(low)} to ${figure(high)}`);
      range.textContent = reaches.every(([low, high]) => low === high)
        ? "stands still"
        : words.length > 1
          ? `x ${words.join(", y ")}`
          : `from ${words[0]}`;
    }
  }
  const turning = first("[data-turning]");
  if (turning) turning.textContent = turningWords(curveAt(choice.parameter, frame, "turning")[0]);
  for (const place of all("[data-value]")) {
    const values = curveAt(place.dataset.value, frame);
    if (values.length && values.length < 4) place.textContent = spoken(values, place.dataset.unit);
  }
}

export function drawCurves() {
  const chain = first("[data-chain]");
  if (chain) for (const canvas of all("[data-curve]")) drawCurve(canvas, chain.dataset.kind);
  for (const canvas of all("[data-track].mini")) drawMini(canvas);
  drawFigures();
}

on("values", drawCurves);
on("frame", drawCurves);
addEventListener("resize", drawCurves);
document.addEventListener("resized", drawCurves);

// Keys on the first curve.
let dragging = null;

function pegUnder(canvas, event) {
  const scale = scales.get("0");
  if (!scale) return null;
  return (
    pegPlaces(scale.rows)
      .reverse()
      .find(peg => Math.hypot(peg.x - event.offsetX, peg.y - event.offsetY) < 9) ?? null
  );
}

const frameUnder = (event, box) => ((event.offsetX - box.x) / box.width) * (scene.length - 1);

document.addEventListener("pointerdown", event => {
  const canvas = event.target.closest?.('canvas[data-curve="0"]');
  const peg = canvas && !mapped() && event.button === 0 ? pegUnder(canvas, event) : null;
  if (!peg) return;
  const scale = scales.get("0");
  const { range, box: lane } = scale.rows[peg.component];
  dragging = { peg, rows: scale.rows, now: { frame: peg.frame, value: peg.value } };
  let moved = false;
  const edit = () => {
    const values = [...peg.values];
    values[peg.component] = dragging.now.value;
    return {
      kind: "move key",
      parameter: choice.parameter,
      frame: peg.frame,
      to: dragging.now.frame,
      value: values.length > 1 ? values : values[0],
    };
  };
  const move = e => {
    moved ||= Math.hypot(e.offsetX - peg.x, e.offsetY - peg.y) > 3;
    if (!moved) return;
    const frame = frameUnder(e, scale.box);
    dragging.now.frame = Math.min(Math.max(e.altKey ? Number(frame.toFixed(2)) : Math.round(frame), 0), scene.length);
    const raw = range[0] + (1 - (e.offsetY - lane.y) / lane.height) * (range[1] - range[0]);
    const digits = Math.max(0, 2 - Math.floor(Math.log10(range[1] - range[0])));
    dragging.now.value = e.shiftKey ? peg.value : Number(raw.toFixed(Math.min(digits, 6)));
    requestFrames(withScene([edit()]));
  };
  const end = commit => {
    const made = edit();
    dragging = null;
    if (moved && commit) commitEdits([made]).catch(error => complainAt(canvas, error.message));
    else if (moved) requestFrames([]);
  };
  if (!grip(canvas, event, { move, end })) dragging = null;
});

document.addEventListener("dblclick", event => {
  const canvas = event.target.closest?.('canvas[data-curve="0"]');
  if (!canvas || mapped() || document.querySelector(".gauge-settings") || pegUnder(canvas, event)) return;
  // Before its curve has come there is no scale to be pointed at.
  const scale = answers.last?.chosen?.parameter === choice.parameter ? scales.get("0") : undefined;
  if (!scale) return;
  const frame = Math.min(Math.max(Math.round(frameUnder(event, scale.box)), 0), scene.length - 1);
  commitEdits([{ kind: "set key", parameter: choice.parameter, frame }]).catch(error =>
    complainAt(canvas, error.message),
  );
});

document.addEventListener("contextmenu", event => {
  const canvas = event.target.closest?.('canvas[data-curve="0"]');
  const peg = canvas && pegUnder(canvas, event);
  if (!peg) return;
  event.preventDefault();
  keyMenu(canvas, peg.frame, peg.ease, event);
});

export function keyMenu(anchor, frame, ease, event = null) {
  const set = value =>
    commitEdits([{ kind: "set ease", parameter: choice.parameter, frame, ease: value }]).catch(error =>
      complainAt(anchor, error.message),
    );
  menu(
    anchor,
    [
      { title: `Key at frame ${frame}: on to the next` },
      ...easesOf(ease, set),
      { line: true },
      {
        words: "Remove this key",
        danger: true,
        run: () =>
          commitEdits([{ kind: "remove key", parameter: choice.parameter, frame }]).catch(error =>
            complainAt(anchor, error.message),
          ),
      },
    ],
    event,
  );
}

export function keyAtOrBefore(frame) {
  const keys = keysNow();
  return keys.filter(([at]) => at <= frame + 0.5).at(-1) ?? keys[0];
}
