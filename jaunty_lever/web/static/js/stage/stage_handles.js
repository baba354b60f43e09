// @ts-check
// What is drawn over the picture: outlines, pivot, rim, motion path, and what can drive while a driver is pointed at.
import { choice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { hands } from "../talk/hands.js";
import { channel } from "../lib/channels.js";
import { holdsOthers, pathOf, pointsOf } from "../display/list.js";
import { drawArray } from "./array_handles.js";
import { drawLayerHandles } from "./layer_handles.js";
import { colours } from "../lib/charts.js";
import { figure } from "../lib/figures.js";
import { isShown, lastChosen, pivotOnScreen, shapes, shapesOf, toScene, under, view } from "./stage_view.js";
import { first } from "../lib/places.js";

const stage = document.getElementById("stage");
const handles = document.getElementById("handles");

const MOST_OUTLINED = 600;

// The layer that is being turned by hand, and by how much.
export const hand = { turning: null };

// A shape's outline in scene coordinates, as wide on the screen whatever the zoom.
function outline(context, { node, matrix, index, element }, colour, alpha, width) {
  const ratio = devicePixelRatio || 1;
  const scale = Math.sqrt(Math.abs(matrix.a * matrix.d - matrix.b * matrix.c)) || 1;
  context.save();
  context.setTransform(ratio * view.zoom, 0, 0, ratio * view.zoom, ratio * view.x, ratio * view.y);
  context.transform(matrix.a, matrix.b, matrix.c, matrix.d, matrix.e, matrix.f);
  context.strokeStyle = colour;
  context.globalAlpha = alpha;
  context.lineWidth = width / (view.zoom * scale);
  context.stroke(pathOf(node, index, element));
  context.restore();
}

// What stands over the picture while nothing is chosen is the same from frame to frame: to draw it anew makes the
// browser lay the whole stage down again.
let bare = "";

export function drawHandles(answer) {
  const plain = clock.playing && !choice.layers.length && !hands.pointing && !answer.path && !first("[data-array]");
  const key = plain
    ? `${view.zoom} ${view.x} ${view.y} ${answer.width} ${answer.height} ${handles.width} ${handles.height}`
    : "";
  if (plain && key === bare) return;
  bare = key;
  const context = handles.getContext("2d");
  const ratio = devicePixelRatio || 1;
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.clearRect(0, 0, handles.width, handles.height);
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  context.strokeStyle = "rgb(34 48 60 / 0.35)";
  context.lineWidth = 1;
  context.strokeRect(view.x - 0.5, view.y - 0.5, answer.width * view.zoom + 1, answer.height * view.zoom + 1);
  drawPath(context, answer);
  if (hands.pointing) drawDrivers(context);
  const chosen = shapesOf(choice.layers);
  const crowded = clock.playing || chosen.length > MOST_OUTLINED;
  // A chosen group is shown by the outlines of what lies in it, drawn finer.
  for (const shape of chosen) {
    const { node, trail } = shape;
    const itself = choice.layers.includes(node.id);
    if (holdsOthers(node) || !(itself || trail.some(group => choice.layers.includes(group)))) continue;
    // Of copies the one that is shown stands out; of very many, and in play, the others have no outline.
    const faint = !isShown(shape);
    if (faint && crowded) continue;
    outline(context, shape, colours.brass, faint ? 0.28 : itself ? 1 : 0.7, faint ? 0.7 : itself ? 1.4 : 0.8);
  }
  drawArray(context, answer);
  if (hands.pointing) return;
  const last = lastChosen();
  if (last) {
    drawRim(context, last);
    drawPivot(context, last);
  }
  drawLayerHandles(context, answer);
}

// The rim by which a layer is turned by hand: a ring around its pivot, as large as the layer, within reason.
export function rimOf(shape) {
  const [x, y] = pivotOnScreen(shape);
  let far = 0;
  for (const { node, matrix, index, trail, element, copies } of shapesOf(choice.layers)) {
    if (holdsOthers(node) || !(node.id === shape.node.id || trail.includes(shape.node.id))) continue;
    if (!Object.entries(shape.copies).every(([array, number]) => copies[array] === number)) continue;
    const { a, b, c, d, e, f } = matrix;
    const points = pointsOf(node, index, element);
    for (let k = 0; k + 1 < points.length; k += 2) {
      const sx = view.x + (a * points[k] + c * points[k + 1] + e) * view.zoom;
      const sy = view.y + (b * points[k] + d * points[k + 1] + f) * view.zoom;
      far = Math.max(far, Math.hypot(sx - x, sy - y));
    }
  }
  return { x, y, radius: Math.min(Math.max(far + 12, 40), Math.min(stage.clientWidth, stage.clientHeight) * 0.42) };
}

// Whether a press is meant for the rim. Where it crosses a layer, the layer is; the knob is always the knob.
export function onRim(event, shape, rim) {
  const at = turnOf(shape);
  const knob = Math.hypot(
    rim.x + Math.cos(at) * rim.radius - event.offsetX,
    rim.y + Math.sin(at) * rim.radius - event.offsetY,
  );
  const ring = Math.abs(Math.hypot(rim.x - event.offsetX, rim.y - event.offsetY) - rim.radius) < 5;
  return knob < 12 || (ring && !under(toScene(event), true));
}

export const turnOf = ({ matrix }) => Math.atan2(matrix.b, matrix.a);

function drawRim(context, shape) {
  const { x, y, radius } = rimOf(shape);
  const at = turnOf(shape);
  context.strokeStyle = colours.brass;
  context.lineWidth = 1;
  context.globalAlpha = hand.turning ? 0.9 : 0.45;
  context.setLineDash([2, 4]);
  context.beginPath();
  context.arc(x, y, radius, 0, 7);
  context.stroke();
  context.setLineDash([]);
  context.globalAlpha = 1;
  const [kx, ky] = [x + Math.cos(at) * radius, y + Math.sin(at) * radius];
  context.beginPath();
  context.arc(kx, ky, 6, 0, 7);
  context.fillStyle = hand.turning ? colours.brass : colours.sheet;
  context.lineWidth = 1.6;
  context.fill();
  context.stroke();
  if (hand.turning) {
    context.font = "600 12px 'Martian Mono'";
    context.textAlign = "center";
    context.fillStyle = colours.ink;
    context.fillText(
      `${figure(hand.turning.by, 1)}°`,
      x + Math.cos(at) * (radius + 26),
      y + Math.sin(at) * (radius + 26) + 4,
    );
  }
}

// While a driver is pointed at, everything that can drive is outlined in the drivers' colour.
function drawDrivers(context) {
  for (const shape of shapes()) {
    const { node, trail } = shape;
    const able = [...trail, node.id].some(id => hands.pointing.tops.has(id));
    if (holdsOthers(node) || !able) continue;
    const here = hands.pointing.hover && [...trail, node.id].includes(hands.pointing.hover);
    outline(context, shape, colours.sea, here ? 1 : 0.6, here ? 3.5 : 1);
  }
}

const BESIDE = 17;
// Where the pivot is taken by: beside it, since a press in the middle of a layer is meant for the layer.
export function pivotHandle(shape) {
  const [x, y] = pivotOnScreen(shape);
  return [x + BESIDE, y + BESIDE];
}
export function onPivot(event, shape) {
  const [x, y] = pivotHandle(shape);
  return Math.hypot(x - event.offsetX, y - event.offsetY) < 9;
}

function drawPivot(context, shape) {
  const [x, y] = pivotOnScreen(shape);
  context.lineWidth = 1.6;
  context.strokeStyle = colours.brass;
  context.fillStyle = colours.sheet;
  context.beginPath();
  context.arc(x, y, 5.5, 0, 7);
  context.fill();
  context.stroke();
  context.beginPath();
  for (const [dx, dy] of [
    [1, 0],
    [-1, 0],
    [0, 1],
    [0, -1],
  ]) {
    context.moveTo(x + dx * 5.5, y + dy * 5.5);
    context.lineTo(x + dx * 10, y + dy * 10);
  }
  context.stroke();
  context.fillStyle = colours.brass;
  context.beginPath();
  context.arc(x, y, 1.6, 0, 7);
  context.fill();
  // What it is taken by.
  const [hx, hy] = pivotHandle(shape);
  context.beginPath();
  context.moveTo(x + 4, y + 4);
  context.lineTo(hx, hy);
  context.stroke();
  context.save();
  context.translate(hx, hy);
  context.rotate(Math.PI / 4);
  context.fillStyle = colours.sheet;
  context.beginPath();
  context.roundRect(-4.5, -4.5, 9, 9, 2);
  context.fill();
  context.stroke();
  context.restore();
}

function drawPath(context, answer) {
  const way = answer.path && channel(answer.path);
  if (!way) return;
  const at = k => [view.x + way.data[k * 2] * view.zoom, view.y + way.data[k * 2 + 1] * view.zoom];
  context.strokeStyle = context.fillStyle = colours.sea;
  context.lineWidth = 1;
  context.beginPath();
  for (let k = 0; k < way.rows; k++) context.lineTo(...at(k));
  context.stroke();
  for (let k = 0; k < way.rows; k++) {
    const [x, y] = at(k);
    const size = k % 10 ? 1.2 : 2.2;
    context.beginPath();
    context.arc(x, y, size, 0, 7);
    context.fill();
  }
  const [x, y] = at(Math.min(Math.floor(clock.frame), way.rows - 1));
  context.strokeStyle = colours.brass;
  context.lineWidth = 1.5;
  context.beginPath();
  context.arc(x, y, 4.5, 0, 7);
  context.stroke();
}
