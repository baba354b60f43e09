// @ts-check
// Linking by pointing: what can drive a value lights up, one is clicked, and a sheet ties the two together.
import { emit, on } from "../talk/events.js";
import { hands, setHands } from "../talk/hands.js";
import { sceneUrl } from "../talk/scene.js";
import { requestFrames, withScene } from "../talk/server.js";
import { menu, sheet } from "../talk/menus.js";
import { chooseParameter } from "../talk/choosing.js";
import { focusOn } from "../talk/focus.js";
import { fresh } from "../lib/fresh.js";
import { say, wrongIn } from "../talk/notes.js";
import { keepForm, putBack } from "../talk/tried.js";
import { typedNumber } from "../lib/figures.js";

let drivers = [];
const strip = document.getElementById("pointing");

// Begin to point at a driver for a parameter; `also` are more followers that get the same link.
export async function point(parameter, also = []) {
  // At once, so that a quick click is already meant for it; what lights up follows.
  drivers = [];
  setHands({ pointing: { parameter, also, tops: new Set(), hover: null } });
  strip.querySelector("[data-pointing-for]").textContent = "it";
  strip.hidden = false;
  document.body.classList.add("is-pointing");
  emit("pointing");
  loading = load(parameter);
  await loading;
}

let loading = Promise.resolve();

export const pointingReady = () => loading;

async function load(parameter) {
  const response = await fetch(`${sceneUrl("drivers")}?${new URLSearchParams({ parameter })}`);
  const told = await response.json();
  if (hands.pointing?.parameter !== parameter) return;
  if (!response.ok || !told.drivers.length) {
    stopPointing();
    say(response.ok ? `Nothing here can drive ${told.label}. Make a lever first.` : told.message, "bad");
    return;
  }
  drivers = told.drivers;
  hands.pointing.tops = new Set(drivers.map(([, , , top]) => top));
  strip.querySelector("[data-pointing-for]").textContent = told.label;
  light();
  emit("pointing");
}

export function stopPointing() {
  if (!hands.pointing) return;
  setHands({ pointing: null });
  strip.hidden = true;
  document.body.classList.remove("is-pointing");
  light();
  emit("pointing");
}

// Marks everything on the page that can be clicked.
function light() {
  const ids = new Set(hands.pointing ? drivers.map(([id]) => id) : []);
  const tops = hands.pointing?.tops ?? new Set();
  for (const place of document.querySelectorAll("[data-layer], [data-lever], [data-gauge], [data-box]")) {
    place.classList.toggle(
      "can-drive",
      tops.has(place.dataset.layer ?? place.dataset.lever ?? place.dataset.gauge) || ids.has(place.dataset.box),
    );
  }
  for (const field of document.querySelectorAll("[data-field]"))
    field.classList.toggle("can-drive", ids.has(field.dataset.parameter));
}

export function openTie(parameter, driver, part, also = []) {
  stopPointing();
  const query = { parameter, driver, also };
  if (part !== null && part !== "" && part !== undefined) query.component = part;
  sheet("tie", query).then(() => {
    showWay();
    tryTie();
  });
}

const pick = ([driver, part]) => openTie(hands.pointing.parameter, driver, part, hands.pointing.also);

// The values of one layer or lever to choose from; a single one is taken at once.
export async function pickFrom(anchor, top, name, event = null) {
  await loading;
  if (!hands.pointing) return;
  const found = drivers.filter(entry => entry[3] === top);
  if (!found.length) return say(`${name} has nothing that could drive this.`);
  if (found.length === 1) return pick(found[0]);
  const field = hands.pointing.parameter.split(".").slice(1).join(".");
  const same = entry => Number(entry[0] !== `${top}.${field}`);
  menu(
    anchor,
    [
      { title: `${name} drives by its …` },
      ...[...found].sort((a, b) => same(a) - same(b)).map(entry => ({ words: entry[2], run: () => pick(entry) })),
    ],
    event,
  );
}

document.addEventListener(
  "click",
  async event => {
    if (!hands.pointing || event.target.closest?.("#menu, #sheet, #pointing, .stage, .linkage")) return;
    const field = event.target.closest?.("[data-field]");
    const layer = event.target.closest?.("[data-layer]");
    const lever = event.target.closest?.("[data-lever], [data-gauge]");
    event.preventDefault();
    event.stopPropagation();
    await loading;
    if (!hands.pointing) return;
    const own = field && drivers.filter(([id]) => id === field.dataset.parameter);
    if (own?.length === 1) return pick(own[0]);
    if (own?.length)
      return menu(
        field,
        own.map(entry => ({ words: entry[2], run: () => pick(entry) })),
      );
    const place = lever ?? layer;
    if (place) pickFrom(place, place.dataset.lever ?? place.dataset.gauge ?? place.dataset.layer, place.dataset.name);
  },
  true,
);

// Dragging a row or a slider would start while a click is meant.
document.addEventListener(
  "pointerdown",
  event => {
    if (hands.pointing && event.target.closest?.("[data-slide], [data-scrub], select, input")) {
      event.preventDefault();
      event.stopPropagation();
    }
  },
  true,
);

document.addEventListener(
  "keydown",
  event => {
    if (event.key === "Escape" && hands.pointing && !document.querySelector("#menu:popover-open")) {
      event.stopPropagation();
      stopPointing();
    }
  },
  true,
);

strip.addEventListener("click", event => {
  if (event.target.closest("[data-stop-pointing]")) stopPointing();
  if (event.target.closest("[data-point-list]")) {
    const { parameter, also } = hands.pointing;
    stopPointing();
    sheet("link", { parameter, also });
  }
});

on("panels", light);

document.addEventListener("click", event => {
  const chosen = event.target.closest?.("[data-tie-driver]");
  if (!chosen) return;
  openTie(
    chosen.dataset.follower,
    chosen.dataset.tieDriver,
    chosen.dataset.part,
    chosen.dataset.also.split(" ").filter(Boolean),
  );
});

// The sheet: which fields its way needs, the edit it stands for, and how that would look.
const formNow = () => document.querySelector("#sheet form[data-tie]");

function showWay() {
  const form = formNow();
  if (!form) return;
  const way = form.elements.way.value;
  for (const fields of form.querySelectorAll("[data-way]")) fields.hidden = fields.dataset.way !== way;
  const mesh = form.elements.mesh.value;
  form.querySelector("[data-rack]").hidden = mesh !== "rack";
  form.querySelector("[data-here]").hidden = mesh === "rack";
  askForTurns(form, mesh);
  const axis = form.querySelector("[data-axis]");
  if (axis) axis.hidden = way === "gears";
  form.querySelector("[data-reverse-line]").hidden =
    (way === "gears" && !["screw", "rack"].includes(mesh)) || way === "stops";
}

// A screw has starts, mostly one, and no teeth: what stands there is kept for when it is a wheel again.
function askForTurns(form, mesh) {
  const input = form.elements.driver_teeth,
    screw = mesh === "screw",
    was = input.dataset.of === "screw";
  if (screw !== was) {
    input.dataset[was ? "starts" : "teeth"] = input.value;
    input.value = screw ? (input.dataset.starts ?? "1") : input.dataset.teeth;
    input.dataset.of = screw ? "screw" : "wheel";
  }
  form.querySelector("[data-of-driver]").textContent = screw
    ? `start${input.value === "1" ? "" : "s"} of the screw,`
    : mesh === "rack"
      ? "on the driver"
      : "on the driver,";
  input.setAttribute("aria-label", screw ? "Starts of the screw" : "Teeth of the driver");
}

function count(form, name) {
  const text = form.elements[name].value,
    number = typedNumber(text);
  if (!Number.isFinite(number)) throw new Error(`“${text.slice(0, 20)}” is not a number.`);
  return number;
}

function tieEdit(form) {
  const way = form.elements.way.value;
  const value = name => form.elements[name].value;
  const edit = {
    kind: "link to",
    parameter: form.dataset.follower,
    driver: form.dataset.driver,
    way,
    position: 0,
    component: form.dataset.component === "" ? null : Number(form.dataset.component),
    reverse: form.elements.reverse.checked,
  };
  if (form.elements.axis?.value) edit.axis = Number(form.elements.axis.value);
  if (way === "ratio") edit.ratio = value("ratio");
  if (way === "remap")
    Object.assign(edit, {
      source: [value("from_low"), value("from_high")],
      target: [value("to_low"), value("to_high")],
      ends: value("ends"),
    });
  if (way === "how fast")
    Object.assign(edit, {
      source: [value("slow"), value("fast")],
      target: [value("at_slow"), value("at_fast")],
      ends: "stop",
      whole: form.elements.whole?.value === "whole",
    });
  if (way === "gears") {
    edit.mesh = value("mesh");
    for (const name of ["driver_teeth", "driven_teeth", "module"]) edit[name] = count(form, name);
  }
  if (way === "stops") edit.values = [...form.querySelectorAll("[name=stop]")].map(one => one.value);
  if (way === "between")
    Object.assign(edit, { source: [value("amount_low"), value("amount_high")], target: [value("a"), value("b")] });
  if (way === "steer") {
    const led = { source: [value("led_low"), value("led_high")], steers: value("steers"), goal: value("goal") };
    // Behind what is there: only the others go first.
    Object.assign(edit, led, { position: null });
  }
  if (form.elements.others?.checked) {
    edit.also = form.dataset.others.split(" ");
    for (const name of ["plus_each", "later_each"]) edit[name] = count(form, name);
  }
  return edit;
}

function tryTie() {
  const form = formNow();
  if (!form || form.querySelector(".primary").disabled) return;
  try {
    const edit = tieEdit(form);
    wrongIn(form);
    requestFrames(withScene([edit]));
  } catch (error) {
    wrongIn(form, error.message);
  }
}

document.addEventListener("input", event => {
  const form = event.target.closest?.("form[data-tie]");
  if (!form) return;
  // A factor is no value of its own kind: what stands there changes with the way, unless it has been typed.
  const goal = form.elements.goal;
  if (event.target === goal) delete goal.dataset.goal;
  if (event.target.matches("[name=steers]") && goal.dataset.goal !== undefined)
    goal.value = form.elements.steers.value === "times" ? "2" : goal.dataset.goal;
  showWay();
  tryTie();
});

keepForm(
  "form[data-tie]",
  form => ({ ...tieEdit(form), id: fresh("m") }),
  ({ parameter, id }) => chooseParameter(parameter).then(() => focusOn(`#station-${id} h3`)),
);
putBack("tie");
