// @ts-check
// Arrays and their gauges in the panels: arrangement, strips, dots, profiles, what follows a gauge, copies that come
// later.
import { fresh } from "../lib/fresh.js";
import { choice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { on } from "../talk/events.js";
import { scene, setScene } from "../talk/scene.js";
import { setViews, views } from "../talk/views.js";
import { commitEdits, curveOf, refresh, requestFrames } from "../talk/server.js";
import { chooseLayers, chooseParameter } from "../talk/choosing.js";
import { deleteBy } from "../talk/deleting.js";
import { closeSheet, menu, sheet } from "../talk/menus.js";
import { complainAt, say } from "../talk/notes.js";
import { boxOf, fitCanvas } from "../lib/canvases.js";
import { colours } from "../lib/charts.js";
import { seaOf } from "../lib/ramp.js";
import { all } from "../lib/places.js";
import { openSteering } from "./steering_sheet.js";

const tell = anchor => error => complainAt(anchor, error.message);
const frameNow = () => Math.floor(clock.frame);

// Strips: one bar a copy, at the playhead.
function drawStrip(canvas) {
  const one = curveOf(canvas.dataset.strip, "each");
  const context = one ? fitCanvas(canvas) : null;
  if (!context) return;
  const [width, height] = boxOf(canvas);
  context.clearRect(0, 0, width, height);
  const row = one.rows > 1 ? Math.min(frameNow(), one.rows - 1) : 0;
  const wide = width / one.each,
    most = Number(canvas.dataset.most ?? 1);
  for (let k = 0; k < one.each; k += 1) {
    const value = one.data[row * one.each + k];
    const share = Math.min(Math.max(value / most, 0), 1);
    context.fillStyle = colours.rule;
    context.fillRect(k * wide, height - 1, Math.max(wide - 1, 0.6), 1);
    context.fillStyle = value < 0 || value > most ? colours.brass : colours.sea;
    const tall = Math.max(share * (height - 2), value > 0 ? 1 : 0);
    context.fillRect(k * wide, height - 1 - tall, Math.max(wide - (wide > 3 ? 1 : 0.2), 0.6), tall);
  }
}

function drawStrips() {
  for (const canvas of all("[data-strip]")) drawStrip(canvas);
}
on("values", drawStrips);
on("frame", drawStrips);
on("panels", () => {
  pressDots();
  drawStrips();
});
addEventListener("resize", drawStrips);

function pressDots() {
  for (const button of document.querySelectorAll("[data-dots]"))
    button.setAttribute("aria-pressed", String(button.dataset.dots === views.dots));
}

document.addEventListener("click", event => {
  const target = event.target.closest?.(
    "[data-dots], [data-add-gauge], [data-new-gauge], [data-gauge-menu], [data-tie-gauge]",
  );
  if (!target) return;
  const { dataset } = target;
  if (dataset.dots) {
    setViews({ dots: views.dots === dataset.dots ? null : dataset.dots });
    pressDots();
    requestFrames([]);
  } else if (dataset.addGauge) sheet("add-gauge", { array: dataset.addGauge }).then(playSamples);
  else if (dataset.tieGauge) openSteering(dataset.tieGauge);
  else if (dataset.newGauge) newGauge(target);
  else gaugeMenu(target);
});

async function newGauge(target) {
  const id = fresh("gauge"),
    kind = target.dataset.newGauge;
  closeSheet();
  try {
    await commitEdits([{ kind: "add gauge", array: target.dataset.array, gauge: kind, id }]);
    await chooseParameter(`${id}.value`);
    if (kind === "zone") {
      setViews({ dots: `${id}.value` });
      pressDots();
      requestFrames([]);
    }
    openSteering(id);
  } catch (error) {
    say(error.message, "bad");
  }
}

function gaugeMenu(button) {
  const card = button.closest("[data-gauge]"),
    gauge = card.dataset.gauge;
  const make = edit => commitEdits([edit]).catch(tell(card));
  menu(button, [
    {
      field: "Name",
      value: card.dataset.name,
      button: "Rename",
      run: name => make({ kind: "change gauge", gauge, name }),
    },
    { words: "What follows it …", run: () => openSteering(gauge) },
    ...(card.dataset.kind === "zone"
      ? [
          {
            words: "Push the copies by it",
            run: () =>
              make({
                kind: "add modifier",
                parameter: `${document.querySelector("[data-gauges]").dataset.gauges}.copy_position`,
                modifier: "push",
                zone: gauge,
              }),
          },
        ]
      : []),
    ...(button.dataset.ordered
      ? [
          {
            words: button.dataset.ownOrder ? "Go by the array's order" : "Give it an order of its own",
            run: () => make({ kind: "change gauge", gauge, own_order: !button.dataset.ownOrder, frame: frameNow() }),
          },
        ]
      : []),
    { words: "Open its chain", run: () => chooseParameter(`${gauge}.value`) },
    { words: "About this gauge", run: () => open(`/help/gauges/${card.dataset.kind}`, "_blank", "noopener") },
    { line: true },
    {
      words: "Delete",
      danger: true,
      run: () =>
        deleteBy([{ kind: "remove gauge", gauge }])
          .then(told => {
            if (told && views.dots?.startsWith(`${gauge}.`)) setViews({ dots: null });
          })
          .catch(tell(card)),
    },
  ]);
}

// The samples of the sheet that adds gauges: copies as dots, moving.
function playSamples() {
  const samples = [...document.querySelectorAll("canvas.gauge-sample")].map(canvas => ({
    canvas,
    ...JSON.parse(canvas.dataset.sample),
  }));
  const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
  const draw = now => {
    if (!samples.some(({ canvas }) => canvas.isConnected)) return;
    for (const one of samples) drawSample(one, still ? 0.4 : (now / 2600) % 1);
    if (!still) requestAnimationFrame(draw);
  };
  requestAnimationFrame(draw);
}

function drawSample({ canvas, places, values }, share) {
  const context = fitCanvas(canvas);
  if (!context) return;
  const [width, height] = boxOf(canvas);
  context.clearRect(0, 0, width, height);
  const row = values[Math.min(Math.floor(share * values.length), values.length - 1)];
  const most = first => Math.max(0.02, ...places.filter((_, k) => k % 2 === first).map(Math.abs)) * 2;
  const scale = Math.min((width - 20) / most(0), (height - 16) / most(1)),
    size = Math.max(2, Math.min(6, 46 / Math.sqrt(row.length + 1)));
  row.forEach((value, k) => {
    context.beginPath();
    context.arc(width / 2 + places[2 * k] * scale, height / 2 + places[2 * k + 1] * scale, size, 0, 7);
    context.fillStyle = seaOf(value);
    context.fill();
    context.strokeStyle = colours.rule;
    context.lineWidth = 0.8;
    context.stroke();
  });
}

// The arrangement of an array, and the outline along which it stands.
document.addEventListener("change", event => {
  const { target } = event;
  const array = target.closest?.("[data-arrangement]");
  const lead = target.closest?.("[data-array-outline]");
  const data = target.closest?.("[data-array-path]");
  const later = target.closest?.("[data-later-each]");
  const column = target.closest?.("[data-gauge-column]");
  if (column) followColumn(column);
  const picture = target.closest?.("[data-gauge-picture]");
  if (picture) readPicture(picture);
  if (array)
    commitEdits([
      { kind: "set arrangement", array: array.dataset.arrangement, arrangement: array.value, frame: frameNow() },
    ]).catch(tell(array));
  if (lead)
    commitEdits([
      {
        kind: "set arrangement",
        array: lead.dataset.arrayOutline,
        [lead.dataset.rail ? "other_outline" : "outline"]: lead.value,
      },
    ]).catch(tell(lead));
  if (data)
    commitEdits([
      {
        kind: "set arrangement",
        array: data.closest("[data-array-data]").dataset.arrayData,
        [data.dataset.rail ? "other_data" : "data"]: data.value,
      },
    ]).catch(tell(data));
  const counts = target.closest?.("[data-count]");
  if (counts) countBy(counts);
  if (later) laterEach(later);
});

// What copies are counted along, from or by; or what is drawn that a zone has the shape of.
function countBy(input) {
  const { zone, counted: array, countedOf } = input.closest("[data-counted], [data-zone]").dataset,
    name = input.dataset.count;
  let value = input.value;
  if (name === "points") {
    const parts = value.split(/[,;\n]/).filter(part => part.trim());
    value = parts.map(part => part.replaceAll("%", "").trim().split(/\s+/).map(Number));
    if (value.some(point => point.length !== 2 || !point.every(Number.isFinite)))
      return complainAt(
        input,
        "A point is two numbers, across and down in percent; a comma stands between points: 100 0, 50 100.",
      );
  }
  const edit = zone ? { kind: "change gauge", gauge: zone } : { kind: "change order", array, gauge: countedOf || null };
  commitEdits([{ ...edit, [name]: value }]).catch(tell(input));
}

// A gauge reads a column of a table, or keeps what it has and follows none.
function followColumn(select) {
  const parameter = `${select.dataset.gaugeColumn}.value`,
    [table, of] = select.value.split("/");
  const before = [...select.options].find(option => option.defaultSelected)?.value.split("/")[0];
  if (!table && !before) return;
  commitEdits([
    table
      ? { kind: "follow column", table, column: of, parameter, takes: "column" }
      : { kind: "let go of column", table: before, parameter },
  ]).catch(tell(select));
}

// A gauge reads the brightness of a picture: one of the project's, or a file.
function readPicture(select) {
  const option = select.selectedOptions[0];
  const send = async form => {
    form.append("by", scene.tab);
    const response = await fetch(
      `/api/projects/${scene.project}/scenes/${scene.id}/gauges/${select.dataset.gaugePicture}/picture`,
      { method: "POST", body: form },
    );
    const told = await response.json();
    if (!response.ok) return complainAt(select, told.message);
    setScene({ revision: told.revision });
    return refresh();
  };
  const form = new FormData();
  if (option.dataset.file === undefined) {
    form.append("picture", option.value);
    if (option.value) send(form);
    return;
  }
  select.selectedIndex = 0;
  const input = Object.assign(document.createElement("input"), {
    type: "file",
    accept: "image/png,image/jpeg,image/webp",
  });
  input.addEventListener("change", () => {
    if (input.files.length) {
      form.append("file", input.files[0]);
      send(form);
    }
  });
  input.click();
}

function laterEach(input) {
  const text = input.value.trim().replace(",", ".").replace("−", "-");
  const found = /^(-?[\d.]+)\s*(f|s|ms)?$/.exec(text || "0");
  if (!found || !Number.isFinite(Number(found[1])))
    return complainAt(input, `“${text.slice(0, 20)}” is no time. Write 3f for 3 frames, or 0.1 for seconds.`);
  const seconds = Number(found[1]) * (found[2] === "f" ? 1 / scene.fps : found[2] === "ms" ? 0.001 : 1);
  return commitEdits([{ kind: "later each", parameter: input.dataset.laterEach, seconds }]).catch(tell(input));
}

// Making an array of what is chosen, and taking one apart again.
export function repeatLayers(anchor) {
  if (!choice.layers.length) return say("Choose the layers to repeat first.");
  const id = fresh("array");
  return commitEdits([{ kind: "repeat layers", layers: choice.layers, id, frame: frameNow() }])
    .then(() => chooseLayers([id]))
    .then(() => chooseParameter(`${id}.copy_position`))
    .catch(tell(anchor ?? document.getElementById("layers")));
}

// A text taken apart: its letters, words or lines become the copies of an array.
export function intoLetters(layer, by, anchor) {
  const id = fresh("array");
  return commitEdits([{ kind: "into letters", layer, by, id, frame: frameNow() }])
    .then(() => chooseLayers([id]))
    .then(() => chooseParameter(`${id}.copy_position`))
    .catch(tell(anchor));
}
