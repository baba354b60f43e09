// @ts-check
// What handles on the stage read of the scene at the playhead, and the edits that they make.
import { clock } from "../talk/clock.js";
import { views } from "../talk/views.js";
import { answerAt, curveAt } from "../talk/server.js";
import { nodesOf } from "../display/list.js";

export const frameNow = () => Math.floor(clock.frame);

export const now = parameter => curveAt(parameter, frameNow());
export const one = (parameter, otherwise = 0) => now(parameter)[0] ?? otherwise;

export const set = (parameter, value) => ({ kind: "set value", parameter, value, frame: frameNow() });
export const round = v => Math.round(v * 10) / 10;

// What the picture shows of a layer: its node, and where that lies.
export function nodeOf(id) {
  const answer = answerAt(clock.frame);
  if (!answer) return undefined;
  for (const shape of nodesOf(answer, frameNow(), new Set([id]), views.copies)) if (shape.node.id === id) return shape;
  return undefined;
}

// Path data of absolute moves, lines and curves as points, and with one of them elsewhere.
const NUMBER = /-?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?/gi;
export function pointsOf(data) {
  if (/[^MLCQZ\d\s.,e+-]/.test(data)) return [];
  const numbers = data.match(NUMBER)?.map(Number) ?? [];
  return Array.from({ length: Math.floor(numbers.length / 2) }, (_, k) => ({
    x: numbers[2 * k],
    y: numbers[2 * k + 1],
  }));
}
export function withPoint(data, point, x, y) {
  let k = 0;
  return data.replace(NUMBER, text => {
    const at = k++;
    return at === 2 * point ? String(x) : at === 2 * point + 1 ? String(y) : text;
  });
}
