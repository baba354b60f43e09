// @ts-check
// What is dragged on the stage for a chosen layer: the ends of the drawn part of its line, the length of a trace, the
// zoom and scroll of a texture; and where a layer shows that has a matte.
import { clock } from "../talk/clock.js";
import { hands } from "../talk/hands.js";
import { scene } from "../talk/scene.js";
import { curveAt } from "../talk/server.js";
import { nodesOf, pathOf, pointsOf } from "../display/list.js";
import { which as whichOf } from "../display/shape.js";
import { passed } from "../display/trace.js";
import { colours } from "../lib/charts.js";
import { frameNow, round, set } from "./read.js";
import { lastChosen, pivotOnScreen, toScreen, view } from "./stage_view.js";

const STEPS = 240,
  APART = 26;
const NUMBERS = { M: 1, L: 1, Q: 2, C: 3, Z: 0 };

// An outline as a path of the page, which knows its length.
const measure = /** @type {SVGPathElement} */ (document.createElementNS("http://www.w3.org/2000/svg", "path"));
let measured = { key: "", length: 0, points: [] };

// Points evenly along the outline of a shape, in its own coordinates.
function alongOf({ node, index, element }) {
  const numbers = pointsOf(node, index, element),
    key = `${node.id} ${index} ${element} ${numbers.slice(0, 12).join()} ${numbers.length}`;
  if (measured.key === key) return measured;
  let k = 0;
  const told = [...node.verbs[whichOf(node, index, element)]].map(verb => {
    const many = 2 * NUMBERS[verb];
    k += many;
    return verb + [...numbers.slice(k - many, k)].join(" ");
  });
  measure.setAttribute("d", told.join(""));
  const length = measure.getTotalLength();
  measured = {
    key,
    length,
    points: Array.from({ length: STEPS + 1 }, (_, step) => measure.getPointAtLength((length * step) / STEPS)),
  };
  return measured;
}

function ofLine(shape) {
  if (shape.node.kind !== "shape") return [];
  if (!document.querySelector(`[data-take-part="${CSS.escape(shape.node.id)}"][data-part=line]`)) return [];
  const id = shape.node.id,
    [start] = curveAt(`${id}.line.start`, frameNow()),
    [end] = curveAt(`${id}.line.end`, frameNow());
  const [turn] = curveAt(`${id}.line.turn`, frameNow());
  if (start === undefined || end === undefined) return [];
  const { points, length } = alongOf(shape);
  if (!length) return [];
  const closed = Math.hypot(points[0].x - points[STEPS].x, points[0].y - points[STEPS].y) < 0.5;
  const inverse = shape.matrix.inverse();
  const ends = /** @type {[string, number, string][]} */ ([
    ["start", start, "Where the line begins"],
    ["end", end, "Where the line ends"],
  ]);
  return ends.map(([name, share, words]) => {
    const at = ((((share + (turn ?? 0)) / 100) % 1) + 1) % 1 || (share + (turn ?? 0) >= 100 ? 1 : 0);
    const place = points[Math.round(at * STEPS)];
    return {
      at: toScreen(shape.matrix, place.x, place.y),
      words,
      round: true,
      edits: point => {
        const p = inverse.transformPoint(point);
        let best = 0,
          near = Infinity;
        points.forEach((one, k) => {
          const far = Math.hypot(one.x - p.x, one.y - p.y);
          if (far < near) {
            near = far;
            best = k;
          }
        });
        let made = (best / STEPS) * 100 - (turn ?? 0);
        made = closed ? ((made % 100) + 100) % 100 : Math.min(Math.max(made, 0), 100);
        // At the seam of a ring the end is at its end, and the beginning at its beginning.
        if (closed && name === "end" && made < 1) made = 100;
        if (closed && name === "start" && made > 99) made = 0;
        return [set(`${id}.line.${name}`, round(made))];
      },
    };
  });
}

function ofTexture({ node, matrix }) {
  if (node.kind !== "texture") return [];
  const [zoom] = curveAt(`${node.id}.zoom`, frameNow()),
    scroll = curveAt(`${node.id}.scroll`, frameNow());
  if (zoom === undefined || scroll.length < 2) return [];
  const inverse = matrix.inverse(),
    size = view.zoom * Math.sqrt(Math.abs(matrix.a * matrix.d - matrix.b * matrix.c)) || 1,
    apart = 46 / size;
  return [
    {
      at: toScreen(matrix, scroll[0] + zoom, scroll[1]),
      words: "Zoom",
      edits: point => [
        set(
          `${node.id}.zoom`,
          round(
            Math.max(
              4,
              Math.hypot(inverse.transformPoint(point).x - scroll[0], inverse.transformPoint(point).y - scroll[1]),
            ),
          ),
        ),
      ],
    },
    {
      at: toScreen(matrix, scroll[0], scroll[1] + apart),
      words: "Scroll",
      edits: point => [
        set(`${node.id}.scroll`, [
          round(inverse.transformPoint(point).x),
          round(inverse.transformPoint(point).y - apart),
        ]),
      ],
    },
  ];
}

// The oldest place of a trace that is seen: how long it is. At its beginning it is seen from the first frame on.
function ofTrace({ node, index, element, matrix }) {
  if (node.kind !== "trace") return [];
  const seen = passed(node, index, element);
  if (!seen || seen.vertices.length < 2) return [];
  const { vertices, from } = seen,
    inverse = matrix.inverse(),
    low = vertices[Math.floor(from)],
    high = vertices[Math.min(Math.ceil(from), vertices.length - 1)];
  const share = from - Math.floor(from);
  return [
    {
      at: toScreen(matrix, low.x + (high.x - low.x) * share, low.y + (high.y - low.y) * share),
      words: "How long",
      round: true,
      edits: point => {
        const p = inverse.transformPoint(point),
          far = ({ x, y }) => Math.hypot(x - p.x, y - p.y);
        const near = vertices.reduce((best, one) => (far(one) < far(best) ? one : best));
        const back = (index - near.frame) / scene.fps;
        return [set(`${node.id}.seconds`, near === vertices[0] ? 0 : Math.max(0.01, Math.round(back * 100) / 100))];
      },
    },
  ];
}

// Depth and tilt, beside the pivot of what lies in depth: down is nearer, and what is pulled over turns after the hand.
function inDepth(shape) {
  const id = shape.node.id,
    [depth] = curveAt(`${id}.depth`, frameNow(), "result"),
    tilt = curveAt(`${id}.tilt`, frameNow(), "result");
  if (depth === undefined || tilt.length < 2) return [];
  const [x, y] = pivotOnScreen(shape),
    began = { x: (x - view.x) / view.zoom, y: (y - view.y) / view.zoom };
  const by = (parameter, steps) => [
    { kind: "set value", parameter, by: steps.map(round), frame: frameNow(), by_hand: true },
  ];
  const off = (point, dx, dy) => [(point.x - began.x) * view.zoom - dx, (point.y - began.y) * view.zoom - dy];
  return [
    {
      at: [x + APART, y + APART],
      words: "Depth: down is nearer",
      diamond: true,
      edits: point => by(`${id}.depth`, [off(point, APART, APART)[1] / view.zoom]),
    },
    {
      at: [x - APART, y + APART],
      words: "Tilt",
      round: true,
      edits: point => {
        const [dx, dy] = off(point, -APART, APART);
        return by(`${id}.tilt`, [-dy / 2, dx / 2]);
      },
    },
  ];
}

/**
 * Where a handle stands on the page, what it is called and looks like, and what dragging it to a point of the stage
 * does.
 * @typedef {{ at: number[], words: string, round?: boolean, diamond?: boolean,
 *   edits: (point: { x: number, y: number }) => object[] }} Handle
 */

// What gives a layer handles: each knows by itself for which it has some.
/** @type {((shape: any) => Handle[])[]} */
const GIVING = [ofTexture, ofTrace, ofLine, inDepth];

// Every handle of the layer that was chosen last.
export function handlesOfLayer() {
  const shape = hands.pointing ? null : lastChosen();
  return shape ? GIVING.flatMap(handlesOf => handlesOf(shape)) : [];
}

// The handles, and where the layer shows as a tint.
export function drawLayerHandles(context, answer) {
  const shape = hands.pointing ? null : lastChosen();
  if (shape?.node.matte && !shape.node.matte_depth) {
    const ratio = devicePixelRatio || 1;
    context.save();
    context.fillStyle = context.strokeStyle = colours.sea;
    for (const { node, matrix, index, element } of nodesOf(
      { nodes: [shape.node.matte], start: answer.start },
      clock.frame,
    )) {
      if (node.kind === "group" || node.kind === "array") continue;
      context.setTransform(ratio * view.zoom, 0, 0, ratio * view.zoom, ratio * view.x, ratio * view.y);
      context.transform(matrix.a, matrix.b, matrix.c, matrix.d, matrix.e, matrix.f);
      context.globalAlpha = 0.16;
      context.fill(pathOf(node, index, element));
      context.globalAlpha = 0.8;
      context.lineWidth = 1 / view.zoom;
      context.stroke(pathOf(node, index, element));
    }
    context.restore();
  }
  for (const {
    at: [x, y],
    round = false,
    diamond = false,
  } of handlesOfLayer()) {
    context.beginPath();
    if (diamond)
      for (const [dx, dy] of [
        [0, -6.5],
        [6.5, 0],
        [0, 6.5],
        [-6.5, 0],
        [0, -6.5],
      ])
        context.lineTo(x + dx, y + dy);
    else if (round) context.arc(x, y, 5, 0, 7);
    else context.rect(x - 4.5, y - 4.5, 9, 9);
    context.fillStyle = colours.sheet;
    context.strokeStyle = colours.brass;
    context.lineWidth = 1.6;
    context.fill();
    context.stroke();
  }
}
