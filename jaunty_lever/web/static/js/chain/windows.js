// @ts-check
// The strip under a curve: active windows, made, moved and faded by dragging, by keys, or typed in a sheet.
import { scene } from "../talk/scene.js";
import { clock } from "../talk/clock.js";
import { grip } from "../lib/dragging.js";
import { figure } from "../lib/figures.js";
import { nudging } from "../lib/nudging.js";
import { requestFrames, commitEdits, onEach, withScene } from "../talk/server.js";
import { fitCanvas } from "../lib/canvases.js";
import { colours } from "../lib/charts.js";
import { sheet } from "../talk/menus.js";
import { complainAt } from "../talk/notes.js";

const PAD = 4;
const spanOf = canvas => canvas.clientWidth - 2 * PAD;
const xOf = (canvas, frame) => PAD + (frame / Math.max(1, scene.length - 1)) * spanOf(canvas);
const frameAt = (canvas, x) =>
  Math.min(Math.max(Math.round(((x - PAD) / spanOf(canvas)) * (scene.length - 1)), 0), scene.length - 1);
const stationOf = canvas => canvas.closest("[data-windows]");
const windowsOf = canvas => JSON.parse(stationOf(canvas).dataset.windows);
const PARTS = ["start", "fade in", "fade out", "end"];

// The part that keys act on: of which modifier, which window, and which part of that.
let chosen = { modifier: "", number: 0, part: "start" };
const chosenIn = canvas =>
  document.activeElement === canvas && chosen.modifier === stationOf(canvas).dataset.modifier ? chosen : null;

/** The edit that gives a modifier these windows, on each of what is chosen. */
export const windowsEdit = (modifier, windows) =>
  onEach([
    {
      kind: "set windows",
      modifier,
      windows: windows.map(([start, end, fade_in, fade_out]) => ({ start, end, fade_in, fade_out })),
    },
  ]);

export function drawWindows() {
  for (const canvas of document.querySelectorAll("canvas.windows")) draw(canvas, windowsOf(canvas));
}

// What a window comes to, told while a hand or a key is on it.
function toldOf([start, end, fadeIn, fadeOut]) {
  const many = end - start + 1;
  const fades = [fadeIn && `in over ${figure(fadeIn)}`, fadeOut && `out over ${figure(fadeOut)}`].filter(Boolean);
  const frames = many === 1 ? "frame" : "frames";
  return [`${figure(start)} to ${figure(end)}: ${figure(many)} ${frames}`, ...fades].join(", ");
}

function tell(canvas, words) {
  const told = stationOf(canvas).querySelector("[data-window-told]");
  told.textContent = words;
  told.hidden = !words;
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
  const mine = chosenIn(canvas);
  const window = mine && windows[mine.number];
  if (window) {
    const x = xOf(canvas, frameOf(mine.part, window));
    context.strokeStyle = context.fillStyle = colours.brass;
    context.lineWidth = 2;
    context.beginPath();
    if (mine.part.startsWith("fade")) context.arc(x, 4.5, 3.5, 0, 7);
    else context.rect(x - 2, 2, 4, height - 4);
    context.fill();
    context.lineWidth = 1;
  }
}

const byBeginning = windows => [...windows].sort(([a], [b]) => a - b);
const frameOf = (part, [start, end, fadeIn, fadeOut]) =>
  ({ start, end, "fade in": start + fadeIn, "fade out": end - fadeOut })[part];

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
    tell(canvas, toldOf(windows[held.number]));
    requestFrames(withScene(edits()));
  };
  const edits = () => windowsEdit(stationOf(canvas).dataset.modifier, windows);
  const end = commit => {
    tell(canvas, "");
    if (moved && commit) {
      const part = ["all", "new"].includes(held.part) ? "start" : held.part;
      const number = byBeginning(windows).indexOf(windows[held.number]);
      chosen = { modifier: stationOf(canvas).dataset.modifier, number, part };
      commitEdits(edits()).catch(error => complainAt(canvas, error.message));
    } else if (moved) {
      drawWindows();
      requestFrames([]);
    }
  };
  if (held) {
    const part = held.part === "all" ? "start" : held.part;
    chosen = { modifier: stationOf(canvas).dataset.modifier, number: held.number, part };
    canvas.focus();
    draw(canvas, windows);
  }
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

const windowOf = event => event.target.closest?.("canvas.windows");
/** The sheet in which windows are typed. */
export const typeWindows = modifier => sheet("windows", { modifier, frame: Math.floor(clock.frame) });

document.addEventListener("dblclick", event => {
  const canvas = windowOf(event);
  if (canvas && under(canvas, event)) typeWindows(stationOf(canvas).dataset.modifier);
});

// Left and right choose a part, with Alt they move it; however many come before they are kept, they add up.
const held = { canvas: null, windows: [] };
const led = by => {
  const part = chosen.part;
  const windows = structuredClone(held.windows);
  const from = frameOf(part, windows[chosen.number]);
  windows[chosen.number] = changed(
    part,
    windows[chosen.number],
    from,
    Math.min(Math.max(from + by, 0), scene.length - 1),
  );
  return windows;
};
const nudge = nudging(
  by => {
    const windows = led(by);
    draw(held.canvas, windows);
    tell(held.canvas, toldOf(windows[chosen.number]));
    requestFrames(withScene(windowsEdit(chosen.modifier, windows)));
  },
  by => {
    tell(held.canvas, "");
    const windows = led(by);
    const edits = windowsEdit(chosen.modifier, windows);
    // They are kept in the order in which they begin: one that has passed another is still the chosen one.
    chosen.number = byBeginning(windows).indexOf(windows[chosen.number]);
    commitEdits(edits).catch(error => complainAt(held.canvas, error.message));
    held.canvas = null;
  },
);

document.addEventListener("keydown", event => {
  const canvas = windowOf(event);
  if (!canvas || event.ctrlKey || event.metaKey || event.defaultPrevented) return;
  const { modifier } = stationOf(canvas).dataset;
  const windows = windowsOf(canvas);
  const across = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
  const at = chosenIn(canvas) && windows[chosen.number] ? chosen.number * 4 + PARTS.indexOf(chosen.part) : -1;
  const keep = edits => commitEdits(edits).catch(error => complainAt(canvas, error.message));
  if (event.key === "Enter") typeWindows(modifier);
  else if (event.key === "Insert" || event.key === "+") {
    const start = Math.min(Math.max(Math.floor(clock.frame), 0), Math.max(scene.length - 2, 0));
    keep(windowsEdit(modifier, [...windows, [start, Math.min(start + scene.fps, scene.length - 1), 0, 0]]));
  } else if (across && !event.altKey && windows.length) {
    const to = at < 0 ? 0 : Math.min(Math.max(at + across, 0), windows.length * 4 - 1);
    chosen = { modifier, number: Math.floor(to / 4), part: PARTS[to % 4] };
    draw(canvas, windows);
    tell(canvas, `${chosen.part} of ${toldOf(windows[chosen.number])}`);
  } else if (across && at >= 0) {
    if (!held.canvas) Object.assign(held, { canvas, windows });
    nudge(across * (event.shiftKey ? 10 : 1), 0);
  } else if ((event.key === "Delete" || event.key === "Backspace") && at >= 0)
    keep(
      windowsEdit(
        modifier,
        windows.filter((_, k) => k !== chosen.number),
      ),
    );
  else return;
  event.preventDefault();
});
document.addEventListener("focusin", event => windowOf(event) && drawWindows());
document.addEventListener("focusout", event => {
  const canvas = windowOf(event);
  if (!canvas) return;
  tell(canvas, "");
  drawWindows();
});

addEventListener("resize", drawWindows);
document.addEventListener("resized", drawWindows);
