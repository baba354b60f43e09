// @ts-check
// The strip of an opened clip: its frames in a row, what is kept of them between two ends that are dragged, and what
// shows now; and how much room kept frames take.
import { answers } from "../talk/answers.js";
import { clock } from "../talk/clock.js";
import { on } from "../talk/events.js";
import { scene } from "../talk/scene.js";
import { views } from "../talk/views.js";
import { row } from "../lib/channels.js";
import { commitEdits, requestFrames, withScene } from "../talk/server.js";
import { grip } from "../lib/dragging.js";
import { nodesOf } from "../display/list.js";
import { boxOf, fitCanvas, wideOf } from "../lib/canvases.js";
import { colours } from "../lib/charts.js";
import { complainAt, say } from "../talk/notes.js";
import { pickFile } from "../talk/pictures.js";
import { first } from "../lib/places.js";

const PAD = 8,
  REACH = 10,
  THUMB = 46,
  LEAST = 0.02;
/** @type {Map<string, HTMLImageElement>} */
const thumbs = new Map();
// What an end is dragged to, until it is kept.
let held = null;

const placeOf = () => /** @type {HTMLElement | null} */ (first("[data-clip]"));
const toldOf = place => ({
  ...JSON.parse(place.dataset.clipTold),
  ...(held && held.layer === place.dataset.clipLayer ? held.values : {}),
});
const until = told => (told.stop > 0 ? Math.min(told.stop, told.seconds) : told.seconds);

function thumb(clip, frame, level) {
  const key = `${clip} ${frame} ${level}`;
  if (!thumbs.has(key)) {
    const image = new Image();
    image.src = `/api/projects/${scene.project}/clips/${clip}/frames/${frame}?level=${level}`;
    image.addEventListener("load", draw);
    if (thumbs.size > 400) thumbs.clear();
    thumbs.set(key, image);
  }
  return thumbs.get(key);
}

// When the frame begins that shows now, of the copy that is shown; null where none does.
function shownNow(layer, told) {
  if (!answers.last) return null;
  for (const { node, index, element } of nodesOf(answers.last, clock.frame, new Set([layer]), views.copies ?? {})) {
    if (node.id !== layer || node.kind !== "clip") continue;
    const frame = Math.round(row(node.channels.frame, index, element)[0] ?? -1);
    return frame < 0 ? null : (frame / node.frames) * told.seconds;
  }
  return null;
}

export function draw() {
  const place = placeOf();
  const canvas = /** @type {HTMLCanvasElement | null} */ (place?.querySelector(".clip-strip"));
  const context = canvas && fitCanvas(canvas);
  if (!place || !context) return;
  const told = toldOf(place),
    [width, height] = boxOf(canvas);
  const wide = width - 2 * PAD,
    x = seconds => PAD + (seconds / told.seconds) * wide;
  context.clearRect(0, 0, width, height);
  context.save();
  context.beginPath();
  context.rect(PAD, 3, wide, height - 6);
  context.clip();
  const each = Math.max(12, ((height - 6) * told.width) / told.height),
    many = Math.ceil(wide / each);
  const level = Math.max(0, Math.min(6, Math.floor(Math.log2(told.height / THUMB))));
  for (let k = 0; k < many; k += 1) {
    const image = thumb(
      place.dataset.clip,
      Math.min(Math.floor(((k + 0.5) / many) * told.frames), told.frames - 1),
      level,
    );
    if (image?.complete && image.naturalWidth)
      context.drawImage(image, PAD + (k * wide) / many, 3, wide / many + 0.5, height - 6);
  }
  context.restore();
  const [a, b] = [x(told.start), x(until(told))];
  context.fillStyle = colours.sheet;
  context.globalAlpha = 0.82;
  context.fillRect(PAD, 3, a - PAD, height - 6);
  context.fillRect(b, 3, PAD + wide - b, height - 6);
  context.globalAlpha = 1;
  context.fillStyle = colours.brass;
  context.fillRect(a, 1, b - a, 2);
  context.fillRect(a, height - 3, b - a, 2);
  for (const [at, side] of [
    [a, -1],
    [b, 1],
  ]) {
    context.beginPath();
    context.roundRect(side < 0 ? at - 6 : at, 0, 6, height, 2);
    context.fill();
  }
  const now = shownNow(place.dataset.clipLayer, told);
  if (now !== null) {
    context.fillStyle = colours.ink;
    context.fillRect(x(now) - 1.5, 0, 3, height);
    context.fillStyle = colours.sheet;
    context.fillRect(x(now) - 0.5, 1, 1, height - 2);
  }
}

const hundredth = v => Math.round(v * 100) / 100;

// The edits that move an end, kept within the clip and apart from the other one.
function moved(place, end, seconds) {
  const told = toldOf(place),
    layer = place.dataset.clipLayer;
  const value =
    end === "start"
      ? Math.min(Math.max(seconds, 0), until(told) - LEAST)
      : Math.max(Math.min(seconds, told.seconds), told.start + LEAST);
  // At its end nothing is cut off.
  const kept = end === "stop" && value >= told.seconds - 0.005 ? 0 : hundredth(value);
  held = { layer, values: { ...(held?.layer === layer ? held.values : {}), [end]: kept } };
  return [{ kind: "set value", parameter: `${layer}.${end}`, value: kept, frame: Math.floor(clock.frame) }];
}

document.addEventListener("pointerdown", event => {
  const canvas = /** @type {HTMLElement} */ (event.target);
  if (!canvas.matches?.(".clip-strip") || event.button !== 0) return;
  const place = placeOf(),
    told = toldOf(place),
    wide = wideOf(canvas) - 2 * PAD;
  const x = seconds => PAD + (seconds / told.seconds) * wide;
  const [near, far] = [Math.abs(event.offsetX - x(told.start)), Math.abs(event.offsetX - x(until(told)))];
  if (Math.min(near, far) > REACH) return;
  const end = near < far || (near === far && event.offsetX < x(told.start)) ? "start" : "stop";
  let edits = [];
  grip(canvas, event, {
    move: e => {
      edits = moved(place, end, ((e.offsetX - PAD) / wide) * told.seconds);
      requestFrames(withScene(edits));
      draw();
    },
    end: commit => {
      const keep =
        commit && edits.length
          ? commitEdits(edits).catch(error => complainAt(canvas, error.message))
          : Promise.resolve(requestFrames([]));
      keep.finally(() => {
        held = null;
        draw();
      });
    },
  });
});

document.addEventListener(
  "keydown",
  event => {
    const canvas = /** @type {HTMLElement} */ (event.target);
    if (!canvas.matches?.(".clip-strip") || (event.key !== "ArrowLeft" && event.key !== "ArrowRight")) return;
    event.preventDefault();
    event.stopPropagation();
    const place = placeOf(),
      told = toldOf(place),
      by = ((event.key === "ArrowLeft" ? -1 : 1) * told.seconds) / told.frames;
    const edits = event.shiftKey ? moved(place, "stop", until(told) + by) : moved(place, "start", told.start + by);
    commitEdits(edits)
      .catch(error => complainAt(canvas, error.message))
      .finally(() => {
        held = null;
        draw();
      });
  },
  true,
);

document.addEventListener("change", event => {
  const target = /** @type {any} */ (event.target),
    place = target.closest?.("[data-clip]");
  if (!place) return;
  if (target.matches("[data-clip-sounds]"))
    commitEdits([{ kind: "change layer", layer: place.dataset.clipLayer, sounds: target.checked }]).catch(error =>
      complainAt(target, error.message),
    );
  if (target.matches("[data-clip-room-most]")) room("PUT", { megabytes: Number(target.value) });
});

document.addEventListener("click", event => {
  const target = /** @type {HTMLElement} */ (event.target),
    place = /** @type {HTMLElement | null} */ (target.closest?.("[data-clip]"));
  if (!place) return;
  if (target.matches("[data-another-clip]")) pickFile({ layer: place.dataset.clipLayer, clip: true });
  if (target.matches("[data-clip-room-clear]")) room("DELETE");
});

document.addEventListener(
  "toggle",
  event => {
    const target = /** @type {any} */ (event.target);
    if (target.matches?.("[data-clip-room]") && target.open) room("GET");
  },
  true,
);

// Ask how much room kept frames take, or change it.
async function room(method, body = null) {
  const response = await fetch("/api/clip-frames", {
    method,
    headers: body ? { "content-type": "application/json" } : {},
    body: body && JSON.stringify(body),
  }).catch(() => null);
  const told = await response?.json().catch(() => null);
  if (!response?.ok) {
    say(told?.message ?? "The server cannot be reached.", "bad");
    return;
  }
  const place = placeOf()?.querySelector("[data-clip-room]");
  if (!place) return;
  place.querySelector("[data-clip-room-told]").textContent = `${told.told}, of all clips. The longest unused go first.`;
  const most = /** @type {HTMLSelectElement} */ (place.querySelector("[data-clip-room-most]"));
  most.value = String(Math.round(told.most / 1e6));
}

on("frame", draw);
on("values", draw);
on("panels", draw);
