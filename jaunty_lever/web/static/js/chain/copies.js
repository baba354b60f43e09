// @ts-check
// The copies of an array on the Bench: which one is shown, the fan of others behind its curve, and the map of all of
// them.
import { remember } from "../talk/address.js";
import { answers } from "../talk/answers.js";
import { choice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { on } from "../talk/events.js";
import { scene } from "../talk/scene.js";
import { setViews, views } from "../talk/views.js";
import { channel } from "../lib/channels.js";
import { requestFrames } from "../talk/server.js";
import { highOf, wideOf } from "../lib/canvases.js";
import { canvasOf } from "../lib/surroundings.js";
import { colours, playhead } from "../lib/charts.js";
import { spoken } from "../lib/figures.js";
import { ramp } from "../lib/ramp.js";
import { setFrame } from "../stage/time.js";
import { all, first } from "../lib/places.js";

export const told = () => (answers.last?.chosen?.parameter === choice.parameter ? answers.last.chosen.copies : null);

// One of the elements that a channel has side by side, as a channel of its own.
export const elementOf = (one, k) => ({
  rows: one.rows,
  each: 1,
  width: one.each * one.width,
  data: one.data.subarray(one.each > 1 ? k * one.width : 0),
});

// The other copies' curves at a station.
export function fanOf(station) {
  const copies = told();
  const one = copies?.spread === "fan" ? channel(copies.outputs[station]) : null;
  // Where all copies have the same, one curve says it.
  return one && one.each > 1 ? copies.numbers.map((_, k) => elementOf(one, k)) : [];
}

export const mapped = () => told()?.spread === "map" && told().count > 1;

// How values become colours: from paper to ink, or from brick over paper to sea around 0; one picture for each
// component.
function scaleOf(one, component) {
  let [low, high] = [Infinity, -Infinity];
  for (let k = component; k < one.data.length; k += one.width) {
    low = Math.min(low, one.data[k]);
    high = Math.max(high, one.data[k]);
  }
  return ramp(low, high);
}

const pictures = new WeakMap();

// A station's map as a picture, a pixel for each copy at each moment.
export function pictureOf(one, count, kind, component) {
  const known = pictures.get(one) ?? [];
  if (known[component]) return known[component];
  const sheet = canvasOf(one.rows, count);
  const context = sheet.getContext("2d");
  const pixels = context.createImageData(one.rows, count);
  const colour = kind === "colour" ? v => v : scaleOf(one, component);
  for (let row = 0; row < one.rows; row += 1) {
    for (let copy = 0; copy < count; copy += 1) {
      const at = (row * one.each + (one.each > 1 ? copy : 0)) * one.width;
      const [r, g, b] =
        kind === "colour" ? [...one.data.subarray(at, at + 3)].map(v => v * 255) : colour(one.data[at + component]);
      pixels.data.set([r, g, b, 255], (copy * one.rows + row) * 4);
    }
  }
  context.putImageData(pixels, 0, 0);
  known[component] = sheet;
  pictures.set(one, known);
  return sheet;
}

// Where the bands of a map's components lie in a box.
export function bandsOf(parts, box) {
  const gap = parts.length > 1 ? 3 : 0,
    height = (box.height - gap * (parts.length - 1)) / parts.length;
  return parts.map((c, k) => ({ ...box, c, y: box.y + k * (height + gap), height }));
}

// The components that a map shows: those that differ from copy to copy or in time.
export function partsOf(one, kind) {
  if (kind === "colour") return [0];
  const differ = Array.from({ length: one.width }, (_, c) => c).filter(c => {
    for (let k = c; k < one.data.length; k += one.width) if (one.data[k] !== one.data[c]) return true;
    return false;
  });
  return differ.length ? differ : [0];
}

export function drawMap(context, station, kind, box) {
  const copies = told(),
    one = channel(copies.outputs[station]);
  if (!one) return;
  context.imageSmoothingEnabled = false;
  const shown = copies.numbers.indexOf(copies.shown);
  bandsOf(partsOf(one, kind), box).forEach(({ c, ...band }) => {
    context.drawImage(pictureOf(one, copies.numbers.length, kind, c), band.x, band.y, band.width, band.height);
    if (shown < 0) return;
    context.strokeStyle = colours.brass;
    context.lineWidth = 1;
    context.strokeRect(
      band.x - 0.5,
      band.y + (shown / copies.numbers.length) * band.height - 0.5,
      band.width + 1,
      band.height / copies.numbers.length + 1,
    );
  });
  context.imageSmoothingEnabled = true;
  playhead(context, box, Math.floor(clock.frame) / Math.max(1, scene.length - 1));
}

// What lies under the pointer on a map: copy, frame and value.
function under(canvas, event) {
  const copies = told();
  const name = canvas.dataset.curve,
    station = name === "result" ? answers.last.chosen.outputs.length - 1 : Number(name);
  const one = channel(copies.outputs[station]);
  if (!one) return null;
  const box = { x: 4, y: 4, width: wideOf(canvas) - 8, height: highOf(canvas) - 8 };
  const kind = first("[data-chain]")?.dataset.kind;
  const all = bandsOf(partsOf(one, kind), box);
  const component = Math.max(
    0,
    all.findIndex(band => event.offsetY <= band.y + band.height + 1.5),
  );
  const band = all[component];
  const share = Math.min(Math.max((event.offsetX - box.x) / box.width, 0), 0.99999);
  const place = Math.floor(
    Math.min(Math.max((event.offsetY - band.y) / band.height, 0), 0.99999) * copies.numbers.length,
  );
  const row = one.rows > 1 ? Math.min(Math.floor(share * one.rows), one.rows - 1) : 0;
  const at = (row * one.each + (one.each > 1 ? place : 0)) * one.width;
  return {
    copy: copies.numbers[place],
    frame: Math.min(Math.floor(share * scene.length), scene.length - 1),
    values: one.data.subarray(at, at + one.width),
  };
}

document.addEventListener("pointermove", event => {
  const canvas = event.target.closest?.("canvas[data-curve]");
  if (!canvas || !mapped()) return;
  const found = under(canvas, event);
  const unit = first("[data-chain]")?.dataset.unit ?? "";
  if (found) canvas.title = `${told().word} ${found.copy}, frame ${found.frame}: ${spoken(found.values, unit)}`;
  if (found && event.buttons === 1) pointAt(found);
});

document.addEventListener("pointerdown", event => {
  const canvas = event.target.closest?.("canvas[data-curve]");
  if (!canvas || event.button !== 0 || !mapped()) return;
  const found = under(canvas, event);
  if (found) pointAt(found);
});

export function pointAt({ copy, frame }) {
  setFrame(frame);
  showCopy(told().array, copy);
}

// Shows one copy's curves and values.
export function showCopy(array, copy) {
  if ((views.copies[array] ?? 0) === copy) return;
  setViews({ copies: { ...views.copies, [array]: copy } });
  remember();
  requestFrames([]);
}

document.addEventListener("click", event => {
  const step = event.target.closest?.("[data-copy-step]");
  const spread = event.target.closest?.("[data-spread]");
  const copies = told();
  if (step && copies)
    showCopy(copies.array, (copies.shown + Number(step.dataset.copyStep) + copies.count) % Math.max(copies.count, 1));
  if (spread) {
    setViews({ spread: spread.dataset.spread });
    remember();
    tell();
    requestFrames([]);
  }
});

function tell() {
  const copies = told();
  for (const place of all("[data-copy-told]"))
    place.textContent = copies ? `${copies.word} ${copies.shown} of ${copies.count}` : "";
  for (const button of all("[data-spread]"))
    button.setAttribute("aria-pressed", String(button.dataset.spread === views.spread));
}

on("values", tell);
on("panels", tell);
