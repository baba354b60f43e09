// @ts-check
// The stage: the picture, zoom and pan, choosing and dragging layers and pivots, ghost and motion path.
import { nudging } from "../lib/nudging.js";
import { setViews, views } from "../talk/views.js";
import { remember } from "../talk/address.js";
import { answers } from "../talk/answers.js";
import { choice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { on } from "../talk/events.js";
import { hands } from "../talk/hands.js";
import { scene, sceneUrl } from "../talk/scene.js";
import { dragging, grip } from "../lib/dragging.js";
import { answerAt, requestFrames, commitEdits, withScene } from "../talk/server.js";
import { drawExposed } from "../display/exposing.js";
import { drawScene } from "../display/list.js";
import { exposureOn, playedBy } from "./exposure.js";
import { paintedAside, rest } from "./painter.js";
import { along, cameraOf, carried, nearer } from "./camera_hand.js";
import { handleAt, handlesOfArray } from "./array_handles.js";
import { drawHandles, hand, onPivot, onRim, pivotHandle, rimOf, turnOf } from "./stage_handles.js";
import { chosenShapes, copiesHit, lastChosen, pivotOf, shapes, toScene, under, view } from "./stage_view.js";
import { chooseLayers, tellDriven } from "../talk/choosing.js";
import { complainAt, say } from "../talk/notes.js";
import { openTie, pickFrom, pointingReady } from "./pointing.js";
import { takeDrops } from "../talk/pictures.js";

const stage = document.getElementById("stage");
const picture = document.getElementById("picture");
const handles = document.getElementById("handles");
const zoomText = document.getElementById("zoom");

export function fit() {
  const pad = 26,
    top = 34;
  view.zoom = Math.min((stage.clientWidth - 2 * pad) / scene.width, (stage.clientHeight - pad - top) / scene.height);
  view.x = (stage.clientWidth - scene.width * view.zoom) / 2;
  view.y = top + (stage.clientHeight - top - pad - scene.height * view.zoom) / 2;
  view.fitted = true;
  draw();
}

function size() {
  const ratio = devicePixelRatio || 1;
  for (const canvas of [picture, handles]) {
    canvas.width = Math.round(stage.clientWidth * ratio);
    canvas.height = Math.round(stage.clientHeight * ratio);
  }
  if (view.fitted) fit();
  else draw();
}

const transform = context => context.setTransform(...matrixNow());

const matrixNow = () => {
  const ratio = devicePixelRatio || 1;
  return [ratio * view.zoom, 0, 0, ratio * view.zoom, ratio * view.x, ratio * view.y];
};

// The picture itself: by a worker while it plays, else here.
function paint(answer) {
  const frame = Math.floor(clock.frame),
    shutter = playedBy(answer, frame);
  if (paintedAside(answer, frame, matrixNow(), picture, shutter)) return;
  const context = picture.getContext("2d");
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.clearRect(0, 0, picture.width, picture.height);
  const exposed = exposureOn(picture, transform, `${view.zoom} ${view.x} ${view.y} ${picture.width} ${picture.height}`);
  if (exposed) context.drawImage(exposed, 0, 0);
  else if (shutter) drawExposed(context, transform, answer, shutter, frame);
  else {
    transform(context);
    drawScene(context, answer, clock.frame, clock.playing);
  }
  if (!clock.playing) rest();
}

export function draw() {
  const answer = answerAt(clock.frame);
  if (!answer) return;
  paint(answer);
  drawHandles(answer);
  zoomText.textContent = `${Math.round(view.zoom * 100)} %`;
  document.getElementById("stage-empty").hidden = answer.nodes.length > 0;
}

handles.addEventListener("pointerdown", event => {
  handles.focus({ preventScroll: true });
  if (!answers.last) return;
  if (hands.pointing && event.button === 0 && !event.altKey) return;
  if (dragging()) return;
  if (event.button === 1 || (event.button === 0 && event.altKey)) return pan(event);
  if (event.button !== 0) return;
  const handle = handleAt(event);
  if (handle) return dragHandle(event, handle);
  const last = lastChosen();
  if (last) {
    if (onPivot(event, last)) return dragPivot(event, last);
    const rim = rimOf(last);
    if (onRim(event, last, rim)) return turnLayer(event, last, rim);
  }
  const hit = under(toScene(event), event.ctrlKey || event.metaKey);
  if (!hit && (event.ctrlKey || event.metaKey) && cameraOf()) return turnCamera(event);
  if (!hit) {
    if (!event.shiftKey) chooseLayers([]);
    return;
  }
  const copies = copiesHit();
  if (Object.keys(copies).length) setViews({ copies: { ...views.copies, ...copies } });
  if (event.shiftKey)
    chooseLayers(choice.layers.includes(hit) ? choice.layers.filter(id => id !== hit) : [...choice.layers, hit]);
  else if (!choice.layers.includes(hit)) chooseLayers([hit]);
  else if (Object.keys(copies).length) {
    remember();
    requestFrames([]);
  }
  if (choice.layers.includes(hit)) dragLayers(event);
});

handles.addEventListener("dblclick", event => {
  const hit = answers.last && under(toScene(event), true);
  if (hit) chooseLayers([hit]);
});

function drag(event, move, done) {
  const first = toScene(event);
  let moved = false;
  const moving = e => {
    if (!moved && Math.hypot(e.offsetX - event.offsetX, e.offsetY - event.offsetY) < 3) return;
    moved = true;
    move(toScene(e), first, e);
  };
  grip(handles, event, {
    move: moving,
    end: commit => {
      if (moved) done(commit);
    },
  });
}

// Layers whose group is not chosen itself, with the matrix of the group they lie in.
function movable() {
  const all = chosenShapes().filter(({ trail }) => !trail.some(group => choice.layers.includes(group)));
  // A layer that is drawn many times is moved once.
  return [...new Map(all.map(shape => [shape.node.id, shape])).values()];
}

const moveEdits = (shapes, dx, dy, reach = 0) =>
  shapes.length
    ? [
        {
          kind: "move layers",
          layers: shapes.map(({ node }) => node.id),
          by: [dx, dy],
          frame: Math.floor(clock.frame),
          reach,
        },
      ]
    : [];

const drivenBy = field =>
  document.querySelector(`[data-field][data-parameter="${choice.layers.at(-1)}.${field}"].is-driven .driven`);

// Turning a layer by its rim; whole turns add up. Shift turns by steps of 15°.
function turnLayer(event, shape, rim) {
  const driven = drivenBy("rotation");
  if (driven) return tellDriven("Its rotation", driven);
  const mirrored = shape.outer.a * shape.outer.d - shape.outer.b * shape.outer.c < 0 ? -1 : 1;
  const angle = e => (Math.atan2(e.offsetY - rim.y, e.offsetX - rim.x) * 180) / Math.PI;
  let last = angle(event),
    sum = 0,
    edits = [];
  drag(
    event,
    (now, first, e) => {
      const here = angle(e);
      sum += ((here - last + 540) % 360) - 180;
      last = here;
      const by = e.shiftKey ? Math.round(sum / 15) * 15 : Math.round(sum * 2) / 2;
      hand.turning = { by: by * mirrored };
      edits = by
        ? [
            {
              kind: "set value",
              parameter: `${shape.node.id}.rotation`,
              by: [by * mirrored],
              frame: Math.floor(clock.frame),
              by_hand: true,
            },
          ]
        : [];
      requestFrames(withScene(edits));
    },
    commit => {
      hand.turning = null;
      finish(edits, commit);
    },
  );
}

// At the click, not before: a menu that opens while the button is down would be closed by its release.
handles.addEventListener("click", event => {
  if (hands.pointing && answers.last && !event.altKey) pointedAt(event);
});

async function pointedAt(event) {
  const deep = under(toScene(event), true);
  if (!deep) return;
  const hit = under(toScene(event), event.ctrlKey || event.metaKey);
  await pointingReady();
  if (!hands.pointing) return;
  const top = hands.pointing.tops.has(hit) ? hit : deep;
  const name = document.querySelector(`[data-layer="${CSS.escape(top)}"]`)?.dataset.name ?? "This";
  pickFrom(handles, top, name, event);
}

function dragLayers(event) {
  const shapes = movable();
  const driven = drivenBy("position");
  let edits = [];
  drag(
    event,
    (now, first, e) => {
      let dx = Math.round(now.x - first.x),
        dy = Math.round(now.y - first.y);
      if (e.shiftKey) {
        if (Math.abs(dx) > Math.abs(dy)) dy = 0;
        else dx = 0;
      }
      edits = moveEdits(shapes, dx, dy, 12 / view.zoom);
      requestFrames(withScene(edits));
    },
    commit => {
      if (driven) tellDriven("Its position", driven);
      finish(edits, commit)?.then(() => {
        if (commit && shapes.length === 1) offerMesh(shapes[0].node.id);
      });
    },
  );
}

// A handle of an array: how its copies stand, a zone, where the order begins.
function dragHandle(event, handle) {
  let edits = [];
  drag(
    event,
    to => {
      edits = handle.edits(to);
      requestFrames(withScene(edits));
    },
    commit => finish(edits, commit),
  );
}

function dragPivot(event, { node, matrix }) {
  const inverse = matrix.inverse();
  const [px, py] = pivotOf(node.id).length ? pivotOf(node.id) : [0, 0];
  let edits = [];
  drag(
    event,
    (now, first) => {
      const [to, from] = [inverse.transformPoint(now), inverse.transformPoint(first)];
      edits = [
        {
          kind: "move pivot",
          layer: node.id,
          to: [px + to.x - from.x, py + to.y - from.y].map(v => Math.round(v * 10) / 10),
          frame: Math.floor(clock.frame),
        },
      ];
      requestFrames(withScene(edits));
    },
    commit => finish(edits, commit),
  );
}

function finish(edits, commit, label = "") {
  if (commit && edits.length) return commitEdits(edits, label).catch(error => complainAt(stage, error.message));
  requestFrames([]);
  return null;
}

// A gear that was brought to another may want to turn with it.
async function offerMesh(layer) {
  if (document.querySelector(`[data-layer="${CSS.escape(layer)}"]`)?.dataset.kind !== "gear") return;
  const response = await fetch(`${sceneUrl("meshing")}?${new URLSearchParams({ layer })}`);
  const told = response.ok ? await response.json() : {};
  if (told.other)
    say(`In mesh with ${told.other}.`, "plain", {
      words: "Let them turn together",
      run: () => openTie(told.follower, told.driver, null),
    });
}

export const nudge = nudging(
  (dx, dy) => requestFrames(withScene(moveEdits(movable(), dx, dy))),
  (dx, dy) => finish(moveEdits(movable(), dx, dy), true),
);

function pan(event) {
  event.preventDefault();
  const from = { x: view.x - event.clientX, y: view.y - event.clientY };
  const move = e => {
    Object.assign(view, { x: from.x + e.clientX, y: from.y + e.clientY, fitted: false });
    draw();
  };
  grip(handles, event, { move, end: () => {} });
}

// The empty stage with Ctrl held: the camera goes round its aim; with Shift too it moves along with it.
function turnCamera(event) {
  const camera = cameraOf();
  const began = along(camera);
  let edits = [];
  drag(
    event,
    (now, first, e) => {
      const [dx, dy] = [e.offsetX - event.offsetX, e.offsetY - event.offsetY];
      edits = event.shiftKey ? began(dx / view.zoom, dy / view.zoom) : carried(camera, dx, dy);
      requestFrames(withScene(edits));
    },
    commit => finish(edits, commit, "Camera turned by hand"),
  );
}

// With Ctrl the wheel brings the camera nearer to its aim: tried at once, kept when the wheel rests.
let wheeled = 1,
  resting = null,
  from = null;
function roll(event) {
  from ??= nearer(cameraOf());
  wheeled *= Math.exp(event.deltaY * 0.001);
  const edits = from(wheeled);
  requestFrames(withScene(edits));
  clearTimeout(resting);
  resting = setTimeout(() => {
    wheeled = 1;
    from = null;
    finish(edits, true, "Camera moved by hand");
  }, 300);
}

handles.addEventListener(
  "wheel",
  event => {
    event.preventDefault();
    if ((event.ctrlKey || event.metaKey) && cameraOf()) return roll(event);
    const zoom = Math.min(Math.max(view.zoom * Math.exp(-event.deltaY * 0.0015), 0.05), 16);
    view.x = event.offsetX - ((event.offsetX - view.x) / view.zoom) * zoom;
    view.y = event.offsetY - ((event.offsetY - view.y) / view.zoom) * zoom;
    Object.assign(view, { zoom, fitted: false });
    draw();
  },
  { passive: false },
);

handles.addEventListener("pointermove", event => {
  if (!hands.pointing || !answers.last) return;
  const hit = under(toScene(event), true);
  if (hit === hands.pointing.hover) return;
  hands.pointing.hover = hit;
  const name = hit && document.querySelector(`[data-layer="${CSS.escape(hit)}"]`)?.dataset.name;
  document.querySelector("[data-pointing-hover]").textContent = name ? `This is ${name}.` : "";
  draw();
});

// The pointer says what a press would do: turn by the rim, or nothing special.
handles.addEventListener("pointermove", event => {
  if (event.buttons || hands.pointing || !answers.last) return;
  const handle = handleAt(event),
    last = handle ? null : lastChosen();
  const pivots = last && onPivot(event, last);
  const turns = last && !pivots && onRim(event, last, rimOf(last));
  const hit = !handle && !pivots && !turns && under(toScene(event), event.ctrlKey || event.metaKey);
  const moves = handle || (hit && choice.layers.includes(hit));
  handles.style.cursor = pivots ? "crosshair" : turns ? "grab" : moves ? "move" : hit ? "pointer" : "";
  handles.title = handle
    ? handle.words
    : pivots
      ? "Its pivot: drag it, the layer stays"
      : turns
        ? "Turn it by hand; with Shift by steps of 15°"
        : copyUnder(event);
});

// Which copy lies under the pointer, in words.
function copyUnder(event) {
  if (!document.querySelector('[data-layer][data-kind="array"]')) return "";
  under(toScene(event), true);
  return Object.entries(copiesHit())
    .map(
      ([array, copy]) =>
        `copy ${copy} of ${document.querySelector(`[data-layer="${CSS.escape(array)}"]`)?.dataset.name ?? "its array"}`,
    )
    .reverse()
    .join(", ");
}

on("pointing", draw);
on("values", draw);
on("frame", draw);
on("size", fit);

let shownSize = "";
on("values", () => {
  const now = `${scene.width}x${scene.height}`;
  if (now !== shownSize) {
    shownSize = now;
    fit();
  }
});
takeDrops(stage, toScene);
new ResizeObserver(size).observe(stage);

// For tests: where the rim's centre and its knob lie on the page.
export function rimOnPage() {
  const shape = lastChosen(),
    box = handles.getBoundingClientRect();
  if (!shape) return null;
  const { x, y, radius } = rimOf(shape),
    at = turnOf(shape);
  const [px, py] = pivotHandle(shape);
  return {
    centre: [box.left + x, box.top + y],
    pivot: [box.left + px, box.top + py],
    knob: [box.left + x + Math.cos(at) * radius, box.top + y + Math.sin(at) * radius],
  };
}

// For tests: the handles of the chosen array, and where a copy of a layer lies on the page.
export function handlesOnPage() {
  const box = handles.getBoundingClientRect();
  return handlesOfArray().map(({ at: [x, y], words }) => ({ words, at: [box.left + x, box.top + y] }));
}
export function copyOnPage(layer, copy) {
  const box = handles.getBoundingClientRect();
  const shape = shapes().find(({ node, copies }) => node.id === layer && Object.values(copies).at(-1) === copy);
  const { e, f } = shape.matrix;
  return [box.left + view.x + e * view.zoom, box.top + view.y + f * view.zoom];
}

// For tests and measurements: the scene's own pixels, drawn at its own size.
export function scenePixels(frame) {
  const canvas = new OffscreenCanvas(scene.width, scene.height);
  const context = canvas.getContext("2d", { willReadFrequently: true });
  drawScene(context, answerAt(frame), frame);
  return context.getImageData(0, 0, scene.width, scene.height).data;
}
