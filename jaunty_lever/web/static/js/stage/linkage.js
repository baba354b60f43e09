// @ts-check
// The linkage as a drawing: cards of layers and levers, laid out from driver to follower, and ties between them.
import { graphlib, layout } from "../../vendor/dagre.js";
import { choice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { curveAt } from "../talk/server.js";
import { figure, hexOf, unitBehind } from "../lib/figures.js";

const NS = "http://www.w3.org/2000/svg";
const WIDTH = 168,
  HEAD = 27,
  ROW = 25,
  PAD = 6,
  WORDS = 19;

export const shown = { folded: new Set(), way: "all", named: "" };

let data = { boxes: [], cards: [], ties: [], hosts: [] };
let places = new Map();
let figures = [];

export function read() {
  data = JSON.parse(document.getElementById("linkage-data").textContent);
  return data;
}

export const boxOf = id => data.boxes.find(box => box.id === id);

// Everything upstream or downstream of a box, itself included.
function reach(start, way) {
  const [from, to] = way === "up" ? ["follower", "driver"] : ["driver", "follower"];
  const steps = [...data.ties, ...data.hosts.map(host => ({ driver: host.from, follower: host.to }))];
  const found = new Set([start]),
    waiting = [start];
  while (waiting.length) {
    const here = waiting.pop();
    for (const step of steps)
      if (step[from] === here && !found.has(step[to])) {
        found.add(step[to]);
        waiting.push(step[to]);
      }
  }
  return found;
}

function visible() {
  let boxes = data.boxes;
  if (shown.way !== "all" && choice.parameter && boxOf(choice.parameter)) {
    const kept = reach(choice.parameter, shown.way);
    boxes = boxes.filter(box => kept.has(box.id));
  }
  const words = shown.named.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length) {
    // What is found, with what it is tied to.
    const hit = new Set(
      boxes.filter(box => words.every(word => box.name.toLowerCase().includes(word))).map(box => box.id),
    );
    const near = new Set(hit);
    for (const tie of data.ties) {
      if (hit.has(tie.driver)) near.add(tie.follower);
      if (hit.has(tie.follower)) near.add(tie.driver);
    }
    boxes = boxes.filter(box => near.has(box.id));
  }
  const ids = new Set(boxes.map(box => box.id));
  return {
    boxes,
    ties: data.ties.filter(tie => ids.has(tie.driver) && ids.has(tie.follower)),
    cards: data.cards.filter(card => boxes.some(box => box.owner === card.id)),
  };
}

function make(name, attributes, parent, text) {
  const node = document.createElementNS(NS, name);
  for (const [key, value] of Object.entries(attributes)) node.setAttribute(key, value);
  if (text !== undefined) node.textContent = text;
  parent?.append(node);
  return node;
}

const short = (text, most) => (text.length > most ? `${text.slice(0, most - 1)}…` : text);

// In a large rig, a tie that a longer way round implies says nothing about where cards stand, and costs much of the
// time.
function thin(graph) {
  const below = new Map();
  for (const start of graph.nodes()) {
    const found = new Set(),
      waiting = [start];
    while (waiting.length) {
      for (const next of graph.successors(waiting.pop()))
        if (!found.has(next)) {
          found.add(next);
          waiting.push(next);
        }
    }
    below.set(start, found);
  }
  for (const from of graph.nodes()) {
    const next = graph.successors(from);
    for (const to of next) {
      if (next.some(by => by !== to && below.get(by).has(to) && !below.get(to).has(by))) graph.removeEdge(from, to);
    }
  }
}

const labelWidth = tie => Math.min(WORDS, tie.does.length) * 6.7 + 10;

// Cards are laid out, not values: a rig of hundreds of values has but dozens of layers.
function arrange({ boxes, ties, cards }) {
  const graph = new graphlib.Graph({ multigraph: false });
  graph.setGraph({
    rankdir: "LR",
    ranksep: 24,
    nodesep: 18,
    ranker: cards.length > 80 ? "longest-path" : "tight-tree",
  });
  graph.setDefaultEdgeLabel(() => ({}));
  const owner = new Map(boxes.map(box => [box.id, box.owner]));
  for (const card of cards) {
    const own = boxes.filter(box => box.owner === card.id);
    // A lever's value stands in its head.
    card.single = card.lever && own.length === 1 ? own[0] : null;
    card.rows = card.single || shown.folded.has(card.id) ? [] : own;
    graph.setNode(card.id, { width: WIDTH, height: HEAD + card.rows.length * ROW + (card.rows.length ? PAD : 0) });
  }
  for (const tie of ties) {
    const [a, b] = [owner.get(tie.driver), owner.get(tie.follower)];
    // Room for the longest words between two cards.
    if (a !== b)
      graph.setEdge(a, b, {
        weight: 1,
        width: Math.max(graph.edge(a, b)?.width ?? 0, labelWidth(tie)),
        height: 14,
        labelpos: "c",
      });
  }
  if (graph.edgeCount() > 100) thin(graph);
  layout(graph);
  places = new Map();
  for (const card of cards) {
    const { x, y, height } = graph.node(card.id);
    Object.assign(card, { x: x - WIDTH / 2, y: y - height / 2, height });
    for (const box of boxes) {
      if (box.owner !== card.id) continue;
      const k = card.rows.indexOf(box);
      places.set(box.id, {
        left: card.x,
        right: card.x + WIDTH,
        y: k < 0 ? card.y + HEAD / 2 : card.y + HEAD + k * ROW + ROW / 2,
      });
    }
  }
  const { width, height } = graph.graph();
  return { width: Number.isFinite(width) ? width : 1, height: Number.isFinite(height) ? height : 1 };
}

function curve(tie) {
  const a = places.get(tie.driver),
    b = places.get(tie.follower);
  if (b.left > a.right) {
    const bend = Math.min(90, (b.left - a.right) / 2);
    return {
      path: `M${a.right} ${a.y}C${a.right + bend} ${a.y} ${b.left - bend} ${b.y} ${b.left - 6} ${b.y}`,
      x: b.left - 12,
      y: b.y,
    };
  }
  // Backwards, or inside one card: around the right side.
  const out = Math.max(a.right, b.right) + 34 + Math.abs(a.y - b.y) * 0.08;
  return {
    path: `M${a.right} ${a.y}C${out} ${a.y} ${out} ${b.y} ${b.right + 6} ${b.y}`,
    x: out - 8,
    y: (a.y + b.y) / 2,
    back: true,
  };
}

// Draws everything anew; the size of the drawing.
export function draw(target) {
  const view = visible();
  const size = arrange(view);
  target.replaceChildren();
  figures = [];
  const lines = make("g", { class: "ties" }, target);
  const near =
    choice.parameter && boxOf(choice.parameter)
      ? { up: reach(choice.parameter, "up"), down: reach(choice.parameter, "down") }
      : null;
  const labels = make("g", { class: "tie-labels" }, target);
  const taken = [];
  for (const tie of view.ties) {
    const { path, x, y, back } = curve(tie);
    const lit =
      near &&
      ((near.up.has(tie.driver) && near.up.has(tie.follower)) ||
        (near.down.has(tie.driver) && near.down.has(tie.follower)));
    const group = make(
      "g",
      {
        class: `tie${lit ? " is-lit" : ""}${near && !lit ? " is-dim" : ""}`,
        "data-tie-line": tie.modifier,
        "data-tie-follower": tie.follower,
        "data-tie-words": tie.words,
        tabindex: "0",
        role: "button",
        "aria-label": tie.words,
      },
      lines,
    );
    make("path", { d: path, class: "tie-wide", fill: "none", stroke: "transparent", "stroke-width": 12 }, group);
    make(
      "path",
      {
        d: path,
        class: "tie-path",
        fill: "none",
        stroke: "#1f6f78",
        "stroke-width": lit ? 2.2 : 1.3,
        "marker-end": "url(#tie-end)",
      },
      group,
    );
    const words = short(tie.does, WORDS),
      width = labelWidth(tie);
    // Labels of neighbours step aside, so that each can be read.
    let at = y;
    // Beside its follower, where ties from one driver have parted.
    const left = back ? x + 4 : x - width;
    while (
      taken.some(other => Math.abs(other.y - at) < 15 && left < other.left + other.width && other.left < left + width)
    )
      at += 15;
    taken.push({ left, y: at, width });
    const label = make(
      "g",
      {
        class: `tie-label${near && !lit ? " is-dim" : ""}`,
        "data-tie-line": tie.modifier,
        "data-tie-follower": tie.follower,
        "data-tie-words": tie.words,
      },
      labels,
    );
    make(
      "rect",
      { x: left, y: at - 8, width, height: 16, rx: 3, fill: "#fffdf8", stroke: "#c9d8d6", "stroke-width": 1 },
      label,
    );
    make(
      "text",
      {
        x: left + width / 2,
        y: at + 4,
        "text-anchor": "middle",
        class: "tie-words",
        fill: "#1f6f78",
        "font-size": 11.5,
        "font-family": "Instrument Sans, sans-serif",
      },
      label,
      words,
    );
    make("title", {}, label, tie.words);
  }
  for (const card of view.cards) drawCard(target, card, near);
  followValues();
  return size;
}

function drawCard(target, card, near) {
  const group = make(
    "g",
    { class: `card${card.lever ? " is-lever" : ""}`, "data-card": card.id, "data-name": card.name },
    target,
  );
  make(
    "rect",
    {
      x: card.x,
      y: card.y,
      width: WIDTH,
      height: card.height,
      rx: 4,
      fill: "#fffdf8",
      stroke: card.lever ? "#1f6f78" : "#22303c",
      "stroke-width": 1,
    },
    group,
  );
  if (card.lever) make("rect", { x: card.x, y: card.y, width: 4, height: card.height, rx: 2, fill: "#1f6f78" }, group);
  if (card.single) {
    drawBox(group, card, card.single, card.y + 1, near, card.name, true);
    return;
  }
  const head = make(
    "g",
    {
      class: "card-head",
      "data-fold": card.id,
      role: "button",
      tabindex: "0",
      "aria-label": `${shown.folded.has(card.id) ? "Unfold" : "Fold"} ${card.name}`,
    },
    group,
  );
  make("rect", { x: card.x, y: card.y, width: WIDTH, height: HEAD, fill: "transparent" }, head);
  make(
    "text",
    {
      x: card.x + 12,
      y: card.y + 18,
      class: "card-name",
      fill: "#22303c",
      "font-size": 14,
      "font-weight": 600,
      "font-family": "Bricolage Grotesque, sans-serif",
    },
    head,
    short(card.name, 21),
  );
  make(
    "text",
    {
      x: card.x + WIDTH - 14,
      y: card.y + 18,
      class: "card-fold",
      "text-anchor": "end",
      fill: "#5f6b74",
      "font-size": 11,
      "font-family": "Instrument Sans, sans-serif",
    },
    head,
    shown.folded.has(card.id) ? "unfold" : "",
  );
  make("title", {}, head, card.name);
  card.rows.forEach((box, k) => drawBox(group, card, box, card.y + HEAD + k * ROW, near, box.label, false));
}

function drawBox(group, card, box, y, near, words, bold) {
  const dim = near && !near.up.has(box.id) && !near.down.has(box.id);
  const line = make(
    "g",
    {
      class: `box${box.id === choice.parameter ? " is-chosen" : ""}${dim ? " is-dim" : ""}`,
      "data-box": box.id,
      "data-owner": box.owner,
      tabindex: "0",
      role: "button",
      "aria-label": box.name,
    },
    group,
  );
  make(
    "rect",
    {
      x: card.x + 5,
      y: y + 1,
      width: WIDTH - 10,
      height: ROW - 2,
      rx: 3,
      class: "box-ground",
      fill: box.id === choice.parameter ? "#f0e4cd" : "transparent",
    },
    line,
  );
  make(
    "text",
    {
      x: card.x + 12,
      y: y + 17,
      fill: "#22303c",
      ...(bold
        ? { "font-size": 14, "font-weight": 600, "font-family": "Bricolage Grotesque, sans-serif" }
        : { "font-size": 13, "font-family": "Instrument Sans, sans-serif" }),
    },
    line,
    short(words, bold ? 17 : box.wide ? 7 : 15),
  );
  const value = make(
    "text",
    {
      x: card.x + WIDTH - 12,
      y: y + 17,
      class: "box-value",
      "text-anchor": "end",
      fill: "#5f6b74",
      "font-size": 11.5,
      "font-family": "Martian Mono, monospace",
    },
    line,
    "",
  );
  make("title", {}, line, box.train ? `${box.name}: ${box.train}` : box.name);
  figures.push({ box, value });
}

const said = (box, values) => {
  if (box.kind === "choice") return box.options[Math.round(values[0])] ?? "";
  if (box.kind === "switch") return values[0] >= 0.5 ? "on" : "off";
  if (box.kind === "colour") return hexOf(values);
  return (
    [...values]
      .slice(0, 2)
      .map(v => figure(v, Math.abs(v) < 10 ? 2 : Math.abs(v) < 1000 ? 1 : 0))
      .join(", ") + unitBehind(box.unit)
  );
};

// The value at the playhead on every box.
export function followValues() {
  const frame = Math.floor(clock.frame);
  for (const { box, value } of figures) {
    const values = curveAt(box.id, frame);
    const words = values.length ? said(box, values) : "";
    if (value.textContent !== words) value.textContent = words;
  }
}

export const wanted = () => ({ result: data.boxes.map(box => box.id), source: [], awake: [] });
