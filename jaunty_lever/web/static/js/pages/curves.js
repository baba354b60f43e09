// @ts-check
// The Curves page: lanes, keys, speed and playhead put together.
import { answers } from "../talk/answers.js";
import { choice } from "../talk/choice.js";
import { remember } from "../talk/address.js";
import { clock } from "../talk/clock.js";
import { on } from "../talk/events.js";
import { hands } from "../talk/hands.js";
import { root, scene } from "../talk/scene.js";
import { views } from "../talk/views.js";
import { dragging, grip } from "../lib/dragging.js";
import { answerAt, requestFrames, commitEdits, listen, refresh, step } from "../talk/server.js";
import { easesOf, menu, sheet as openSheet } from "../talk/menus.js";
import { complainAt, say, wrongIn } from "../talk/notes.js";
import { fitCanvas, highOf, wideOf } from "../lib/canvases.js";
import { figure, typedNumber, typedStep } from "../lib/figures.js";
import { nudging } from "../lib/nudging.js";
import { drawScene } from "../display/list.js";
import { play, setFrame, startTime } from "../stage/time.js";
import { wireKeys } from "./keyboard.js";
import "./links.js";
import {
  chooseLane,
  drawLanes,
  drawSpeed,
  fitTime,
  focused,
  frameAt,
  lanes,
  layOut,
  measure,
  moveTime,
  readLanes,
  sheet,
  view,
  zoomTime,
} from "../chain/lanes.js";
import "../chain/lane_map.js";
import {
  choose,
  chosenKeys,
  copyKeys,
  drawKeys,
  keepWay,
  listenKeys,
  pasteKeys,
  picks,
  showWay,
  snapping,
  whenChosen,
} from "../chain/lane_keys.js";

const edit = document.getElementById("key-edit");
const frameField = document.getElementById("key-frame");
const valueField = /** @type {HTMLInputElement} */ (document.getElementById("key-value"));
const preview = document.getElementById("preview");
const tell = error => complainAt(edit, error.message);

function draw() {
  drawLanes(drawKeys);
  drawSpeed(
    document.getElementById("speed-canvas"),
    document.getElementById("speed-now"),
    document.getElementById("speed-of"),
  );
  const answer = answerAt(clock.frame);
  const context = answer ? fitCanvas(preview) : null;
  if (!context) return;
  const scale = Math.min(wideOf(preview) / scene.width, highOf(preview) / scene.height);
  context.clearRect(0, 0, wideOf(preview), highOf(preview));
  context.translate((wideOf(preview) - scene.width * scale) / 2, (highOf(preview) - scene.height * scale) / 2);
  context.scale(scale, scale);
  drawScene(context, answer, clock.frame);
}

let asked = false;
function soon() {
  if (asked) return;
  asked = true;
  requestAnimationFrame(() => {
    asked = false;
    draw();
  });
}

function showChosen() {
  const keys = chosenKeys();
  const one = keys.length === 1 ? keys[0] : null;
  document.getElementById("key-count").textContent = !keys.length
    ? "No key chosen"
    : one
      ? `Key of ${one.lane.name}`
      : `${keys.length} keys`;
  for (const part of edit.querySelectorAll("[data-key-do]"))
    part.disabled = part.dataset.keyDo === "paste" ? !hands.copied?.keys : !keys.length;
  const numbers = keys.every(({ lane }) => lane.kind !== "colour" && !lane.stepped);
  frameField.disabled = !keys.length;
  valueField.disabled = !keys.length || !numbers;
  const first = keys.length ? Math.min(...keys.map(({ key }) => key.frame)) : null;
  frameField.value = first === null ? "" : figure(first, 3);
  const texts = numbers ? new Set(keys.map(({ key }) => key.values.map(v => figure(v, 3)).join(", "))) : new Set();
  valueField.value = texts.size === 1 ? [...texts][0] : "";
  valueField.placeholder = texts.size > 1 ? "several" : "";
  soon();
}

function typed(field, run) {
  field.addEventListener("keydown", event => {
    if (event.key === "Enter") {
      event.preventDefault();
      field.blur();
    } else if (event.key === "Escape") {
      showChosen();
      field.blur();
    }
  });
  field.addEventListener("change", () => {
    if (!field.value.trim()) return showChosen();
    const step = typedStep(field.value);
    const numbers = step ? [] : field.value.split(/[,;]\s+|;/).map(typedNumber);
    if (numbers.some(n => !Number.isFinite(n)) || (step && !(Number.isFinite(step[0]) && Number.isFinite(step[1])))) {
      complainAt(field, `“${field.value}” is not a number. Write 12, or +5, *1.1 and /2 to change what is there.`);
      return;
    }
    run(numbers, step);
  });
}

typed(frameField, ([frame], step) => {
  const keys = chosenKeys();
  const first = Math.min(...keys.map(({ key }) => key.frame));
  if (!step) return keepWay({ by: frame - first }, keys);
  if (step[0] <= 0) return complainAt(frameField, "Times go by a number above 0: *2 takes twice as long, /2 half.");
  return keepWay({ by: step[1], stretch: step[0], about: first }, keys);
});

// Of several keys all get the number, or each is changed by as much.
typed(valueField, (numbers, step) => {
  const keys = chosenKeys();
  const most = Math.max(...keys.map(({ key }) => key.values.length));
  if (!step && numbers.length !== 1 && keys.some(({ key }) => key.values.length !== numbers.length)) {
    complainAt(valueField, `${keys[0].lane.name} has ${most} components: write ${most} numbers, or one for all.`);
    return;
  }
  const ways = step
    ? [{ scale: step[0], rise: step[1] }]
    : numbers.map((rise, component) => ({ scale: 0, rise, component: numbers.length > 1 ? component : null }));
  const label = keys.length > 1 ? `${keys.length} keys set to ${valueField.value.trim()}` : "";
  commitEdits(
    ways.map(way => ({ kind: "move keys", keys: picks(keys), level: 0, ...way })),
    label,
  ).catch(tell);
});

const make = (kind, rest = {}) => commitEdits([{ kind, keys: picks(), ...rest }]).catch(tell);

function easeMenu(anchor) {
  const keys = chosenKeys();
  const now = keys.length === 1 ? keys[0].key.ease : null;
  menu(anchor, [{ title: "On the way to the next key" }, ...easesOf(now, ease => make("ease keys", { ease }))]);
}

function arrangeMenu(anchor) {
  const several = chosenKeys().length > 1;
  const arrange = how => {
    make("arrange keys", { how, frame: Math.floor(clock.frame) });
    choose([]);
  };
  menu(anchor, [
    { words: "Align in time: each value's first key to the playhead", run: () => arrange("align in time") },
    { words: "Align in value: all like the first", disabled: !several, run: () => arrange("align in value") },
    { words: "Distribute evenly in time", disabled: !several, run: () => arrange("distribute") },
    { words: "Reverse in time", disabled: !several, run: () => arrange("reverse") },
  ]);
}

const actions = {
  undo: () => step("undo").catch(error => say(error.message, "bad")),
  redo: () => step("redo").catch(error => say(error.message, "bad")),
  play: () => play(),
  home: () => setFrame(0),
  end: () => setFrame(scene.length - 1),
  keys: () => openSheet("keys"),
  key: () => {
    const lane = focused();
    if (lane) commitEdits([{ kind: "set key", parameter: lane.parameter, frame: Math.floor(clock.frame) }]).catch(tell);
  },
  fit: () => {
    fitTime();
    soon();
  },
};
const keyActions = {
  ease: easeMenu,
  arrange: arrangeMenu,
  copy: copyKeys,
  paste: pasteKeys,
  fit: actions.fit,
  remove: () => {
    if (chosenKeys().length) {
      make("remove keys");
      choose([]);
    }
  },
  snap: button => {
    snapping.on = !snapping.on;
    button.setAttribute("aria-pressed", snapping.on);
  },
};

// A step up or down is a hundredth of what the first lane shows, as a round number.
function wayOf(x, y) {
  const [{ lane }] = chosenKeys();
  return { by: x, rise: y * Number((lane.span / 100).toPrecision(1)), only: lane.parameter };
}
const nudge = nudging(
  (x, y) => showWay(wayOf(x, y)),
  (x, y) => keepWay(wayOf(x, y)),
);

wireKeys(actions, { " ": "play", Home: "home", End: "end", "?": "keys", k: "key", 0: "fit" }, (event, control) => {
  const key = event.key.toLowerCase();
  const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
  const keys = chosenKeys();
  if (control && key === "c" && keys.length) copyKeys();
  else if (control && key === "v" && hands.copied?.keys) pasteKeys();
  else if (control && key === "a") choose(lanes.flatMap(lane => lane.keys.map(one => ({ lane, key: one }))));
  else if ((event.key === "Delete" || event.key === "Backspace") && keys.length) keyActions.remove();
  else if (event.key === "Escape" && keys.length) choose([]);
  else if (arrow && event.altKey && keys.length) {
    const far = event.shiftKey ? 10 : 1;
    nudge(arrow[0] * far, arrow[1] * far);
  } else return false;
  return true;
});

document.addEventListener("click", event => {
  const target = event.target.closest?.("[data-do], [data-key-do], [data-show], [data-lane]");
  if (!target) return;
  if (target.dataset.do) actions[target.dataset.do]?.();
  else if (target.dataset.keyDo) keyActions[target.dataset.keyDo](target);
  else if (target.dataset.lane) chooseLane(target.dataset.lane);
  else {
    views.filter.show = target.dataset.show;
    if (!target.closest(".choices")) {
      views.filter.named = "";
      document.getElementById("named").value = "";
    }
    for (const one of document.querySelectorAll(".choices [data-show]"))
      one.setAttribute("aria-pressed", one.dataset.show === views.filter.show);
    refresh();
  }
});

let naming = 0;
document.getElementById("named").addEventListener("input", event => {
  clearTimeout(naming);
  naming = setTimeout(() => {
    views.filter.named = event.target.value.trim();
    if (views.filter.named && !views.filter.show) views.filter.show = "moving";
    refresh();
  }, 180);
});

document.getElementById("lane-ruler").addEventListener("pointerdown", event => {
  const place = event.currentTarget;
  const go = e => setFrame(Math.round(frameAt(e.offsetX)));
  if (grip(place, event, { move: go, end: () => {} })) go(event);
});

sheet.addEventListener(
  "wheel",
  event => {
    if (event.ctrlKey || event.metaKey) zoomTime(frameAt(event.offsetX), 1.0015 ** event.deltaY);
    else if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY))
      moveTime(view.from + ((event.deltaX || event.deltaY) / 600) * (view.to - view.from));
    else return;
    event.preventDefault();
    soon();
  },
  { passive: false },
);
sheet.addEventListener("scroll", soon);

listenKeys(soon);
whenChosen(showChosen);
on("panels", () => {
  readLanes();
  showChosen();
});
on("values", () => {
  if (!dragging()) measure();
  soon();
});
on("frame", soon);
on("lane", () => {
  remember();
  showChosen();
});
on("refused", error => wrongIn(document.querySelector("#sheet[open]"), error.message));
on("elsewhere", () => refresh());
// While something is dragged the scales stand still.
new ResizeObserver(() => {
  layOut();
  soon();
}).observe(sheet);

readLanes();
startTime();
await requestFrames([]);
measure();
showChosen();
document.fonts.ready.then(soon);
listen();
root.dataset.ready = "yes";

// Read by tests.
window.curves = { scene, choice, clock, answers, lanes: () => lanes, chosenKeys, view };
