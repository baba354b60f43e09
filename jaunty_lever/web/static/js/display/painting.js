// @ts-check
// The worker that paints frames while they play, on a canvas that a page has handed over: the page's own thread stays
// free for the hand. It has the numbers that it was sent, and fetches pictures and clips by itself.
import { channels } from "../lib/channels.js";
import { missing } from "./clip.js";
import { drawExposed } from "./exposing.js";
import { drawScene } from "./list.js";
import { around } from "../lib/surroundings.js";

// Milliseconds after which a frame is painted again for what has come since: while it plays the next one mostly is
// there before.
const PATIENCE = 120;

let canvas = null,
  scene = null,
  last = null,
  again = 0;

around.changed = what => {
  if (what !== "frame" || !last) return;
  clearTimeout(again);
  again = setTimeout(() => {
    if (last) paint(last);
  }, PATIENCE);
};

function paint(asked) {
  const { width, height, matrix, frame } = asked;
  last = asked;
  clearTimeout(again);
  if (!scene) return;
  const shutter = scene.shutters[asked.shutter];
  if (canvas.width !== width || canvas.height !== height) Object.assign(canvas, { width, height });
  const context = canvas.getContext("2d");
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.clearRect(0, 0, width, height);
  const place = where => where.setTransform(...matrix);
  if (shutter) drawExposed(context, place, scene, shutter, frame);
  else {
    place(context);
    drawScene(context, scene, frame, true);
  }
}

self.addEventListener("message", ({ data }) => {
  if (data.canvas) {
    canvas = data.canvas;
    around.project = data.project;
  } else if (data.scene) {
    for (const [key, one] of data.channels) channels.set(key, one);
    const kept = new Set(data.keys);
    for (const key of channels.keys()) if (!kept.has(key)) channels.delete(key);
    scene = data.scene;
  } else if (data.rest) last = null;
  else {
    paint(data);
    self.postMessage({ frame: data.frame, missing: missing() });
  }
});
