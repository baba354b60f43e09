// @ts-check
// The camera by hand: on the empty stage with Ctrl, and in the view from above. Everything is an edit of its values.
import { answers } from "../talk/answers.js";
import { clock } from "../talk/clock.js";
import { row } from "../lib/channels.js";
import { curveAt } from "../talk/server.js";
import { first } from "../lib/places.js";

const SLOW = 0.3;
const frameNow = () => Math.floor(clock.frame);
const tenth = v => Math.round(v * 10) / 10;

const by = (parameter, steps) => ({
  kind: "set value",
  parameter,
  by: steps.map(tenth),
  frame: frameNow(),
  by_hand: true,
});

// The id of the camera that the scene is seen by.
export const cameraOf = () => first("[data-camera]")?.dataset.camera ?? null;

// x, depth and height of a thing of the view from above.
export function spotOf(key, element = 0) {
  const [x, z, y] = row(key, frameNow() - (answers.last?.start ?? 0), element);
  return { x, y, z };
}

// Carried round its aim: a drag to the right lets us see more of the left.
export function carried(camera, dx, dy) {
  return [by(`${camera}.around`, [-dx * SLOW, dy * SLOW])];
}

// Moved along with its aim, so that what is under the pointer stays under it: from where it stands now.
export function along(camera) {
  const plan = answers.last?.plan?.camera;
  if (!plan) return () => [];
  const eye = spotOf(plan.eye),
    aim = spotOf(plan.aim),
    [lens] = row(plan.perspective, frameNow() - (answers.last?.start ?? 0));
  const back = { x: eye.x - aim.x, y: eye.y - aim.y, z: eye.z - aim.z },
    far = Math.hypot(back.x, back.y, back.z) || 1;
  const level = Math.hypot(back.x, back.z),
    right = level > 1e-6 ? { x: back.z / level, z: -back.x / level } : { x: 1, z: 0 };
  const b = { x: back.x / far, y: back.y / far, z: back.z / far };
  const down = { x: b.y * right.z, y: b.z * right.x - b.x * right.z, z: -b.y * right.x };
  const size = -far / (lens || 1);
  return (dx, dy) => {
    const step = [right.x * dx + down.x * dy, down.y * dy, right.z * dx + down.z * dy].map(v => v * size);
    return [
      by(`${camera}.position`, step.slice(0, 2)),
      by(`${camera}.depth`, [step[2]]),
      by(`${camera}.aim`, step.slice(0, 2)),
      by(`${camera}.aim_depth`, [step[2]]),
    ];
  };
}

// Nearer to its aim, or further away: so many times as far as it is now.
export function nearer(camera) {
  const at = name => curveAt(`${camera}.${name}`, frameNow());
  const [x, y] = at("position"),
    [z] = at("depth"),
    [ax, ay] = at("aim"),
    [az] = at("aim_depth");
  if ([x, z, ax, az].includes(undefined)) return () => [];
  return times => [
    by(`${camera}.position`, [(x - ax) * (times - 1), (y - ay) * (times - 1)]),
    by(`${camera}.depth`, [(z - az) * (times - 1)]),
  ];
}

// The camera dragged from one place of the ground to another, as seen from above.
export function dragged(camera, eye, aim) {
  const far = nearer(camera),
    was = { x: eye.x - aim.x, z: eye.z - aim.z };
  return to => {
    const is = { x: to.x - aim.x, z: to.z - aim.z };
    const turn = ((Math.atan2(is.x, is.z) - Math.atan2(was.x, was.z)) * 180) / Math.PI;
    return [
      by(`${camera}.around`, [((turn + 540) % 360) - 180, 0]),
      ...far(Math.hypot(is.x, is.z) / (Math.hypot(was.x, was.z) || 1)),
    ];
  };
}

export const shifted = (owner, flat, near, dx, dz) => [by(`${owner}.${flat}`, [dx, 0]), by(`${owner}.${near}`, [dz])];
