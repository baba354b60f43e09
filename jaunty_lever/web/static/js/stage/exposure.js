// @ts-check
// Motion blur on the stage: the frame that is shown at rest, as its shutter sees it, averaged in linear light; and,
// while it plays and as far as there is time, from a few moments, averaged as a canvas does it.
import { answers } from "../talk/answers.js";
import { clock } from "../talk/clock.js";
import { emit, on } from "../talk/events.js";
import { scene } from "../talk/scene.js";
import { askExposure, askShutter, framesAt } from "../talk/server.js";
import { arrivals } from "../display/clip.js";
import { drawScene } from "../display/list.js";
import { canvasOf } from "../lib/surroundings.js";

const WAIT = 140;
// Light by sRGB value, and back in fine steps.
const linear = Float32Array.from({ length: 256 }, (_, v) =>
  v <= 10.3 ? v / 255 / 12.92 : ((v / 255 + 0.055) / 1.055) ** 2.4,
);
const encoded = Uint8ClampedArray.from({ length: 4097 }, (_, k) => {
  const v = k / 4096;
  return Math.round(255 * (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055));
});

let known = { answer: null, frame: -1, exposure: null };
let made = { exposure: null, key: "", canvas: null };
let waiting = 0;

const wanted = () => answers.last?.motion_blur && !clock.playing;

// Once nothing has changed for a moment, ask for the exposure of the frame that is shown.
function ask() {
  clearTimeout(waiting);
  if (!wanted()) return;
  const answer = answers.last,
    frame = Math.floor(clock.frame);
  if (known.answer === answer && known.frame === frame) return;
  waiting = setTimeout(async () => {
    const exposure = await askExposure(frame).catch(() => null);
    if (answers.last !== answer || Math.floor(clock.frame) !== frame || !exposure) return;
    answer.exposure = exposure;
    known = { answer, frame, exposure };
    emit("frame");
  }, WAIT);
}
on("values", ask);
on("frame", ask);

// The mean of a frame's moments on a canvas as large as another, where `place` puts the scene; null while there is
// none.
export function exposureOn(like, place, key) {
  if (
    !wanted() ||
    known.answer !== answers.last ||
    known.frame !== Math.floor(clock.frame) ||
    !known.exposure ||
    known.exposure.samples < 2
  )
    return null;
  const { exposure } = known;
  key = `${key} ${arrivals()}`;
  if (made.exposure === exposure && made.key === key) return made.canvas;
  const canvas = canvasOf(like.width, like.height);
  const context = canvas.getContext("2d", { willReadFrequently: true });
  const sum = new Float32Array(like.width * like.height * 4);
  const open = { ...answers.last, start: 0, nodes: exposure.nodes, background: exposure.background, ghost: null };
  for (let k = 0; k < exposure.samples; k += 1) {
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.clearRect(0, 0, canvas.width, canvas.height);
    place(context);
    drawScene(context, open, k);
    const { data } = context.getImageData(0, 0, canvas.width, canvas.height);
    for (let p = 0; p < data.length; p += 4) {
      const a = data[p + 3] / 255;
      sum[p] += linear[data[p]] * a;
      sum[p + 1] += linear[data[p + 1]] * a;
      sum[p + 2] += linear[data[p + 2]] * a;
      sum[p + 3] += a;
    }
  }
  const image = context.createImageData(canvas.width, canvas.height);
  for (let p = 0; p < sum.length; p += 4) {
    const a = sum[p + 3];
    if (!a) continue;
    for (let c = 0; c < 3; c += 1) image.data[p + c] = encoded[Math.round((sum[p + c] / a) * 4096)];
    image.data[p + 3] = Math.round((a / exposure.samples) * 255);
  }
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.putImageData(image, 0, 0);
  made = { exposure, key, canvas };
  return canvas;
}

// Moments of a frame while it plays: fewer where there is no time for more, none where there is no time at all.
const TRIED = [4, 2, 0];
// Milliseconds for which a way is tried before it is given up, and for which values have to stand before more is asked.
const PATIENCE = 2500,
  STANDS = 400;
let few = TRIED[0],
  shownSince = 0,
  stood = 0,
  shuttered = false;
let asking = false;

on("values", () => {
  stood = performance.now();
  shownSince = 0;
});

const shutterAt = (answer, frame) =>
  answer.shutters?.find(({ start, stop, moments }) => moments === few && start <= frame && frame < stop);

async function askFor(answer, frame) {
  if (asking || performance.now() - stood < STANDS) return;
  asking = true;
  const start = Math.floor(frame / framesAt(few)) * framesAt(few),
    moments = few;
  const made = await askShutter(start, Math.min(start + framesAt(few), scene.length), moments).catch(() => null);
  asking = false;
  if (made && answers.last === answer)
    answer.shutters = [...(answer.shutters ?? []).filter(one => one.moments === moments).slice(-3), made];
}

// The moments of a frame that is played; null where there are none, or not yet.
export function playedBy(answer, frame) {
  shuttered = false;
  if (!clock.playing || !answer.motion_blur || !few) return null;
  const shutter = shutterAt(answer, frame);
  const next =
    shutter && shutter.stop < scene.length && frame > (shutter.start + shutter.stop) / 2 ? shutter.stop : null;
  if (!shutter) askFor(answer, frame);
  else if (next !== null && !shutterAt(answer, next)) askFor(answer, next);
  if (!shutter) return null;
  shownSince ||= performance.now();
  shuttered = true;
  return shutter;
}

// How many of the frames that should be are shown, 0..1: where that is too few, frames are exposed more roughly.
export function exposedAt(share) {
  if (!shuttered || share > 0.9 || performance.now() - shownSince < PATIENCE) return;
  few = TRIED[TRIED.indexOf(few) + 1] ?? 0;
  shownSince = 0;
}

// What is told of that beside the clock.
export const exposureTold = () => {
  if (!clock.playing || !answers.last?.motion_blur) return "";
  if (!few) return "no time for motion blur while it plays";
  return shuttered ? `motion blur from ${few} moments a frame while it plays` : "";
};
