// @ts-check
// What is more than laid down as it is: filters, then the matte, then opacity and blend, as in CSS.
import { row } from "../lib/channels.js";
import { boxOf, grown, onSheet, reachOf } from "./bounds.js";
import { css } from "../lib/colour.js";
import { layAt, liesAt, offsetOf, sheetAt, sheetFor, spareSheet } from "./paint.js";

// CSS's mix-blend-mode by number, in a canvas's words.
const BLENDS = [
  "source-over",
  "multiply",
  "screen",
  "overlay",
  "darken",
  "lighten",
  "color-dodge",
  "color-burn",
  "hard-light",
  "soft-light",
  "difference",
  "exclusion",
  "lighter",
];
// The luminance of what lies on black, as alpha.
const LUMINANCE = [...Array(15).fill(0), 0.2126, 0.7152, 0.0722, 0, 0];

export const isComposited = node => Boolean(node.filters || node.matte || node.channels.blend);

// Colour matrices as filters of the page, which a canvas can name. Few are used at a time.
const matrices = new Map();
let shelf = null;

function named(numbers) {
  const key = numbers.map(v => v.toFixed(5)).join(" ");
  if (!matrices.has(key)) {
    const svg = (name, attributes) => {
      const made = document.createElementNS("http://www.w3.org/2000/svg", name);
      for (const [attribute, value] of Object.entries(attributes)) made.setAttribute(attribute, value);
      return made;
    };
    if (!shelf) {
      shelf = svg("svg", { width: "0", height: "0", "aria-hidden": "true", class: "filter-shelf" });
      document.body.append(shelf);
    }
    if (matrices.size > 200) {
      matrices.clear();
      shelf.replaceChildren();
    }
    const id = `colour-matrix-${matrices.size}`;
    const filter = svg("filter", {
      id,
      "color-interpolation-filters": "sRGB",
      x: "0",
      y: "0",
      width: "1",
      height: "1",
    });
    filter.append(svg("feColorMatrix", { type: "matrix", values: key }));
    shelf.append(filter);
    matrices.set(key, `url(#${id})`);
  }
  return matrices.get(key);
}

// A sheet through a colour matrix where there is no page whose filters a canvas could name: the same, pixel by pixel.
function recoloured(sheet, m) {
  const inner = sheet.getContext("2d"),
    image = inner.getImageData(0, 0, sheet.width, sheet.height),
    { data } = image;
  for (let k = 0; k < data.length; k += 4) {
    const [r, g, b, a] = [data[k], data[k + 1], data[k + 2], data[k + 3]];
    for (let c = 0; c < 4; c += 1)
      data[k + c] = m[5 * c] * r + m[5 * c + 1] * g + m[5 * c + 2] * b + m[5 * c + 3] * a + m[5 * c + 4] * 255;
  }
  inner.putImageData(image, 0, 0);
  return sheet;
}

const throughMatrix = (sheet, numbers) =>
  typeof document === "undefined" ? recoloured(sheet, numbers) : through(sheet, named(numbers));

// A sheet with what is on another, through one filter of the canvas.
function through(sheet, filter) {
  const made = sheetFor(sheet.width, sheet.height);
  const inner = made.getContext("2d");
  inner.filter = filter;
  inner.drawImage(sheet, 0, 0);
  inner.filter = "none";
  spareSheet(sheet);
  return made;
}

// A shadow of what is on a sheet, with it on top; x, y and the softness in the sheet's pixels.
function shadowed(sheet, x, y, soft, colour) {
  const shade = sheetFor(sheet.width, sheet.height),
    inner = shade.getContext("2d");
  inner.drawImage(sheet, 0, 0);
  inner.globalCompositeOperation = "source-in";
  inner.fillStyle = colour;
  inner.fillRect(0, 0, sheet.width, sheet.height);
  inner.globalCompositeOperation = "source-over";
  const made = sheetFor(sheet.width, sheet.height),
    whole = made.getContext("2d");
  if (soft > 0.01) whole.filter = `blur(${soft}px)`;
  whole.drawImage(shade, x, y);
  whole.filter = "none";
  whole.drawImage(sheet, 0, 0);
  spareSheet(shade);
  spareSheet(sheet);
  return made;
}

function filtered(sheet, node, index, element, { a, b, c, d }) {
  const size = Math.sqrt(Math.abs(a * d - b * c));
  (node.filters ?? []).forEach((kind, k) => {
    const told = [...row(node.channels[`filter.${k}`], index, element)];
    if (kind === "blur") {
      if (told[0] * size > 0.01) sheet = through(sheet, `blur(${told[0] * size}px)`);
    } else if (kind === "matrix") sheet = throughMatrix(sheet, told);
    else {
      const [x, y, radius, ...rgba] = told;
      sheet = shadowed(sheet, a * x + c * y, b * x + d * y, radius * size, css(rgba));
    }
  });
  return sheet;
}

// Keep of a sheet what lies where the matte is, or is not. `drawNode` draws where the stage lies, or the copy that
// the matte is in.
function masked(sheet, offset, node, index, element, drawNode) {
  const told = name => row(node.channels[name], index, element)[0] >= 0.5;
  let matte = sheetFor(sheet.width, sheet.height);
  const inner = matte.getContext("2d");
  if (told("matte_by")) {
    inner.fillStyle = "#000";
    inner.fillRect(0, 0, matte.width, matte.height);
  }
  liesAt(inner, offset);
  const base = drawNode.levels.at(-1);
  inner.setTransform(new DOMMatrix().translate(-offset[0], -offset[1]).multiply(base.matrix));
  drawNode(inner, node.matte, index, base.element);
  inner.setTransform(1, 0, 0, 1, 0, 0);
  if (told("matte_by")) matte = throughMatrix(matte, LUMINANCE);
  const whole = sheet.getContext("2d");
  whole.setTransform(1, 0, 0, 1, 0, 0);
  whole.globalCompositeOperation = told("matte_backwards") ? "destination-out" : "destination-in";
  whole.drawImage(matte, 0, 0);
  whole.globalCompositeOperation = "source-over";
  spareSheet(matte);
}

// Draw a node by `draw` (onto what), where the context stands. What lies beside the context's sheet may come in by a
// filter.
export function layDown(context, node, index, element, alpha, drawNode, draw) {
  const place = context.getTransform(),
    reach = reachOf(node, index, element, place);
  const box = onSheet(context, grown(boxOf(place, node, index, element), reach), reach);
  if (!box) return;
  let sheet = sheetAt(context, box, draw);
  const offset = offsetOf(sheet.getContext("2d"));
  sheet.getContext("2d").setTransform(1, 0, 0, 1, 0, 0);
  sheet = filtered(sheet, node, index, element, place);
  if (node.matte) masked(sheet, offset, node, index, element, drawNode.at(node.matte_depth));
  const blend =
    BLENDS[node.channels.blend ? Math.round(row(node.channels.blend, index, element)[0]) : 0] ?? "source-over";
  layAt(context, sheet, box, alpha, blend);
}
