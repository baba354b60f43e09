// @ts-check
// Frames that play are painted by a worker, where a browser has canvases for that. Of those that come while it still
// paints one the last is painted next, and the others are left out.
import { channel } from "../lib/channels.js";
import { keysOf } from "../talk/server.js";
import { clock } from "../talk/clock.js";
import { emit } from "../talk/events.js";
import { scene } from "../talk/scene.js";

const moving = /** @type {HTMLCanvasElement | null} */ (document.getElementById("moving"));
let worker = null,
  able = Boolean(moving?.transferControlToOffscreen && window.Worker);
let sent = { answer: null, shutters: null },
  has = new Set();
// So many frames are on their way at once: the worker has the next one when it is done with one.
const MOST = 2;
let flying = 0,
  late = 0,
  next = null;

function begin() {
  worker = new Worker(new URL("../display/painting.js", import.meta.url), { type: "module", name: "painting" });
  const canvas = moving.transferControlToOffscreen();
  worker.postMessage({ canvas, project: scene.project }, [canvas]);
  worker.addEventListener("message", ({ data }) => {
    flying -= 1;
    late = data.missing;
    if (!clock.playing) return;
    if (next) ask(next);
    moving.hidden = false;
    emit("painted");
  });
  // What cannot be painted there is painted here.
  worker.addEventListener("error", () => {
    able = false;
    flying = 0;
    rest();
  });
}

// What it does not have yet of an answer, and of the moments of its frames.
function tell(answer) {
  const keys = keysOf({
    ...answer,
    curves: {},
    chosen: null,
    dots: null,
    flight: null,
    planes: null,
    plan: null,
    path: null,
  });
  keys.delete(null);
  keys.delete(undefined);
  const fresh = [...keys]
    .filter(key => !has.has(key))
    .map(key => [key, channel(key)])
    .filter(([, one]) => one);
  const { start, stop, width, height, background, nodes, ghost, shutters = [] } = answer;
  worker.postMessage({
    scene: { start, stop, width, height, background, nodes, ghost, shutters },
    channels: fresh,
    keys: [...keys],
  });
  has = new Set([...keys].filter(key => channel(key)));
  sent = { answer, shutters: answer.shutters };
}

// Paint a frame of an answer by a matrix to a canvas of a size; whether that is done elsewhere.
export function paintedAside(answer, frame, matrix, { width, height }, shutter) {
  if (!able || !clock.playing) return false;
  if (!worker) begin();
  next = { answer, asked: { frame, matrix, width, height, shutter } };
  if (flying < MOST) ask(next);
  // Until it has painted for the first time there is nothing to see of it.
  return isAside();
}

function ask({ answer, asked }) {
  next = null;
  if (sent.answer !== answer || sent.shutters !== answer.shutters) tell(answer);
  flying += 1;
  worker.postMessage({ ...asked, shutter: answer.shutters?.indexOf(asked.shutter) ?? -1 });
}

// What stands still is painted here.
export function rest() {
  next = null;
  if (!isAside()) return;
  moving.hidden = true;
  worker?.postMessage({ rest: true });
}

// Whether what is seen is painted by the worker, and how many frames of clips that waits for.
export const isAside = () => Boolean(moving && !moving.hidden);
export const lateAside = () => (isAside() ? late : 0);
