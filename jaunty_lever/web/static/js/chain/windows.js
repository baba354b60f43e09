// @ts-check
// The strip under a curve: active windows, made, moved and faded by dragging.
import { scene } from "../talk/scene.js";
import { grip } from "../lib/dragging.js";
import { requestFrames, commitEdits, onEach, withScene } from "../talk/server.js";
import { fitCanvas } from "../lib/canvases.js";
import { colours } from "../lib/charts.js";
import { complainAt } from "../talk/notes.js";

const PAD = 4;
const spanOf = canvas => canvas.clientWidth - 2 * PAD;
const xOf = (canvas, frame) => PAD + (frame / Math.max(1, scene.length - 1)) * spanOf(canvas);
const frameAt = (canvas, x) =>
  Math.min(Math.max(Math.round(((x - PAD) / spanOf(canvas)) * (scene.length - 1)), 0), scene.length - 1);
const stationOf = canvas => canvas.closest("[data-windows]");
const windowsOf = canvas => JSON.parse(stationOf(canvas).dataset.windows);

export function drawWindows() {
  for (const canvas of document.querySelectorAll("canvas.windows")) draw(canvas, windowsOf(canvas));
}

function draw(canvas, windows) {
  const context = fitCanvas(canvas);
  if (!context) return;
  const { clientWidth: width, clientHeight: height } = canvas;
  context.clearRect(0, 0, width, height);
  context.strokeStyle = colours.rule;
  context.beginPath();
  context.moveTo(PAD, height - 1.5);
  context.lineTo(width - PAD, height - 1.5);
  context.stroke();
  if (!windows.length) {
    context.fillStyle = colours.faded;
    context.font = "10px 'Instrument Sans'";
    context.fillText("always · drag to limit in time", PAD, height - 7);
    return;
  }
  for (const [start, end, fadeIn, fadeOut] of windows) {
    const [a, b, c, d] = [start, start + fadeIn, end - fadeOut, end].map(frame => xOf(canvas, frame));
    context.fillStyle = "rgb(31 111 120 / 0.25)";
    context.strokeStyle = colours.sea;
    context.beginPath();
    context.moveTo(a, height - 2);
    context.lineTo(b, 3);
    context.lineTo(c, 3);
    context.lineTo(d, height - 2);
    context.closePath();
    context.fill();
    context.stroke();
    context.fillStyle = colours.sea;
    for (const x of [b, c]) {
      context.beginPath();
      context.arc(x, 4, 3, 0, 7);
      context.fill();
    }
    context.fillRect(a - 1, 2, 2, height - 4);
    context.fillRect(d - 1, 2, 2, height - 4);
  }
}

// Which part of which window lies under the pointer.
function under(canvas, event) {
  let best = null;
  windowsOf(canvas).forEach(([start, end, fadeIn, fadeOut], number) => {
    const upper = event.offsetY < canvas.clientHeight / 2;
    const parts = [
      ["fade in", start + fadeIn, upper],
      ["fade out", end - fadeOut, upper],
      ["start", start, true],
      ["end", end, true],
    ];
    for (const [part, frame, open] of parts) {
      const away = Math.abs(xOf(canvas, frame) - event.offsetX) + (part.startsWith("fade") ? 0 : upper ? 1.5 : 0);
      if (open && away < 7 && (!best || away < best.away)) best = { number, part, away };
    }
    if (!best && event.offsetX > xOf(canvas, start) && event.offsetX < xOf(canvas, end))
      best = { number, part: "all", away: 7 };
  });
  return best;
}

document.addEventListener("pointerdown", event => {
  const canvas = event.target.closest?.("canvas.windows");
  if (!canvas || event.button !== 0) return;
  let windows = windowsOf(canvas);
  const from = frameAt(canvas, event.offsetX);
  let held = under(canvas, event);
  /** @type {any} */
  const before = held ? [...windows[held.number]] : null;
  let moved = false;
  const move = e => {
    const to = frameAt(canvas, e.offsetX);
    if (!moved && to === from) return;
    moved = true;
    if (!held) {
      windows = [...windows, [from, from, 0, 0]];
      held = { number: windows.length - 1, part: "new" };
    }
    windows[held.number] = changed(held.part, before ?? [from, from, 0, 0], from, to);
    draw(canvas, windows);
    requestFrames(withScene(onEach([edit()])));
  };
  const edit = () => ({
    kind: "set windows",
    modifier: stationOf(canvas).dataset.modifier,
    windows: windows.map(([start, end, fade_in, fade_out]) => ({ start, end, fade_in, fade_out })),
  });
  const end = commit => {
    if (moved && commit) commitEdits(onEach([edit()])).catch(error => complainAt(canvas, error.message));
    else if (moved) {
      drawWindows();
      requestFrames([]);
    }
  };
  grip(canvas, event, { move, end });
});

function changed(part, [start, end, fadeIn, fadeOut], from, to) {
  const most = scene.length - 1;
  if (part === "new") return [Math.min(from, to), Math.max(from, to), 0, 0];
  if (part === "start") {
    const at = Math.min(to, end - 1);
    return [at, end, Math.min(fadeIn, end - at), Math.min(fadeOut, end - at)];
  }
  if (part === "end") {
    const at = Math.max(to, start + 1);
    return [start, at, Math.min(fadeIn, at - start), Math.min(fadeOut, at - start)];
  }
  if (part === "fade in") return [start, end, Math.min(Math.max(to - start, 0), end - start - fadeOut), fadeOut];
  if (part === "fade out") return [start, end, fadeIn, Math.min(Math.max(end - to, 0), end - start - fadeIn)];
  const shift = Math.min(Math.max(to - from, -start), most - end);
  return [start + shift, end + shift, fadeIn, fadeOut];
}

document.addEventListener("dblclick", event => {
  const canvas = event.target.closest?.("canvas.windows");
  const held = canvas && under(canvas, event);
  if (!held) return;
  const windows = windowsOf(canvas).filter((_, k) => k !== held.number);
  commitEdits(
    onEach([
      {
        kind: "set windows",
        modifier: stationOf(canvas).dataset.modifier,
        windows: windows.map(([start, end, fade_in, fade_out]) => ({ start, end, fade_in, fade_out })),
      },
    ]),
  ).catch(error => complainAt(canvas, error.message));
});

addEventListener("resize", drawWindows);
document.addEventListener("resized", drawWindows);
