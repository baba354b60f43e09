// The stage: the picture, zoom and pan, choosing and dragging layers and pivots, ghost and motion path.
import { bench, on, sceneUrl } from "./state.js";
import { answerAt, ask, channel, keep, row, withScene } from "./server.js";
import { drawScene, pointsOf, pathOf, shapesOf } from "./picture.js";
import { colours, figure } from "./curves.js";
import { chooseLayers } from "./choosing.js";
import { complainAt, say } from "./notes.js";
import { openTie, pickFrom, pointingReady } from "./pointing.js";
import { takeDrops } from "./pictures.js";
import { chooseParameter } from "./choosing.js";

const stage = document.getElementById("stage");
const picture = document.getElementById("picture");
const handles = document.getElementById("handles");
const zoomText = document.getElementById("zoom");

const view = { zoom: 1, x: 0, y: 0, fitted: true };

export function fit() {
  const pad = 26, top = 34;
  view.zoom = Math.min((stage.clientWidth - 2 * pad) / bench.width, (stage.clientHeight - pad - top) / bench.height);
  view.x = (stage.clientWidth - bench.width * view.zoom) / 2;
  view.y = top + (stage.clientHeight - top - pad - bench.height * view.zoom) / 2;
  view.fitted = true;
  draw();
}

function size() {
  const ratio = devicePixelRatio || 1;
  for (const canvas of [picture, handles]) {
    canvas.width = Math.round(stage.clientWidth * ratio);
    canvas.height = Math.round(stage.clientHeight * ratio);
  }
  if (view.fitted) fit(); else draw();
}

const transform = (context) => {
  const ratio = devicePixelRatio || 1;
  context.setTransform(ratio * view.zoom, 0, 0, ratio * view.zoom, ratio * view.x, ratio * view.y);
};

export function draw() {
  const answer = answerAt(bench.frame);
  if (!answer) return;
  const context = picture.getContext("2d");
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.clearRect(0, 0, picture.width, picture.height);
  transform(context);
  drawScene(context, answer, bench.frame);
  drawHandles(answer);
  zoomText.textContent = `${Math.round(view.zoom * 100)} %`;
  document.getElementById("stage-empty").hidden = answer.layers.length > 0;
}

const toScreen = (matrix, x, y) => {
  const p = matrix.transformPoint({ x, y });
  return [view.x + p.x * view.zoom, view.y + p.y * view.zoom];
};
const toScene = (event) => ({ x: (event.offsetX - view.x) / view.zoom, y: (event.offsetY - view.y) / view.zoom });

const chosenShapes = (answer) => [...shapesOf(answer, bench.frame)].filter(({ layer }) => bench.layers.includes(layer.id));

function pivotOf(id) {
  return row(bench.answer?.small?.[`${id}.pivot`], Math.floor(bench.frame));
}

function drawHandles(answer) {
  const context = handles.getContext("2d");
  const ratio = devicePixelRatio || 1;
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.clearRect(0, 0, handles.width, handles.height);
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  context.strokeStyle = "rgb(34 48 60 / 0.35)";
  context.lineWidth = 1;
  context.strokeRect(view.x - 0.5, view.y - 0.5, answer.width * view.zoom + 1, answer.height * view.zoom + 1);
  drawPath(context, answer);
  if (bench.pointing) drawDrivers(context, answer, ratio);
  // A chosen group is shown by the outlines of what lies in it, drawn finer.
  for (const { layer, matrix, index, trail } of shapesOf(answer, bench.frame)) {
    const itself = bench.layers.includes(layer.id);
    if (layer.layers || !(itself || trail.some((group) => bench.layers.includes(group)))) continue;
    const scale = Math.sqrt(Math.abs(matrix.a * matrix.d - matrix.b * matrix.c)) || 1;
    context.save();
    context.setTransform(ratio * view.zoom, 0, 0, ratio * view.zoom, ratio * view.x, ratio * view.y);
    context.transform(matrix.a, matrix.b, matrix.c, matrix.d, matrix.e, matrix.f);
    context.strokeStyle = colours.brass;
    context.globalAlpha = itself ? 1 : 0.7;
    context.lineWidth = (itself ? 1.4 : 0.8) / (view.zoom * scale);
    context.stroke(pathOf(layer, index));
    context.restore();
  }
  if (bench.pointing) return;
  const last = lastChosen(answer);
  if (last) { drawRim(context, last); drawPivot(context, last); }
}

const lastChosen = (answer) => chosenShapes(answer).find(({ layer }) => layer.id === bench.layers.at(-1));

const pivotOnScreen = ({ layer, matrix }) => toScreen(matrix, ...(pivotOf(layer.id).length ? pivotOf(layer.id) : [0, 0]));

// The rim by which a layer is turned by hand: a ring around its pivot, as large as the layer, within reason.
function rimOf(shape) {
  const [x, y] = pivotOnScreen(shape);
  let far = 0;
  for (const { layer, matrix, index, trail } of shapesOf(bench.answer, bench.frame)) {
    if (layer.layers || !(layer.id === shape.layer.id || trail.includes(shape.layer.id))) continue;
    const { a, b, c, d, e, f } = matrix;
    const points = pointsOf(layer, index);
    for (let k = 0; k + 1 < points.length; k += 2) {
      const sx = view.x + (a * points[k] + c * points[k + 1] + e) * view.zoom;
      const sy = view.y + (b * points[k] + d * points[k + 1] + f) * view.zoom;
      far = Math.max(far, Math.hypot(sx - x, sy - y));
    }
  }
  return { x, y, radius: Math.min(Math.max(far + 12, 40), Math.min(stage.clientWidth, stage.clientHeight) * 0.42) };
}

// Whether a press is meant for the rim. Where it crosses a layer, the layer is; the knob is always the knob.
function onRim(event, shape, rim) {
  const at = turnOf(shape);
  const knob = Math.hypot(rim.x + Math.cos(at) * rim.radius - event.offsetX, rim.y + Math.sin(at) * rim.radius - event.offsetY);
  const ring = Math.abs(Math.hypot(rim.x - event.offsetX, rim.y - event.offsetY) - rim.radius) < 5;
  return knob < 12 || (ring && !under(toScene(event), true));
}

const turnOf = ({ matrix }) => Math.atan2(matrix.b, matrix.a);

function drawRim(context, shape) {
  const { x, y, radius } = rimOf(shape);
  const at = turnOf(shape) + (turning?.more ?? 0);
  context.strokeStyle = colours.brass;
  context.lineWidth = 1;
  context.globalAlpha = turning ? 0.9 : 0.45;
  context.setLineDash([2, 4]);
  context.beginPath();
  context.arc(x, y, radius, 0, 7);
  context.stroke();
  context.setLineDash([]);
  context.globalAlpha = 1;
  const [kx, ky] = [x + Math.cos(at) * radius, y + Math.sin(at) * radius];
  context.beginPath();
  context.arc(kx, ky, 6, 0, 7);
  context.fillStyle = turning ? colours.brass : colours.sheet;
  context.lineWidth = 1.6;
  context.fill();
  context.stroke();
  if (turning) {
    context.font = "600 12px 'Martian Mono'";
    context.textAlign = "center";
    context.fillStyle = colours.ink;
    context.fillText(`${figure(turning.by, 1)}°`, x + Math.cos(at) * (radius + 26), y + Math.sin(at) * (radius + 26) + 4);
  }
}

// While a driver is pointed at, everything that can drive is outlined in the drivers' colour.
function drawDrivers(context, answer, ratio) {
  for (const { layer, matrix, index, trail } of shapesOf(answer, bench.frame)) {
    const able = [...trail, layer.id].some((id) => bench.pointing.tops.has(id));
    if (layer.layers || !able) continue;
    const here = bench.pointing.hover && [...trail, layer.id].includes(bench.pointing.hover);
    const scale = Math.sqrt(Math.abs(matrix.a * matrix.d - matrix.b * matrix.c)) || 1;
    context.save();
    context.setTransform(ratio * view.zoom, 0, 0, ratio * view.zoom, ratio * view.x, ratio * view.y);
    context.transform(matrix.a, matrix.b, matrix.c, matrix.d, matrix.e, matrix.f);
    context.strokeStyle = colours.sea;
    context.globalAlpha = here ? 1 : 0.6;
    context.lineWidth = (here ? 3.5 : 1) / (view.zoom * scale);
    context.stroke(pathOf(layer, index));
    context.restore();
  }
}

function drawPivot(context, { layer, matrix }) {
  const [px, py] = pivotOf(layer.id).length ? pivotOf(layer.id) : [0, 0];
  const [x, y] = toScreen(matrix, px, py);
  context.lineWidth = 1.6;
  context.strokeStyle = colours.brass;
  context.fillStyle = colours.sheet;
  context.beginPath();
  context.arc(x, y, 5.5, 0, 7);
  context.fill();
  context.stroke();
  context.beginPath();
  for (const [dx, dy] of [[1, 0], [-1, 0], [0, 1], [0, -1]]) {
    context.moveTo(x + dx * 5.5, y + dy * 5.5);
    context.lineTo(x + dx * 10, y + dy * 10);
  }
  context.stroke();
  context.fillStyle = colours.brass;
  context.beginPath();
  context.arc(x, y, 1.6, 0, 7);
  context.fill();
}

function drawPath(context, answer) {
  const way = answer.path && channel(answer.path);
  if (!way) return;
  const at = (k) => [view.x + way.data[k * 2] * view.zoom, view.y + way.data[k * 2 + 1] * view.zoom];
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
  const [x, y] = at(Math.min(Math.floor(bench.frame), way.rows - 1));
  context.strokeStyle = colours.brass;
  context.lineWidth = 1.5;
  context.beginPath();
  context.arc(x, y, 4.5, 0, 7);
  context.stroke();
}

// The topmost layer under a point: its outermost group, or, inside a chosen group, the layer itself.
const probe = document.createElement("canvas").getContext("2d");

function under(point, deep) {
  let found = null;
  for (const { layer, matrix, trail, index } of shapesOf(bench.answer, bench.frame)) {
    if (layer.layers || row(layer.opacity, index)[0] <= 0) continue;
    probe.setTransform(matrix);
    const path = pathOf(layer, index);
    const width = row(layer.width, index)[0];
    const scale = Math.sqrt(Math.abs(matrix.a * matrix.d - matrix.b * matrix.c)) || 1;
    probe.lineWidth = Math.max(width, 8 / (view.zoom * scale));
    const inside = layer.fill !== "none" && probe.isPointInPath(path, point.x, point.y);
    const near = (width > 0 || layer.fill === "none") && probe.isPointInStroke(path, point.x, point.y);
    if (inside || near) {
      const entered = trail.findLastIndex((group) => bench.layers.includes(group) || bench.layers.some((l) => trail.includes(l)));
      found = deep ? layer.id : [...trail, layer.id][Math.max(entered, 0)];
      if (!deep && trail.some((group) => bench.layers.includes(group))) found = trail.find((group) => bench.layers.includes(group));
      if (bench.layers.includes(layer.id)) found = layer.id;
    }
  }
  return found;
}

handles.addEventListener("pointerdown", (event) => {
  handles.focus({ preventScroll: true });
  if (!bench.answer) return;
  if (bench.pointing && event.button === 0 && !event.altKey) return;
  handles.setPointerCapture(event.pointerId);
  if (event.button === 1 || (event.button === 0 && event.altKey)) return pan(event);
  if (event.button !== 0) return;
  const last = chosenShapes(bench.answer).find(({ layer }) => layer.id === bench.layers.at(-1));
  if (last) {
    const [x, y] = toScreen(last.matrix, ...(pivotOf(last.layer.id).length ? pivotOf(last.layer.id) : [0, 0]));
    if (Math.hypot(x - event.offsetX, y - event.offsetY) < 10) return dragPivot(event, last);
    const rim = rimOf(last);
    if (onRim(event, last, rim)) return turnLayer(event, last, rim);
  }
  const hit = under(toScene(event), event.ctrlKey || event.metaKey);
  if (!hit) { if (!event.shiftKey) chooseLayers([]); return; }
  if (event.shiftKey) chooseLayers(bench.layers.includes(hit) ? bench.layers.filter((id) => id !== hit) : [...bench.layers, hit]);
  else if (!bench.layers.includes(hit)) chooseLayers([hit]);
  if (bench.layers.includes(hit)) dragLayers(event);
});

handles.addEventListener("dblclick", (event) => {
  const hit = bench.answer && under(toScene(event), true);
  if (hit) chooseLayers([hit]);
});

function drag(event, move, done) {
  const first = toScene(event);
  let moved = false;
  const moving = (e) => {
    if (!moved && Math.hypot(e.offsetX - event.offsetX, e.offsetY - event.offsetY) < 3) return;
    moved = true;
    move(toScene(e), first, e);
  };
  const end = (commit) => {
    handles.removeEventListener("pointermove", moving);
    handles.removeEventListener("pointerup", up);
    document.removeEventListener("keydown", escape, true);
    if (moved) done(commit);
  };
  const up = () => end(true);
  const escape = (e) => { if (e.key === "Escape") { e.stopPropagation(); end(false); } };
  handles.addEventListener("pointermove", moving);
  handles.addEventListener("pointerup", up);
  document.addEventListener("keydown", escape, true);
}

// Layers whose group is not chosen itself, with the matrix of the group they lie in.
function movable() {
  return chosenShapes(bench.answer).filter(({ trail }) => !trail.some((group) => bench.layers.includes(group)));
}

const moveEdits = (shapes, dx, dy, reach = 0) =>
  shapes.length ? [{ kind: "move layers", layers: shapes.map(({ layer }) => layer.id), by: [dx, dy], frame: Math.floor(bench.frame), reach }] : [];

const drivenBy = (field) => document.querySelector(`[data-field][data-parameter="${bench.layers.at(-1)}.${field}"].is-driven .driven`);

function tellDriven(field, driven) {
  const driver = driven.dataset.choose;
  say(`Its ${field} follows ${driven.textContent}: pull that, or cut the link.`, "plain", driver ? { words: "Go there", run: () => chooseParameter(driver) } : null);
}

// Turning a layer by its rim; whole turns add up. Shift turns by steps of 15°.
let turning = null;

function turnLayer(event, shape, rim) {
  const driven = drivenBy("rotation");
  if (driven) return tellDriven("rotation", driven);
  const mirrored = shape.outer.a * shape.outer.d - shape.outer.b * shape.outer.c < 0 ? -1 : 1;
  const angle = (e) => Math.atan2(e.offsetY - rim.y, e.offsetX - rim.x) * 180 / Math.PI;
  let last = angle(event), sum = 0, edits = [];
  drag(event, (now, first, e) => {
    const here = angle(e);
    sum += ((here - last + 540) % 360) - 180;
    last = here;
    const by = e.shiftKey ? Math.round(sum / 15) * 15 : Math.round(sum * 2) / 2;
    turning = { by: by * mirrored, more: 0 };
    edits = by ? [{ kind: "set value", parameter: `${shape.layer.id}.rotation`, by: [by * mirrored], frame: Math.floor(bench.frame), by_hand: true }] : [];
    ask(withScene(edits));
  }, (commit) => { turning = null; finish(edits, commit); });
}

// At the click, not before: a menu that opens while the button is down would be closed by its release.
handles.addEventListener("click", (event) => { if (bench.pointing && bench.answer && !event.altKey) pointedAt(event); });

async function pointedAt(event) {
  const deep = under(toScene(event), true);
  if (!deep) return;
  const hit = under(toScene(event), event.ctrlKey || event.metaKey);
  await pointingReady();
  if (!bench.pointing) return;
  const top = bench.pointing.tops.has(hit) ? hit : deep;
  const name = document.querySelector(`[data-layer="${CSS.escape(top)}"]`)?.dataset.name ?? "This";
  pickFrom(handles, top, name, event);
}

function dragLayers(event) {
  const shapes = movable();
  const driven = drivenBy("position");
  let edits = [];
  drag(event, (now, first, e) => {
    let dx = Math.round(now.x - first.x), dy = Math.round(now.y - first.y);
    if (e.shiftKey) { if (Math.abs(dx) > Math.abs(dy)) dy = 0; else dx = 0; }
    edits = moveEdits(shapes, dx, dy, 12 / view.zoom);
    ask(withScene(edits));
  }, (commit) => {
    if (driven) tellDriven("position", driven);
    finish(edits, commit)?.then(() => { if (commit && shapes.length === 1) offerMesh(shapes[0].layer.id); });
  });
}

function dragPivot(event, { layer, matrix }) {
  const inverse = matrix.inverse();
  let edits = [];
  drag(event, (now) => {
    const to = inverse.transformPoint(now);
    edits = [{ kind: "move pivot", layer: layer.id, to: [Math.round(to.x * 10) / 10, Math.round(to.y * 10) / 10], frame: Math.floor(bench.frame) }];
    ask(withScene(edits));
  }, (commit) => finish(edits, commit));
}

function finish(edits, commit, label = "") {
  if (commit && edits.length) return keep(edits, label).catch((error) => complainAt(stage, error.message));
  ask([]);
  return null;
}

// A gear that was brought to another may want to turn with it.
async function offerMesh(layer) {
  if (document.querySelector(`[data-layer="${CSS.escape(layer)}"]`)?.dataset.kind !== "gear") return;
  const response = await fetch(`${sceneUrl("meshing")}?${new URLSearchParams({ layer })}`);
  const told = response.ok ? await response.json() : {};
  if (told.other) say(`In mesh with ${told.other}.`, "plain", { words: "Let them turn together", run: () => openTie(told.follower, told.driver, null) });
}

export function nudge(dx, dy) {
  const edits = moveEdits(movable(), dx, dy);
  if (edits.length) finish(edits, true);
}

function pan(event) {
  event.preventDefault();
  const from = { x: view.x - event.clientX, y: view.y - event.clientY };
  const move = (e) => { Object.assign(view, { x: from.x + e.clientX, y: from.y + e.clientY, fitted: false }); draw(); };
  handles.addEventListener("pointermove", move);
  handles.addEventListener("pointerup", () => handles.removeEventListener("pointermove", move), { once: true });
}

handles.addEventListener("wheel", (event) => {
  event.preventDefault();
  const zoom = Math.min(Math.max(view.zoom * Math.exp(-event.deltaY * 0.0015), 0.05), 16);
  view.x = event.offsetX - ((event.offsetX - view.x) / view.zoom) * zoom;
  view.y = event.offsetY - ((event.offsetY - view.y) / view.zoom) * zoom;
  Object.assign(view, { zoom, fitted: false });
  draw();
}, { passive: false });

handles.addEventListener("pointermove", (event) => {
  if (!bench.pointing || !bench.answer) return;
  const hit = under(toScene(event), true);
  if (hit === bench.pointing.hover) return;
  bench.pointing.hover = hit;
  const name = hit && document.querySelector(`[data-layer="${CSS.escape(hit)}"]`)?.dataset.name;
  document.querySelector("[data-pointing-hover]").textContent = name ? `This is ${name}.` : "";
  draw();
});

// The pointer says what a press would do: turn by the rim, or nothing special.
handles.addEventListener("pointermove", (event) => {
  if (event.buttons || bench.pointing || !bench.answer) return;
  const last = lastChosen(bench.answer);
  const turns = last && onRim(event, last, rimOf(last));
  handles.style.cursor = turns ? "grab" : "";
  handles.title = turns ? "Turn it by hand; with Shift by steps of 15°" : "";
});
on("pointing", draw);
on("values", draw);
on("frame", draw);
on("size", fit);

let shownSize = "";
on("values", () => {
  const now = `${bench.width}x${bench.height}`;
  if (now !== shownSize) { shownSize = now; fit(); }
});
takeDrops(stage, toScene);
new ResizeObserver(size).observe(stage);

// For tests: where the rim's centre and its knob lie on the page.
export function rimOnPage() {
  const shape = lastChosen(bench.answer), box = handles.getBoundingClientRect();
  const { x, y, radius } = rimOf(shape), at = turnOf(shape);
  return { centre: [box.left + x, box.top + y], knob: [box.left + x + Math.cos(at) * radius, box.top + y + Math.sin(at) * radius] };
}

// For tests and measurements: the scene's own pixels, drawn at its own size.
export function scenePixels(frame) {
  const canvas = new OffscreenCanvas(bench.width, bench.height);
  const context = canvas.getContext("2d", { willReadFrequently: true });
  drawScene(context, bench.answer, frame);
  return context.getImageData(0, 0, bench.width, bench.height).data;
}
