// @ts-check
// The little curves over a passage of 0 to 100 %: what copies play when a front passes, sparks while they live, a
// line along its length.
import { on } from "../talk/events.js";
import { scene } from "../talk/scene.js";
import { commitEdits, requestFrames, withScene } from "../talk/server.js";
import { easesOf, menu } from "../talk/menus.js";
import { complainAt } from "../talk/notes.js";
import { fitCanvas } from "../lib/canvases.js";
import { colours } from "../lib/charts.js";
import { grip } from "../lib/dragging.js";

const tell = anchor => error => complainAt(anchor, error.message);
const PAD = 6;
// In a sheet there is room for figures beside it.
const WIDE = 34;
let held = null;
// The point that keys go to: of which curve, and where it stands.
let chosen = { parameter: "", at: -1 };

// What keys led a curve to, as long as it is on its way to be kept: meanwhile the panels are of something older.
let led = { parameter: "", points: [], steps: 0 };

const keysOf = place =>
  led.steps && led.parameter === place.dataset.profile
    ? structuredClone(led.points)
    : JSON.parse(place.dataset.profileKeys);
const pointsOf = place => (held && (held.place ?? place) === place ? held.points : keysOf(place));

// Between what values a curve is drawn: shares of a whole, or what it has in a unit of its own.
const SPAN = 40;
function endsOf(place, points) {
  const values = points.map(([, v]) => v),
    low = Math.min(0, ...values);
  if (place.dataset.own === undefined) return [low, Math.max(1, ...values)];
  const high = Math.max(0, ...values);
  return high > low ? [low, high] : [0, SPAN];
}

// To as many places as hands can tell.
const rounded = (value, span) => Number(value.toFixed(span > 20 ? 1 : 2));

// What stands for the whole in a curve: 1, or as far as it goes.
const wholeOf = place => {
  const [low, high] = endsOf(place, pointsOf(place));
  return place.dataset.own === undefined ? 1 : high || low;
};

function profileScale(place, canvas) {
  const points = pointsOf(place);
  const pad = place.dataset.large === undefined ? PAD : WIDE;
  const [low, high] = endsOf(place, points);
  const { clientWidth: width, clientHeight: height } = canvas;
  return {
    x: at => pad + (at / 100) * (width - 2 * pad),
    y: v => height - pad - ((v - low) / (high - low)) * (height - 2 * pad),
    at: x => Math.min(Math.max(Math.round(((x - pad) / (width - 2 * pad)) * 100), 0), 100),
    value: y => rounded(low + ((height - pad - y) / (height - 2 * pad)) * (high - low), high - low),
    low,
    high,
  };
}

function drawProfile(place) {
  const canvas = place.querySelector("canvas"),
    context = fitCanvas(canvas);
  if (!context) return;
  const { x, y, low, high } = profileScale(place, canvas),
    points = [...pointsOf(place)].sort((a, b) => a[0] - b[0]),
    own = place.dataset.own !== undefined;
  context.clearRect(0, 0, canvas.clientWidth, canvas.clientHeight);
  const [bottom, top] = own ? [low, high] : [0, 1],
    unit = own ? place.dataset.own : "";
  if (place.dataset.large !== undefined) drawScale(context, canvas, { x, y, low: bottom, high: top }, unit);
  context.strokeStyle = colours.rule;
  context.strokeRect(x(0), Math.round(y(top)) + 0.5, x(100) - x(0), y(bottom) - y(top));
  if (own && low < 0 && high > 0) context.strokeRect(x(0), Math.round(y(0)) + 0.5, x(100) - x(0), 0);
  context.strokeStyle = points.length ? colours.ink : colours.faded;
  context.lineWidth = 1.4;
  if (!points.length) context.setLineDash([3, 3]);
  context.beginPath();
  // An ease is a cubic curve from key to key: it is drawn as what it is.
  const ease = scene.eases[place.dataset.straight === undefined ? "ease-in-out" : "linear"];
  const curve = points.length
    ? [[0, points[0][1], "hold"], ...points, [100, points.at(-1)[1], "hold"]]
    : own
      ? [
          [0, 0, ease],
          [100, 0, ease],
        ]
      : place.dataset.flat === undefined
        ? [
            [0, 0, ease],
            [100, 1, ease],
          ]
        : [
            [0, 1, ease],
            [100, 1, ease],
          ];
  curve.forEach(([at, v], k) => {
    if (!k) {
      context.moveTo(x(at), y(v));
      return;
    }
    const [before, old, way] = curve[k - 1];
    if (way === "hold") {
      context.lineTo(x(at), y(old));
      context.lineTo(x(at), y(v));
      return;
    }
    const [ax, ay, bx, by] = way,
      to = (share, rise) =>
        /** @type {[number, number]} */ ([x(before + (at - before) * share), y(old + (v - old) * rise)]);
    context.bezierCurveTo(...to(ax, ay), ...to(bx, by), x(at), y(v));
  });
  context.stroke();
  context.setLineDash([]);
  const mine = chosenOf(place, points);
  points.forEach(([at, v], k) => {
    context.beginPath();
    context.arc(x(at), y(v), 4, 0, 7);
    context.fillStyle = k === mine ? colours.brass : colours.sheet;
    context.strokeStyle = colours.brass;
    context.fill();
    context.stroke();
  });
  const told = place.querySelector("[data-point-told]");
  if (told) told.textContent = mine < 0 ? "" : `${points[mine][0]} %: ${points[mine][1]}`;
}

// Where there is room: quarters of the passage and of the way up, in figures.
function drawScale(context, canvas, { x, y, low, high }, unit) {
  context.strokeStyle = colours.rule;
  context.fillStyle = colours.faded;
  context.font = "11px 'Instrument Sans'";
  context.lineWidth = 0.6;
  context.beginPath();
  for (const share of [0, 25, 50, 75, 100]) {
    const value = low + ((high - low) * share) / 100;
    context.moveTo(x(share), y(low));
    context.lineTo(x(share), y(high));
    context.moveTo(x(0), y(value));
    context.lineTo(x(100), y(value));
    const words = share ? `${share} %` : "0";
    context.fillText(
      words,
      x(share) - (share === 100 ? context.measureText(words).width : 0) + (share ? 0 : 4),
      canvas.clientHeight - 5,
    );
    const told = Number(value.toPrecision(3));
    if (share || low < 0) context.fillText(share === 100 && unit ? `${told} ${unit}` : String(told), 4, y(value) + 4);
  }
  context.stroke();
  context.lineWidth = 1;
}

export const drawProfiles = () => {
  for (const place of document.querySelectorAll("[data-profile]")) drawProfile(place);
};
on("values", drawProfiles);
on("frame", drawProfiles);
on("panels", drawProfiles);
addEventListener("resize", drawProfiles);

const profileOf = event => event.target.closest?.("canvas.profile-curve")?.closest("[data-profile]");
const chosenOf = (place, points) =>
  chosen.parameter === place.dataset.profile && document.activeElement === place.querySelector("canvas")
    ? points.findIndex(([at]) => at === chosen.at)
    : -1;

function choose(place, at) {
  chosen = { parameter: place.dataset.profile, at };
  place.querySelector("canvas").focus();
  drawProfiles();
}

function pointUnder(place, event) {
  const canvas = place.querySelector("canvas"),
    { x, y } = profileScale(place, canvas);
  return pointsOf(place).findIndex(([at, v]) => Math.hypot(x(at) - event.offsetX, y(v) - event.offsetY) < 9);
}

// Points of a curve never meet: one that is led onto another stays where it was.
function moveOf(place, points, k, to, value) {
  if (points.some(([at], n) => n !== k && at === to)) return null;
  return { kind: "move key", parameter: place.dataset.profile, frame: points[k][0], to, value };
}

document.addEventListener("pointerdown", event => {
  const place = profileOf(event);
  const k = place && event.button === 0 ? pointUnder(place, event) : -1;
  if (k < 0) return;
  const canvas = place.querySelector("canvas"),
    points = keysOf(place),
    kept = keysOf(place);
  const scale = profileScale(place, canvas);
  choose(place, points[k][0]);
  let edit = null;
  grip(canvas, event, {
    move: e => {
      const made = moveOf(place, kept, k, scale.at(e.offsetX), scale.value(e.offsetY));
      if (!made) return;
      edit = made;
      points[k] = [made.to, made.value, points[k][2]];
      held = { points, place };
      chosen.at = made.to;
      requestFrames(withScene([edit]));
      drawProfile(place);
    },
    end: commit => {
      held = null;
      if (edit && commit) commitEdits([edit]).catch(tell(place));
      else {
        chosen.at = kept[k][0];
        requestFrames([]);
        drawProfile(place);
      }
    },
  });
});

function addPoint(place, at, value) {
  const parameter = place.dataset.profile,
    points = keysOf(place);
  if (points.some(([there]) => there === at)) return;
  // The first point comes with both ends, so that there is a curve.
  const ends = [
    [0, 0],
    [100, place.dataset.own === undefined ? 1 : 0],
  ].filter(([end]) => !points.length && end !== at);
  const drawn = [...points, ...ends, [at, value]]
    .sort((a, b) => a[0] - b[0])
    .map(([frame, v, ease]) => ({ frame, value: v, ...(ease === undefined ? {} : { ease }) }));
  choose(place, at);
  commitEdits([{ kind: "draw curve", parameter, points: drawn }]).catch(tell(place));
}

document.addEventListener("dblclick", event => {
  const place = profileOf(event);
  if (!place || pointUnder(place, event) >= 0) return;
  const scale = profileScale(place, place.querySelector("canvas"));
  addPoint(place, scale.at(event.offsetX), scale.value(event.offsetY));
});

const removePoint = (place, at) =>
  commitEdits([{ kind: "remove key", parameter: place.dataset.profile, frame: at }]).catch(tell(place));

// What a point can be told: how it goes on, and to go.
function pointMenu(place, k, event = null) {
  const parameter = place.dataset.profile,
    points = keysOf(place),
    [at, value, way] = points[k];
  choose(place, at);
  const set = ease => commitEdits([{ kind: "set ease", parameter, frame: at, ease }]).catch(tell(place));
  const onward =
    k < points.length - 1
      ? [{ title: `At ${at} %: ${value}, and on to the next point` }, ...easesOf(way, set), { line: true }]
      : [{ title: `At ${at} %: ${value}` }];
  menu(
    place.querySelector("canvas"),
    [...onward, { words: "Remove this point", danger: true, run: () => removePoint(place, at) }],
    event,
  );
}

document.addEventListener("contextmenu", event => {
  const place = profileOf(event);
  const k = place ? pointUnder(place, event) : -1;
  if (k < 0) return;
  event.preventDefault();
  pointMenu(place, k, event);
});

// By keys: left and right choose a point, with Alt they move it; up and down change how high it is.
document.addEventListener("keydown", event => {
  const place = profileOf(event);
  if (!place || event.ctrlKey || event.metaKey || event.defaultPrevented) return;
  const points = keysOf(place).sort((a, b) => a[0] - b[0]),
    k = points.findIndex(([at]) => at === chosen.at && chosen.parameter === place.dataset.profile);
  const across = { ArrowLeft: -1, ArrowRight: 1 }[event.key],
    up = { ArrowUp: 1, ArrowDown: -1 }[event.key];
  if (event.key === "Insert" || event.key === "+") addPoint(place, ...between(points, k, wholeOf(place)));
  else if (across && !event.altKey) {
    if (points.length) choose(place, points[k < 0 ? 0 : Math.min(Math.max(k + across, 0), points.length - 1)][0]);
  } else if (k < 0) {
    if (!across) return;
  } else if (across || up) {
    const [at, value] = points[k],
      step = event.shiftKey ? 5 : 1;
    const made = moveOf(
      place,
      points,
      k,
      Math.min(Math.max(at + (across ?? 0) * step, 0), 100),
      rounded(value + (up ?? 0) * step * 0.02 * Math.abs(wholeOf(place)), Math.abs(wholeOf(place))),
    );
    if (made) {
      points[k] = [made.to, made.value, points[k][2]];
      chosen.at = made.to;
      lead(place, points, made);
    }
  } else if (event.key === "Delete" || event.key === "Backspace") removePoint(place, points[k][0]);
  else if (event.key === "Enter")
    pointMenu(
      place,
      keysOf(place).findIndex(([at]) => at === points[k][0]),
    );
  else return;
  event.preventDefault();
});

function lead(place, points, edit) {
  if (led.parameter !== place.dataset.profile) led = { parameter: place.dataset.profile, points: [], steps: 0 };
  const mine = led;
  mine.points = points;
  mine.steps += 1;
  drawProfiles();
  commitEdits([edit])
    .catch(tell(place))
    .finally(() => {
      mine.steps -= 1;
      drawProfiles();
    });
}

// Half-way on to the next point; in the middle where there is none.
function between(points, k, whole) {
  if (points.length < 2) return [50, whole / 2];
  const first = Math.min(Math.max(k, 0), points.length - 2);
  const [[a, v], [b, w]] = points.slice(first, first + 2);
  return [Math.round((a + b) / 2), Number(((v + w) / 2).toFixed(2))];
}

document.addEventListener("focusin", event => {
  if (profileOf(event)) drawProfiles();
});
document.addEventListener("focusout", event => {
  if (profileOf(event)) drawProfiles();
});

document.addEventListener("click", event => {
  const target = event.target.closest?.("[data-clear-profile]"),
    place = target?.closest("[data-profile]");
  if (!place) return;
  const parameter = place.dataset.profile;
  commitEdits([{ kind: "reset value", parameter }]).catch(tell(place));
});
