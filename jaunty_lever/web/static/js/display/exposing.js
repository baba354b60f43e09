// @ts-check
// A frame that is played as its shutter sees it: the mean of a few moments, as a canvas averages.
import { drawScene } from "./list.js";
import { canvasOf } from "../lib/surroundings.js";

let scratch = null;

// Draws it on a context, where `place` puts the scene.
export function drawExposed(context, place, answer, shutter, frame) {
  const { width, height } = context.canvas;
  if (scratch?.width !== width || scratch.height !== height) scratch = canvasOf(width, height);
  const inner = scratch.getContext("2d");
  const scene = { ...answer, start: 0, nodes: shutter.nodes, background: shutter.background, ghost: null };
  for (let k = 0; k < shutter.moments; k += 1) {
    inner.setTransform(1, 0, 0, 1, 0, 0);
    inner.clearRect(0, 0, width, height);
    place(inner);
    drawScene(inner, scene, (frame - shutter.start) * shutter.moments + k);
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.globalAlpha = 1 / (k + 1);
    context.drawImage(scratch, 0, 0);
  }
  context.globalAlpha = 1;
}
