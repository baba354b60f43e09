// @ts-check
// The map of a value's copies, as large as the sheet of curves: time across, copies down in their order.
import { emit, on } from "../talk/events.js";
import { scene } from "../talk/scene.js";
import { channel } from "../lib/channels.js";
import { requestFrames } from "../talk/server.js";
import { bandsOf, mapped, partsOf, pictureOf, pointAt, told } from "./copies.js";
import { canvas, focused, frameAt, laneAt, layOut, maps, sheet, xOf } from "./lanes.js";
import { spoken } from "../lib/figures.js";

const ROOM = 10;

const outputOf = lane => (lane === focused() && mapped() ? channel(told().outputs.at(-1)) : null);

const boxOf = lane => ({ x: 0, y: lane.y - sheet.scrollTop + ROOM, width: 0, height: lane.height - 2 * ROOM });

function drawMap(context, lane) {
  const one = outputOf(lane),
    copies = told();
  const left = xOf(0),
    right = xOf(scene.length);
  context.imageSmoothingEnabled = false;
  for (const { c, y, height } of bandsOf(partsOf(one, lane.kind), boxOf(lane))) {
    context.drawImage(pictureOf(one, copies.numbers.length, lane.kind, c), left, y, right - left, height);
    const shown = copies.numbers.indexOf(copies.shown);
    if (shown >= 0) {
      context.strokeStyle = "#8F5F12";
      context.lineWidth = 1;
      context.strokeRect(
        left - 0.5,
        y + (shown / copies.numbers.length) * height - 0.5,
        right - left + 1,
        height / copies.numbers.length + 1,
      );
    }
  }
  context.imageSmoothingEnabled = true;
}

function under(event) {
  const lane = laneAt(event.offsetY),
    one = lane && outputOf(lane);
  if (!one || event.offsetX < xOf(0)) return null;
  const copies = told();
  const bands = bandsOf(partsOf(one, lane.kind), boxOf(lane));
  const band = bands.find(({ y, height }) => event.offsetY <= y + height + 1.5) ?? bands.at(-1);
  const frame = Math.min(Math.max(Math.floor(frameAt(event.offsetX)), 0), scene.length - 1);
  const place = Math.floor(
    Math.min(Math.max((event.offsetY - band.y) / band.height, 0), 0.99999) * copies.numbers.length,
  );
  const row = one.rows > 1 ? Math.min(Math.floor(frame / copies.step), one.rows - 1) : 0;
  const at = (row * one.each + (one.each > 1 ? place : 0)) * one.width;
  return { copy: copies.numbers[place], frame, values: one.data.subarray(at, at + one.width), unit: lane.unit };
}

function follow(event) {
  const found = under(event);
  canvas.title = found ? `${told().word} ${found.copy}, frame ${found.frame}: ${spoken(found.values, found.unit)}` : "";
  if (found && event.buttons === 1) pointAt(found);
}

canvas.addEventListener("pointermove", follow);
// Before keys are looked for: on a map a press points at a copy and a frame.
canvas.addEventListener(
  "pointerdown",
  event => {
    if (event.button !== 0 || !under(event)) return;
    event.stopImmediatePropagation();
    follow(event);
  },
  true,
);

maps.is = lane => Boolean(outputOf(lane));
maps.draw = drawMap;

const place = document.getElementById("spread");

function tell() {
  place.hidden = !(told()?.count > 1);
}

let was = false;
on("values", () => {
  tell();
  const lane = focused(),
    is = Boolean(lane && outputOf(lane));
  // As large as the sheet, or back among the others.
  if (is !== was) {
    layOut();
    sheet.scrollTop = is ? lane.y : 0;
    was = is;
  }
  emit("frame");
});
on("lane", () => {
  tell();
  requestFrames([]);
});
