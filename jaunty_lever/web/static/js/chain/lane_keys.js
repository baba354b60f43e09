// @ts-check
// Keys on the sheet: chosen by box, moved, scaled, eased by their handles; several at once.
import { choice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { hands, setHands } from "../talk/hands.js";
import { scene } from "../talk/scene.js";
import { grip } from "../lib/dragging.js";
import { requestFrames, commitEdits, refresh, withScene } from "../talk/server.js";
import { colours } from "../lib/charts.js";
import { landing } from "../lib/keys.js";
import { complainAt, say } from "../talk/notes.js";
import { canvas, chooseLane, frameAt, laneAt, lanes, maps, NAMES, plain, sheet, valueAt, xOf, yOf } from "./lanes.js";

const NEAR = 8,
  SNAP = 6;

const chosen = new Map();
export const snapping = { on: true };
let held = null;
let changed = () => {};
export const whenChosen = listener => {
  changed = listener;
};

const same = (a, b) => Math.abs(a - b) < 1e-4;
export const isChosen = (lane, key) => [...(chosen.get(lane.parameter) ?? [])].some(frame => same(frame, key.frame));

// Every chosen key that is still there, with its lane.
export function chosenKeys() {
  return lanes.flatMap(lane => lane.keys.filter(key => isChosen(lane, key)).map(key => ({ lane, key })));
}

export const picks = (keys = chosenKeys()) => {
  const found = new Map();
  for (const { lane, key } of keys) found.set(lane.parameter, [...(found.get(lane.parameter) ?? []), key.frame]);
  return [...found].map(([parameter, frames]) => ({ parameter, frames }));
};

export function choose(keys, add = false) {
  if (!add) chosen.clear();
  for (const { lane, key } of keys) {
    if (!chosen.has(lane.parameter)) chosen.set(lane.parameter, new Set());
    chosen.get(lane.parameter).add(key.frame);
  }
  changed();
}

function toggle(lane, key) {
  const frames = chosen.get(lane.parameter);
  for (const frame of frames ?? [])
    if (same(frame, key.frame)) {
      frames.delete(frame);
      changed();
      return;
    }
  choose([{ lane, key }], true);
}

// Where a chosen key is while it is dragged.
function placed(lane, key) {
  if (!held?.way || !isChosen(lane, key)) return key;
  const { only = null, ...way } = held.way;
  // Keys of other lanes go along in time alone.
  return { ...key, ...landing(key, only && only !== lane.parameter ? { ...way, rise: 0, scale: 1 } : way) };
}

const pegs = (lane, key) =>
  plain(lane)
    ? key.values.map((value, component) => ({ x: xOf(key.frame), y: yOf(lane, value, component), component }))
    : [{ x: xOf(key.frame), y: lane.y - sheet.scrollTop + lane.height / 2, component: 0 }];

function box(keys) {
  const points = keys.flatMap(({ lane, key }) => pegs(lane, placed(lane, key)));
  if (!points.length) return null;
  const xs = points.map(p => p.x),
    ys = points.map(p => p.y);
  return {
    left: Math.min(...xs) - 12,
    right: Math.max(...xs) + 12,
    top: Math.min(...ys) - 12,
    bottom: Math.max(...ys) + 12,
  };
}

function grips(keys) {
  if (keys.length < 2) return [];
  const { left, right, top, bottom } = box(keys);
  const found = [];
  if (new Set(keys.map(({ key }) => key.frame)).size > 1)
    found.push({ side: "left", x: left, y: (top + bottom) / 2 }, { side: "right", x: right, y: (top + bottom) / 2 });
  const one =
    keys.every(({ lane }) => lane === keys[0].lane) &&
    plain(keys[0].lane) &&
    !keys[0].lane.stepped &&
    keys[0].key.values.length === 1;
  if (one && bottom - top > 26)
    found.push({ side: "top", x: (left + right) / 2, y: top }, { side: "bottom", x: (left + right) / 2, y: bottom });
  return found;
}

// The two handles of the ease from the only chosen key to the next.
function easeHandles() {
  const keys = chosenKeys();
  if (keys.length !== 1) return null;
  const { lane, key } = keys[0];
  const next = lane.keys[lane.keys.indexOf(key) + 1];
  if (!next || !plain(lane) || lane.stepped || key.ease === "hold") return null;
  const component = key.values.reduce(
    (best, _, c) =>
      Math.abs(next.values[c] - key.values[c]) > Math.abs(next.values[best] - key.values[best]) ? c : best,
    0,
  );
  const rise = next.values[component] - key.values[component];
  if (!rise) return null;
  const points = held?.ease ?? (Array.isArray(key.ease) ? key.ease : scene.eases[key.ease]);
  const at = (x, y) => ({
    x: xOf(key.frame + x * (next.frame - key.frame)),
    y: yOf(lane, key.values[component] + y * rise, component),
  });
  return {
    lane,
    key,
    next,
    component,
    rise,
    points,
    ends: [at(0, 0), at(1, 1)],
    handles: [at(points[0], points[1]), at(points[2], points[3])],
  };
}

export function drawKeys(context) {
  for (const lane of lanes.filter(one => !maps.is(one))) {
    if (lane.y - sheet.scrollTop > canvas.clientHeight || lane.y + lane.height < sheet.scrollTop) continue;
    for (const key of lane.keys) {
      const here = placed(lane, key);
      for (const { x, y } of pegs(lane, here)) {
        if (x < NAMES - 6) continue;
        context.beginPath();
        context.arc(x, y, isChosen(lane, key) ? 5 : 4, 0, 7);
        context.fillStyle = isChosen(lane, key) ? colours.brass : colours.sheet;
        context.strokeStyle = colours.brass;
        context.lineWidth = 1.6;
        context.fill();
        context.stroke();
      }
    }
  }
  const ease = held?.way ? null : easeHandles();
  if (ease) {
    context.strokeStyle = colours.sea;
    context.fillStyle = colours.sea;
    context.lineWidth = 1.2;
    ease.handles.forEach(({ x, y }, k) => {
      context.beginPath();
      context.moveTo(ease.ends[k].x, ease.ends[k].y);
      context.lineTo(x, y);
      context.stroke();
      context.fillRect(x - 4, y - 4, 8, 8);
    });
  }
  const keys = chosenKeys();
  if (keys.length > 1) {
    const { left, right, top, bottom } = box(keys);
    context.strokeStyle = colours.brass;
    context.lineWidth = 1;
    context.setLineDash([3, 3]);
    context.strokeRect(left, top, right - left, bottom - top);
    context.setLineDash([]);
    context.fillStyle = colours.sheet;
    for (const { x, y } of grips(keys)) {
      context.fillRect(x - 4, y - 4, 8, 8);
      context.strokeRect(x - 4, y - 4, 8, 8);
    }
  }
  if (held?.snapped !== undefined && held.snapped !== null) {
    context.strokeStyle = colours.sea;
    context.setLineDash([4, 3]);
    context.beginPath();
    context.moveTo(xOf(held.snapped), 0);
    context.lineTo(xOf(held.snapped), canvas.clientHeight);
    context.stroke();
    context.setLineDash([]);
  }
  if (held?.area) {
    const { x, y, width, height } = held.area;
    context.fillStyle = "rgb(143 95 18 / 0.10)";
    context.strokeStyle = colours.brass;
    context.lineWidth = 1;
    context.fillRect(x, y, width, height);
    context.strokeRect(x, y, width, height);
  }
}

function under(point) {
  const ease = easeHandles();
  if (ease) {
    const k = ease.handles.findIndex(h => Math.hypot(h.x - point.x, h.y - point.y) < NEAR);
    if (k >= 0) return { ease, handle: k };
  }
  let best = null;
  for (const lane of lanes.filter(one => !maps.is(one))) {
    for (const key of lane.keys) {
      for (const { x, y, component } of pegs(lane, key)) {
        const far = Math.hypot(x - point.x, y - point.y);
        if (far < NEAR + 2 && (!best || far < best.far)) best = { far, lane, key, component };
      }
    }
  }
  if (best) return best;
  const grip = grips(chosenKeys()).find(g => Math.hypot(g.x - point.x, g.y - point.y) < NEAR);
  return grip ? { grip } : null;
}

const tidy = (value, digits = 4) => Number(value.toFixed(digits));

// The nearest frame that something else stands at, when it is within reach; else the nearest whole frame.
function snapFrame(frame, free) {
  if (free || !snapping.on) {
    held.snapped = null;
    return tidy(frame, 3);
  }
  const others = [
    0,
    scene.length - 1,
    scene.length,
    Math.floor(clock.frame),
    ...lanes.flatMap(lane => lane.keys.filter(key => !isChosen(lane, key)).map(key => key.frame)),
  ];
  const near = others.reduce((best, one) => (Math.abs(one - frame) < Math.abs(best - frame) ? one : best), Infinity);
  if (Math.abs(xOf(near) - xOf(frame)) < SNAP) {
    held.snapped = near;
    return near;
  }
  held.snapped = null;
  return Math.round(frame);
}

function snapValue(lane, value, component, free) {
  const digits = Math.min(6, Math.max(0, 2 - Math.floor(Math.log10(lane.span))));
  if (!free && snapping.on) {
    for (const key of lane.keys) {
      if (isChosen(lane, key)) continue;
      const v = key.values[component];
      if (Math.abs(yOf(lane, v, component) - yOf(lane, value, component)) < SNAP - 1) return v;
    }
  }
  return tidy(value, digits);
}

const inside = (by, keys) => {
  const frames = keys.map(({ key }) => key.frame);
  return Math.min(Math.max(by, -Math.min(...frames)), scene.length - Math.max(...frames));
};

function wayEdits(way, keys) {
  const { only, by, rise, component, ...rest } = way;
  const mine = keys.filter(({ lane }) => !only || lane.parameter === only);
  const others = keys.filter(({ lane }) => only && lane.parameter !== only);
  const edits = [];
  if (mine.length)
    edits.push({
      kind: "move keys",
      keys: picks(mine),
      by: by ?? 0,
      rise: rise ?? 0,
      component: component ?? null,
      ...rest,
    });
  if (others.length && by) edits.push({ kind: "move keys", keys: picks(others), by });
  return edits;
}

// Where a way of moving the chosen keys would lead, drawn while it is not kept yet.
export function showWay(way) {
  held = { way };
  requestFrames(withScene(wayEdits(way, chosenKeys())));
  changed();
}

// Keep a way of moving the chosen keys; they stay chosen where they land.
export function keepWay(way, keys = chosenKeys()) {
  const edits = wayEdits(way, keys).filter(
    edit => edit.by || edit.rise || (edit.stretch ?? 1) !== 1 || (edit.scale ?? 1) !== 1,
  );
  if (!edits.length) {
    held = null;
    changed();
    return Promise.resolve();
  }
  // Shown where they land at once, and still chosen there; what is kept follows.
  held = { way };
  const landed = keys.map(({ lane, key }) => ({ lane, key, to: placed(lane, key) }));
  held = null;
  for (const { key, to } of landed) Object.assign(key, { frame: tidy(to.frame, 6), values: to.values });
  for (const { lane } of landed) lane.keys.sort((one, two) => one.frame - two.frame);
  choose(landed);
  const scaled = (way.stretch ?? 1) !== 1 || (way.scale ?? 1) !== 1;
  return commitEdits(
    edits,
    `${keys.length === 1 ? "One key" : `${keys.length} keys`} ${scaled ? "scaled" : "moved"}`,
  ).catch(error => {
    complainAt(sheet, error.message);
    return refresh();
  });
}

function dragKeys(found, start, event) {
  const { lane, key, component } = found;
  if (event.shiftKey) {
    toggle(lane, key);
    return null;
  }
  if (!isChosen(lane, key)) choose([{ lane, key }]);
  chooseLane(lane.parameter);
  const keys = chosenKeys();
  return (point, e) => {
    const frame = snapFrame(key.frame + frameAt(point.x) - frameAt(start.x), e.altKey);
    const raw = key.values[component] + valueAt(lane, point.y, component) - valueAt(lane, start.y, component);
    const across = Math.abs(point.x - start.x) >= Math.abs(point.y - start.y);
    const by = e.shiftKey && !across ? 0 : inside(frame - key.frame, keys);
    const fixed = !plain(lane) || lane.stepped || (e.shiftKey && across);
    const rise = fixed ? 0 : snapValue(lane, raw, component, e.altKey) - key.values[component];
    return { by, rise, component: key.values.length > 1 ? component : null, only: lane.parameter };
  };
}

function dragGrip({ grip }, start) {
  const keys = chosenKeys();
  const frames = keys.map(({ key }) => key.frame);
  const [first, last] = [Math.min(...frames), Math.max(...frames)];
  const { lane } = keys[0];
  const values = keys.flatMap(({ key }) => key.values);
  const [low, high] = [Math.min(...values), Math.max(...values)];
  return (point, e) => {
    if (grip.side === "left" || grip.side === "right") {
      const edge = grip.side === "left" ? first : last,
        about = grip.side === "left" ? last : first;
      const frame = Math.min(
        Math.max(snapFrame(edge + frameAt(point.x) - frameAt(start.x), e.altKey), 0),
        scene.length,
      );
      const stretch = (frame - about) / (edge - about);
      return { about, stretch: Math.max(stretch, 1 / (last - first)) };
    }
    const edge = grip.side === "top" ? high : low,
      level = grip.side === "top" ? low : high;
    const value = edge + valueAt(lane, point.y) - valueAt(lane, start.y);
    return { level, scale: tidy((value - level) / (edge - level), 4), only: lane.parameter };
  };
}

function startEase({ ease, handle }) {
  return point => {
    const points = [...ease.points];
    const span = ease.next.frame - ease.key.frame;
    points[handle * 2] = tidy(Math.min(Math.max((frameAt(point.x) - ease.key.frame) / span, 0), 1), 3);
    points[handle * 2 + 1] = tidy(
      (valueAt(ease.lane, point.y, ease.component) - ease.key.values[ease.component]) / ease.rise,
      3,
    );
    return points;
  };
}

const areaOf = (a, b) => ({
  x: Math.min(a.x, b.x),
  y: Math.min(a.y, b.y),
  width: Math.abs(a.x - b.x),
  height: Math.abs(a.y - b.y),
});
const within = area =>
  lanes.flatMap(lane =>
    lane.keys
      .filter(key =>
        pegs(lane, key).some(
          ({ x, y }) => x >= area.x && x <= area.x + area.width && y >= area.y && y <= area.y + area.height,
        ),
      )
      .map(key => ({ lane, key })),
  );

export function listenKeys(redraw) {
  const pointOf = event => ({ x: event.offsetX, y: event.offsetY });
  canvas.addEventListener("pointerdown", event => {
    const start = pointOf(event);
    if (event.button !== 0 || start.x < NAMES) return;
    sheet.focus({ preventScroll: true });
    const found = under(start);
    held = {};
    const moving = found?.key ? dragKeys(found, start, event) : found?.grip ? dragGrip(found, start) : null;
    const easing = found?.ease ? startEase(found) : null;
    if (found && !moving && !easing) {
      held = null;
      redraw();
      return;
    }
    let moved = false;
    const move = e => {
      const point = pointOf(e);
      moved ||= Math.hypot(point.x - start.x, point.y - start.y) > 3;
      if (!moved) return;
      if (moving) {
        held.way = moving(point, e);
        requestFrames(withScene(wayEdits(held.way, chosenKeys())));
      } else if (easing) {
        held.ease = easing(point);
        requestFrames(
          withScene([
            { kind: "set ease", parameter: found.ease.lane.parameter, frame: found.ease.key.frame, ease: held.ease },
          ]),
        );
      } else held.area = areaOf(start, point);
      redraw();
    };
    const end = commit => {
      const { way, ease, area } = held ?? {};
      held = null;
      if (!commit) {
        requestFrames([]);
        redraw();
        return;
      }
      if (!moved) {
        if (!found) {
          choose([], event.shiftKey);
          const lane = laneAt(start.y);
          if (lane) chooseLane(lane.parameter);
        }
      } else if (way) keepWay(way);
      else if (ease)
        commitEdits([
          { kind: "set ease", parameter: found.ease.lane.parameter, frame: found.ease.key.frame, ease },
        ]).catch(error => complainAt(sheet, error.message));
      else if (area) choose(within(area), event.shiftKey);
      redraw();
    };
    if (!grip(canvas, event, { move, end })) held = null;
  });
  canvas.addEventListener("pointermove", event => {
    if (held) return;
    const found = under(pointOf(event));
    const across = found?.grip && (found.grip.side === "left" || found.grip.side === "right");
    canvas.style.cursor = !found ? "crosshair" : found.grip ? (across ? "ew-resize" : "ns-resize") : "grab";
  });
  canvas.addEventListener("dblclick", event => {
    const point = pointOf(event);
    const lane = laneAt(point.y);
    if (!lane || under(point) || point.x < NAMES) return;
    const frame = Math.min(Math.max(Math.round(frameAt(point.x)), 0), scene.length);
    commitEdits([{ kind: "set key", parameter: lane.parameter, frame }])
      .then(() => choose([{ lane, key: { frame } }]))
      .catch(error => complainAt(sheet, error.message));
  });
}

export function copyKeys() {
  const keys = chosenKeys();
  if (!keys.length) return say("Choose the keys to copy first.");
  const copied = {};
  for (const { lane, key } of keys)
    (copied[lane.parameter] ??= []).push({ frame: key.frame, value: key.value, ease: key.ease });
  setHands({ copied: { ...hands.copied, keys: copied } });
  say(`${keys.length === 1 ? "One key" : `${keys.length} keys`} copied. Paste puts them at the playhead.`);
  changed();
  return null;
}

// Keys of one value go onto the chosen lane; keys of several go back onto their own.
export function pasteKeys() {
  const copied = hands.copied?.keys;
  if (!copied) return say("Copy some keys first.");
  const [only, ...more] = Object.keys(copied);
  const keys = more.length || !choice.parameter ? copied : { [choice.parameter]: copied[only] };
  const frame = Math.floor(clock.frame);
  const first = Math.min(
    ...Object.values(keys)
      .flat()
      .map(key => key.frame),
  );
  return commitEdits([{ kind: "paste keys", keys, frame }])
    .then(told => {
      say(`${told.label}.`);
      choose(
        lanes.flatMap(lane =>
          (keys[lane.parameter] ?? []).map(key => ({ lane, key: { frame: key.frame - first + frame } })),
        ),
      );
    })
    .catch(error => complainAt(sheet, error.message));
}
