// @ts-check
// The view from above, while something lies in depth: layers, copies, the camera and the light, dragged over the
// ground.
import { answers } from "../talk/answers.js";
import { choice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { on } from "../talk/events.js";
import { scene } from "../talk/scene.js";
import { setViews, views } from "../talk/views.js";
import { extentOf, row } from "../lib/channels.js";
import { requestFrames, commitEdits, withScene } from "../talk/server.js";
import { grip } from "../lib/dragging.js";
import { chooseLayers } from "../talk/choosing.js";
import { cameraOf, dragged, shifted, spotOf } from "./camera_hand.js";
import { fitCanvas, highOf, wideOf } from "../lib/canvases.js";
import { colours } from "../lib/charts.js";
import { complainAt } from "../talk/notes.js";
import { first } from "../lib/places.js";

const panel = document.getElementById("plan"),
  canvas = /** @type {HTMLCanvasElement} */ (document.getElementById("plan-canvas"));
const button = document.querySelector(".stage-tools [data-do=plan]");
const PAD = 14,
  REACH = 10,
  FAR = 20_000;

setViews({ plan: sessionStorage.getItem("plan") !== "folded" });

export function fold() {
  setViews({ plan: !views.plan });
  sessionStorage.setItem("plan", views.plan ? "open" : "folded");
  show();
  requestFrames([]);
}

function show() {
  const deep = Boolean(first("[data-in-depth]"));
  button.hidden = !deep;
  button.setAttribute("aria-pressed", String(views.plan));
  panel.hidden = !deep || !views.plan;
  if (!panel.hidden) draw();
}

// Where the ground lies in the canvas: held while something is dragged.
let frame = null,
  held = null;

function framed(plan) {
  let [left, right, back, front] = [0, scene.width, -100, 100];
  const take = ({ x, z }) => {
    if (Math.abs(x) > FAR || Math.abs(z) > FAR) return;
    [left, right, back, front] = [Math.min(left, x), Math.max(right, x), Math.min(back, z), Math.max(front, z)];
  };
  for (const { spots } of plan.things) for (let k = 0; k < extentOf(spots).each; k += 1) take(spotOf(spots, k));
  if (plan.camera) {
    take(spotOf(plan.camera.eye));
    take(spotOf(plan.camera.aim));
  }
  if (plan.light) take(spotOf(plan.light.spots));
  const size = Math.min((wideOf(canvas) - 2 * PAD) / (right - left), (highOf(canvas) - 2 * PAD) / (front - back));
  return {
    size,
    x: wideOf(canvas) / 2 - (size * (left + right)) / 2,
    z: highOf(canvas) / 2 - (size * (back + front)) / 2,
  };
}

/** @returns {[number, number]} */
const toCanvas = ({ x, z }) => [frame.x + x * frame.size, frame.z + z * frame.size];
const toGround = event => ({ x: (event.offsetX - frame.x) / frame.size, z: (event.offsetY - frame.z) / frame.size });

function draw() {
  const plan = answers.last?.plan,
    context = fitCanvas(canvas);
  if (!plan || !context) return;
  context.clearRect(0, 0, wideOf(canvas), highOf(canvas));
  if (!held) frame = framed(plan);
  const line = (points, colour, width = 1) => {
    context.beginPath();
    for (const point of points) context.lineTo(point[0], point[1]);
    context.strokeStyle = colour;
    context.lineWidth = width;
    context.stroke();
  };
  const dot = ([x, y], radius, fill, rim = null) => {
    context.beginPath();
    context.arc(x, y, radius, 0, 7);
    context.fillStyle = fill;
    context.fill();
    if (rim) {
      context.strokeStyle = rim;
      context.lineWidth = 1.5;
      context.stroke();
    }
  };
  // The stage itself, seen on edge.
  line([toCanvas({ x: 0, z: 0 }), toCanvas({ x: scene.width, z: 0 })], colours.faded, 2);
  if (plan.camera) view(context, plan.camera, line);
  for (const zone of zonesOf(plan)) drawZone(context, zone, line, dot);
  for (const { id, spots, counts } of plan.sparks) {
    context.fillStyle = choice.layers.includes(id) ? colours.brass : colours.ink;
    const [count] = row(counts, Math.floor(clock.frame) - answers.last.start);
    for (let k = 0; k < count; k += 1) {
      const [x, y] = toCanvas(spotOf(spots, k));
      context.fillRect(x - 0.8, y - 0.8, 1.6, 1.6);
    }
  }
  const ordered = [...plan.things].sort(
    (a, b) => Number(choice.layers.includes(a.id)) - Number(choice.layers.includes(b.id)),
  );
  for (const { id, spots } of ordered) {
    const many = extentOf(spots).each,
      chosen = choice.layers.includes(id);
    for (let k = 0; k < many; k += 1)
      dot(toCanvas(spotOf(spots, k)), many > 1 ? 1.8 : chosen ? 4 : 3, chosen ? colours.brass : colours.ink);
  }
  if (plan.light) {
    const [x, y] = toCanvas(spotOf(plan.light.spots));
    for (let k = 0; k < 8; k += 1)
      line(
        [
          [x, y],
          [x + 8 * Math.cos((k * Math.PI) / 4), y + 8 * Math.sin((k * Math.PI) / 4)],
        ],
        colours.brass,
      );
    dot([x, y], 4, colours.sheet, colours.brass);
  }
  if (plan.camera) {
    const chosen = choice.layers.includes(plan.camera.id);
    dot(toCanvas(spotOf(plan.camera.aim)), 4, "transparent", colours.sea);
    dot(toCanvas(spotOf(plan.camera.eye)), 5, chosen ? colours.brass : colours.sea, colours.sheet);
  }
}

// The zones of the chosen array.
const zonesOf = plan => plan.zones.filter(({ array }) => choice.layers.includes(array));
const told = key => row(key, Math.floor(clock.frame) - answers.last.start);
const reachOf = ({ reach }) => told(reach);
const turnOf = ({ turn }) => (told(turn)[0] * Math.PI) / 180;

// Where something lies on the ground that is told by shares of a zone's size, turned as it is.
function inZone(zone, x, z) {
  const at = spotOf(zone.spots),
    [wide, deep] = reachOf(zone),
    turn = turnOf(zone),
    [across, ahead] = [x * wide, z * deep];
  return {
    x: at.x + across * Math.cos(turn) - ahead * Math.sin(turn),
    z: at.z + across * Math.sin(turn) + ahead * Math.cos(turn),
  };
}

// What is dragged of a zone: how far it reaches across and in depth, and how it is turned.
function gripsOf(zone) {
  const [wide, deep] = reachOf(zone),
    at = spotOf(zone.spots),
    turn = turnOf(zone),
    frame = Math.floor(clock.frame);
  const set = (name, value) => [{ kind: "set value", parameter: `${zone.id}.${name}`, value, frame }];
  const tenth = value => Math.max(Math.round(value * 10) / 10, 1);
  const put = (words, spot, edits) => ({
    id: zone.array,
    words: `${zone.name}: ${words}`,
    spots: null,
    at: spot,
    free: true,
    edits: (_, to) => edits(to),
  });
  const found = [];
  if (deep > 0)
    found.push(
      put("how deep it is", inZone(zone, 0, 1), to =>
        set("size_depth", tenth(Math.abs((to.z - at.z) * Math.cos(turn) - (to.x - at.x) * Math.sin(turn)))),
      ),
    );
  if (zone.lined || wide > FAR) return found;
  found.push(
    put("how wide it is", inZone(zone, 1, 0), to => {
      const [across, down] = told(zone.size),
        far = tenth(Math.abs((to.x - at.x) * Math.cos(turn) + (to.z - at.z) * Math.sin(turn)));
      // One that is turned on the stage as well grows as a whole.
      return set("size", zone.slanted ? [across, down].map(v => tenth((v * far) / Math.max(wide, 1e-6))) : [far, down]);
    }),
  );
  if (deep > 0)
    found.push(
      put("how it is turned", turnedAt(zone), to =>
        set("turn", Math.round((Math.atan2(to.z - at.z, to.x - at.x) * 180) / Math.PI)),
      ),
    );
  return found;
}

// A little further out than its edge.
function turnedAt(zone) {
  const edge = inZone(zone, 1, 0),
    at = spotOf(zone.spots),
    far = Math.hypot(edge.x - at.x, edge.z - at.z) || 1,
    more = 18 / frame.size / far;
  return { x: edge.x + (edge.x - at.x) * more, z: edge.z + (edge.z - at.z) * more };
}

// A zone with an end in depth as its outline on the ground, one that goes on for ever as its sides.
function drawZone(context, zone, line, dot) {
  const at = spotOf(zone.spots),
    [wide, deep] = reachOf(zone),
    faint = "rgb(31 111 120 / 0.1)";
  const corner = (x, z) => toCanvas(inZone(zone, x, z));
  if (deep > 0 && zone.lined) {
    const [far, close] = [-1, 1].map(side => frame.z + (at.z + side * deep) * frame.size);
    context.fillStyle = faint;
    context.fillRect(0, far, wideOf(canvas), close - far);
    for (const z of [far, close])
      line(
        [
          [0, z],
          [wideOf(canvas), z],
        ],
        colours.sea,
        1.2,
      );
  } else if (deep > 0) {
    const outline = zone.disc
      ? Array.from({ length: 49 }, (_, k) => corner(Math.cos((k * Math.PI) / 24), Math.sin((k * Math.PI) / 24)))
      : [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1), corner(-1, -1)];
    line(outline, colours.sea, 1.2);
    context.fillStyle = faint;
    context.fill();
  } else if (!zone.lined) {
    const [left, right] = [-1, 1].map(side => frame.x + (at.x + side * wide) * frame.size);
    context.fillStyle = faint;
    context.fillRect(left, 0, right - left, highOf(canvas));
    for (const x of [left, right])
      line(
        [
          [x, 0],
          [x, highOf(canvas)],
        ],
        colours.sea,
        1.2,
      );
  }
  for (const { at: spot, words } of gripsOf(zone)) {
    const edge = toCanvas(spot);
    if (words.endsWith("turned")) {
      line([corner(1, 0), edge], colours.sea);
      dot(edge, 3, colours.sheet, colours.sea);
      continue;
    }
    context.fillStyle = colours.sheet;
    context.fillRect(edge[0] - 3.5, edge[1] - 3.5, 7, 7);
    context.strokeStyle = colours.sea;
    context.strokeRect(edge[0] - 3.5, edge[1] - 3.5, 7, 7);
  }
  if (!zone.lined || deep > 0) dot(toCanvas(at), 4, colours.sheet, colours.sea);
}

// How far to either side the camera sees.
function view(context, camera, line) {
  const eye = spotOf(camera.eye),
    aim = spotOf(camera.aim),
    here = Math.floor(clock.frame) - answers.last.start;
  const [x, y] = toCanvas(eye),
    way = Math.atan2(aim.z - eye.z, aim.x - eye.x),
    [lens] = row(camera.perspective, here);
  const half = Math.atan2(scene.width / 2, lens),
    far = 2 * Math.max(wideOf(canvas), highOf(canvas));
  const ends = [-half, half].map(turn => [x + far * Math.cos(way + turn), y + far * Math.sin(way + turn)]);
  context.beginPath();
  context.moveTo(x, y);
  for (const [a, b] of ends) context.lineTo(a, b);
  context.closePath();
  context.fillStyle = "rgb(31 111 120 / 0.09)";
  context.fill();
  for (const end of ends) line([[x, y], end], "rgb(31 111 120 / 0.45)");
}

// What can be taken hold of: what lies on top comes last.
function grips() {
  const plan = answers.last?.plan;
  if (!plan || !frame) return [];
  /** @type {any[]} */
  const found = plan.things.map(({ id, name, free, spots }) => ({
    id,
    words: free ? name : `${name}, which moves with its group`,
    spots,
    free,
    edits: (from, to) => shifted(id, "position", "depth", to.x - from.x, to.z - from.z),
  }));
  if (plan.light)
    found.push({
      id: plan.light.id,
      words: plan.light.name,
      spots: plan.light.spots,
      free: plan.light.free,
      edits: (from, to) => shifted(plan.light.id, "position", "depth", to.x - from.x, to.z - from.z),
    });
  for (const zone of zonesOf(plan)) {
    const [, deep] = reachOf(zone);
    const moved = (from, to) => [zone.lined ? 0 : to.x - from.x, deep > 0 ? to.z - from.z : 0];
    if (!zone.lined || deep > 0)
      found.push({
        id: zone.array,
        words: `${zone.name}: its centre`,
        spots: zone.spots,
        free: true,
        edits: (from, to) => shifted(zone.id, "centre", "centre_depth", ...moved(from, to)),
      });
    found.push(...gripsOf(zone));
  }
  const camera = cameraOf();
  if (plan.camera && camera) {
    const { eye, aim, free, name } = plan.camera,
      was = { eye: spotOf(eye), aim: spotOf(aim) },
      turned = dragged(camera, was.eye, was.aim);
    found.push({
      id: camera,
      words: `${name}: its aim`,
      spots: aim,
      free,
      edits: (from, to) => shifted(camera, "aim", "aim_depth", to.x - from.x, to.z - from.z),
    });
    found.push({
      id: camera,
      words: `${name}: round its aim, nearer or further`,
      spots: eye,
      free,
      edits: (from, to) => turned({ x: was.eye.x + to.x - from.x, z: was.eye.z + to.z - from.z }),
    });
  }
  return found;
}

function gripAt(event) {
  let best = null,
    near = REACH;
  for (const one of grips()) {
    for (let k = 0; k < (one.at ? 1 : extentOf(one.spots).each); k += 1) {
      const [x, y] = toCanvas(one.at ?? spotOf(one.spots, k)),
        far = Math.hypot(x - event.offsetX, y - event.offsetY);
      if (far <= near) {
        best = one;
        near = far;
      }
    }
  }
  return best;
}

canvas.addEventListener("pointerdown", event => {
  event.preventDefault();
  const one = event.button === 0 ? gripAt(event) : null;
  if (!one) return;
  const from = toGround(event);
  let edits = [],
    away = false;
  held = one.id;
  const taken = grip(canvas, event, {
    move: e => {
      away ||= Math.hypot(e.offsetX - event.offsetX, e.offsetY - event.offsetY) > 2;
      if (!away || !one.free) return;
      edits = one.edits(from, toGround(e));
      requestFrames(withScene(edits));
    },
    end: commit => {
      held = null;
      if (!away) chooseLayers([one.id]);
      else if (commit && edits.length) commitEdits(edits).catch(error => complainAt(panel, error.message));
      else requestFrames([]);
    },
  });
  if (!taken) held = null;
});

canvas.addEventListener("pointermove", event => {
  if (event.buttons) return;
  const one = gripAt(event);
  canvas.style.cursor = one ? (one.free ? "move" : "default") : "";
  canvas.title = one?.words ?? "";
});

// For tests: where things stand on the page.
export function spotOnPage(words) {
  const one = grips().find(each => each.words.includes(words)),
    box = canvas.getBoundingClientRect(),
    [x, y] = toCanvas(one.at ?? spotOf(one.spots));
  return [box.left + x, box.top + y];
}

on("values", show);
on("panels", show);
on("frame", () => {
  if (!panel.hidden) draw();
});
new ResizeObserver(() => {
  if (!panel.hidden) draw();
}).observe(panel);
