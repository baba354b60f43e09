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
import { complainAt, say } from "../talk/notes.js";
import { fitCanvas, highOf, wideOf } from "../lib/canvases.js";
import { figure, typedNumber } from "../lib/figures.js";
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
  snapping,
  whenChosen,
} from "../chain/lane_keys.js";

const edit = document.getElementById("key-edit");
const frameField = document.getElementById("key-frame");
const valueField = document.getElementById("key-value");
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
  valueField.disabled = !one || !numbers;
  const first = keys.length ? Math.min(...keys.map(({ key }) => key.frame)) : null;
  frameField.value = first === null ? "" : figure(first, 3);
  valueField.value = one && numbers ? one.key.values.map(v => figure(v, 3)).join(", ") : "";
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
    const numbers = field.value.split(/[,;]\s+|;/).map(typedNumber);
    if (!field.value.trim() || numbers.some(n => !Number.isFinite(n))) {
      complainAt(field, `“${field.value}” is not a number.`);
      return;
    }
    run(numbers);
  });
}

typed(frameField, ([frame]) => {
  const keys = chosenKeys();
  keepWay({ by: frame - Math.min(...keys.map(({ key }) => key.frame)) }, keys);
});
typed(valueField, numbers => {
  const [{ lane, key }] = chosenKeys();
  if (numbers.length !== key.values.length && numbers.length !== 1) {
    complainAt(valueField, `${lane.name} has ${key.values.length} components: write ${key.values.length} numbers.`);
    return;
  }
  const values = key.values.map((_, c) => numbers[Math.min(c, numbers.length - 1)]);
  commitEdits([
    {
      kind: "move key",
      parameter: lane.parameter,
      frame: key.frame,
      to: key.frame,
      value: values.length > 1 ? values : values[0],
    },
  ]).catch(tell);
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
    const [{ lane }] = keys;
    const far = event.shiftKey ? 10 : 1;
    keepWay(
      { by: arrow[0] * far, rise: arrow[1] * far * Number((lane.span / 100).toPrecision(1)), only: lane.parameter },
      keys,
    );
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
on("refused", error => say(error.message, "bad"));
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
