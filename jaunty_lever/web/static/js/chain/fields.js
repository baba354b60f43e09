// @ts-check
// Number fields, colours, choices, switches and levers' sliders: set by typing, dragging or stepping.
import { answers } from "../talk/answers.js";
import { clock } from "../talk/clock.js";
import { on } from "../talk/events.js";
import { root, scene } from "../talk/scene.js";
import { play } from "../stage/time.js";
import { behind, commitEdits, curveAt, inHand, onEach, refresh, requestFrames, withScene } from "../talk/server.js";
import { choice } from "../talk/choice.js";
import { grip } from "../lib/dragging.js";
import { tellDriven } from "../talk/choosing.js";
import { clearComplaint, complainAt } from "../talk/notes.js";
import { entered } from "../lib/entered.js";
import { figure, typedNumber } from "../lib/figures.js";
import { all } from "../lib/places.js";

const frameNow = () => Math.floor(clock.frame);
const fieldOf = node => node.closest("[data-field]");
const inputs = field => [...field.querySelectorAll("input[data-component], input[type=text][data-input]")];

/** The frame of the key that a field has at a frame, if it has one there. */
export function keyAt(field, frame = frameNow()) {
  return (field.dataset.keyed ?? "")
    .split(" ")
    .filter(Boolean)
    .map(Number)
    .find(at => Math.abs(at - frame) < 0.5);
}

export function setEdit(parameter, rest) {
  return { kind: "set value", parameter, frame: frameNow(), ...rest };
}

// The numbers a field stands for at the playhead: from its keys, else what is written in it.
function numbersOf(field) {
  if (field.dataset.keyed !== undefined) {
    const values = [...curveAt(field.dataset.parameter, frameNow(), "source")];
    if (values.length) return values.map(v => Number(v.toPrecision(7)));
  }
  return inputs(field).map(input => typedNumber(input.value) || 0);
}

const decimals = step => Math.max(0, Math.min(6, Math.ceil(-Math.log10(step) - 1e-9)));

function tidy(value, step) {
  return Number(value.toFixed(decimals(step)));
}

// Dragging and stepping stay within the useful range; typing may go beyond it, and what is beyond already may stay.
function within(field, value, from) {
  const low = Number(field.dataset.low ?? -Infinity),
    high = Number(field.dataset.high ?? Infinity);
  return Math.min(Math.max(value, Math.min(low, from)), Math.max(high, from));
}

function write(field, values) {
  inputs(field).forEach((input, k) => {
    input.value = figure(values[k] ?? 0, 3).replace("−", "-");
  });
}

const valueOf = values => (values.length > 1 ? { value: values } : { value: values[0] });

// Chosen layers that differ in a value go on doing so while it is dragged or stepped: each moves by as much.
const differs = field => field.classList.contains("is-several");
const more = value => `${value < 0 ? "+-" : "+"}${figure(Math.abs(value), 3)}`;

function moved(field, values, from) {
  const parameter = field.dataset.parameter;
  if (choice.layers.length < 2) return [setEdit(parameter, valueOf(values))];
  return onEach([setEdit(parameter, { by: values.map((v, k) => Number((v - from[k]).toPrecision(9))) })]);
}

// While it is dragged: the number, or by how much it is more where there is no one number.
function writeMoved(field, values, from) {
  write(field, values);
  if (!differs(field)) return;
  inputs(field).forEach((input, k) => {
    if (input.placeholder) input.value = values[k] === from[k] ? "" : more(values[k] - from[k]);
  });
}

// Dragging a label sideways.
document.addEventListener("pointerdown", event => {
  const name = event.target.closest?.("[data-scrub]");
  const field = name && event.button === 0 ? fieldOf(name) : null;
  if (!field || !inputs(field).length || field.dataset.kind === "colour" || field.dataset.kind === "text") return;
  const from = numbersOf(field);
  const texts = inputs(field).map(input => input.value);
  const step = Number(field.dataset.step);
  let far = false,
    values = from,
    x = event.clientX,
    travelled = 0;
  const move = e => {
    travelled += (e.clientX - x) * (e.shiftKey ? 0.1 : e.altKey ? 10 : 1);
    x = e.clientX;
    if (!far && Math.abs(travelled) < 3) return;
    far = true;
    field.classList.add("is-dragged");
    const fine = e.shiftKey ? step / 10 : step;
    values = from.map(v => tidy(within(field, v + Math.round(travelled / 2) * step, v), fine));
    writeMoved(field, values, from);
    requestFrames(withScene(moved(field, values, from)));
  };
  const end = commit => {
    field.classList.remove("is-dragged");
    if (!far) return;
    name.dataset.dragged = "yes";
    setTimeout(() => delete name.dataset.dragged);
    if (commit) commitEdits(moved(field, values, from)).catch(error => complainAt(field, error.message));
    else {
      inputs(field).forEach((input, k) => {
        input.value = texts[k];
      });
      requestFrames([]);
    }
  };
  grip(name, event, { move, end });
});

// Typing. What stood in a field before is kept here: attributes do not survive a swap of the panels.
const before = new WeakMap();

document.addEventListener("focusin", event => {
  const input = event.target.closest?.("[data-field] [data-input]");
  if (!input || input.matches("select, button")) return;
  // What is typed lands at the playhead: it stands still meanwhile. A visitor's levers have no keys to land on.
  if (clock.playing && root.dataset.panels !== "") play(false);
  if (!before.has(input)) before.set(input, input.value);
  if (input.type === "text") input.select();
});

for (const news of ["beforeinput", "focusout", "pointerdown"])
  document.addEventListener(news, event => {
    entered.delete(event.target);
  });

// Whether somebody is typing in a field: what stands in it is not what stood there.
const typing = input => input === document.activeElement && before.has(input) && input.value !== before.get(input);

// With Enter, what stands in a keyed field already is keyed at a frame that has no key.
function keyAsItStands(field) {
  const { parameter, keyed } = field.dataset,
    frame = frameNow();
  if (keyed === undefined || keyAt(field, frame) !== undefined) return;
  // The panels leave a field alone that has the focus.
  field.dataset.keyed = `${keyed} ${frame}`;
  commitEdits(onEach([{ kind: "set key", parameter, frame }]))
    .then(clearComplaint)
    .catch(error => {
      field.dataset.keyed = keyed;
      complainAt(field, error.message);
    });
}

function commitTyped(input, entered = false) {
  const field = fieldOf(input);
  const old = before.get(input);
  before.delete(input);
  if (!field || old === undefined) return;
  if (input.value === old) {
    if (entered) keyAsItStands(field);
    return;
  }
  const component = input.dataset.component;
  const rest = { text: input.value };
  if (component !== undefined && component !== "") rest.component = Number(component);
  commitEdits(onEach([setEdit(field.dataset.parameter, rest)]))
    .then(clearComplaint)
    .catch(error => {
      // What was typed stays in the field to be mended; Escape brings back what was.
      before.set(input, old);
      complainAt(field, error.message);
    });
}

document.addEventListener("focusout", event => {
  const input = event.target.closest?.("[data-field] [data-input]");
  if (input && !input.matches("select, button") && !fieldOf(input).classList.contains("is-wrong")) commitTyped(input);
});

document.addEventListener("keydown", event => {
  const input = event.target.closest?.("[data-field] [data-input]");
  if (!input || input.matches("select, button")) return;
  const field = fieldOf(input);
  if (event.key === "Enter" && !(event.shiftKey && input.matches("textarea"))) {
    event.preventDefault();
    field.classList.remove("is-wrong");
    commitTyped(input, true);
    before.set(input, input.value);
    input.select?.();
    if (input.inputMode === "decimal") entered.add(input);
  } else if (event.key === "Escape") {
    event.stopPropagation();
    if (before.has(input)) input.value = before.get(input);
    before.delete(input);
    clearComplaint();
    requestFrames([]);
    input.blur();
  } else if (
    (event.key === "ArrowUp" || event.key === "ArrowDown") &&
    input.type === "text" &&
    field.dataset.kind !== "colour"
  ) {
    event.preventDefault();
    if (differs(field) && input.placeholder) return stepEach(field, input, event);
    const component = Number(input.dataset.component || 0);
    const values = numbersOf(field);
    const step =
      Number(field.dataset.step) * (event.shiftKey ? 0.1 : event.altKey ? 10 : 1) * (event.key === "ArrowUp" ? 1 : -1);
    const shown = Number(input.value.replace("−", "-"));
    values[component] = tidy(
      within(field, (Number.isFinite(shown) ? shown : values[component]) + step, values[component]),
      Math.abs(step),
    );
    input.value = figure(values[component], 3).replace("−", "-");
    requestFrames(withScene([setEdit(field.dataset.parameter, valueOf(values))]));
  }
});

// A step on a value in which chosen layers differ is one more on each; what is typed when the key is let go of.
function stepEach(field, input, event) {
  const way = (event.shiftKey ? 0.1 : event.altKey ? 10 : 1) * (event.key === "ArrowUp" ? 1 : -1);
  const had = /^\+(.+)$/.exec(input.value.replaceAll("−", "-"))?.[1];
  input.value = more(tidy((Number(had) || 0) + Number(field.dataset.step) * way, Number(field.dataset.step) * 0.1));
  const component = input.dataset.component;
  const rest = { text: input.value, ...(component ? { component: Number(component) } : {}) };
  requestFrames(withScene(onEach([setEdit(field.dataset.parameter, rest)])));
}

document.addEventListener("keyup", event => {
  const input = event.target.closest?.("[data-field] input[data-input]");
  if (!input || (event.key !== "ArrowUp" && event.key !== "ArrowDown")) return;
  commitTyped(input);
  before.set(input, input.value);
});

document.addEventListener("input", event => {
  const field = fieldOf(event.target);
  if (!field) return;
  field.classList.remove("is-wrong");
  clearComplaint();
  if (event.target.matches("[data-swatch]")) {
    field.querySelector("[data-input]").value = event.target.value;
    requestFrames(withScene(onEach([setEdit(field.dataset.parameter, { text: event.target.value })])));
  }
});

document.addEventListener("change", event => {
  const field = fieldOf(event.target);
  if (!field) return;
  const commit = rest =>
    commitEdits(onEach([setEdit(field.dataset.parameter, rest)])).catch(error => complainAt(field, error.message));
  if (event.target.matches("[data-swatch]")) commit({ text: event.target.value });
  else if (event.target.matches("select[data-input]")) commit({ value: event.target.value });
});

document.addEventListener("click", event => {
  const button = event.target.closest?.("[data-field] .switch");
  if (!button) return;
  const field = fieldOf(button);
  const value = button.getAttribute("aria-checked") !== "true";
  commitEdits(onEach([setEdit(field.dataset.parameter, { value })])).catch(error => complainAt(field, error.message));
});

// Levers' sliders.
function slideTo(slide, value, commit) {
  const edits = [setEdit(slide.dataset.slide, { value, by_hand: true })];
  const field = slide.closest("[data-lever], [data-gauge]").querySelector("[data-field]");
  write(field, [value]);
  knob(slide, value);
  if (!commit) {
    requestFrames(withScene(edits));
    return;
  }
  busy.set(slide, (busy.get(slide) ?? 0) + 1);
  commitEdits(edits)
    .catch(error => complainAt(slide, error.message))
    .finally(() => {
      busy.set(slide, busy.get(slide) - 1);
      follow();
    });
}

// One that follows something else says what, instead of being pulled.
function isLed(slide) {
  const driven =
    slide.dataset.led === undefined ? null : slide.closest("[data-lever], [data-gauge]").querySelector(".driven");
  if (driven) tellDriven(slide.getAttribute("aria-label"), driven);
  return Boolean(driven);
}

// Sliders whose last step is still on its way: what is heard meanwhile is older than what they show.
const busy = new WeakMap();

function knob(slide, value) {
  const low = Number(slide.dataset.low),
    high = Number(slide.dataset.high);
  const share = Math.min(Math.max((value - low) / (high - low), 0), 1);
  slide.style.setProperty("--at", share);
  slide.setAttribute("aria-valuenow", Number(value.toPrecision(6)));
}

const slideStep = slide => {
  const field = slide.closest("[data-lever], [data-gauge]").querySelector("[data-field]");
  return Number(field?.dataset.step) || (Number(slide.dataset.high) - Number(slide.dataset.low)) / 100;
};

document.addEventListener("pointerdown", event => {
  const slide = event.target.closest?.("[data-slide]");
  if (!slide || event.button !== 0) return;
  event.preventDefault();
  slide.focus();
  if (isLed(slide)) return;
  const box = slide.getBoundingClientRect();
  const low = Number(slide.dataset.low),
    high = Number(slide.dataset.high),
    step = slideStep(slide);
  let value = low;
  const move = e => {
    const share = Math.min(Math.max((e.clientX - box.left - 9) / (box.width - 18), 0), 1);
    value = tidy(Math.round((low + share * (high - low)) / step) * step, step);
    slideTo(slide, value, false);
  };
  const end = commit => {
    slide.classList.remove("is-held");
    if (commit) slideTo(slide, value, true);
    else {
      requestFrames([]);
      refresh();
    }
  };
  if (!grip(slide, event, { move, end })) return;
  slide.classList.add("is-held");
  move(event);
});

document.addEventListener("keydown", event => {
  const slide = event.target.closest?.("[data-slide]");
  const way = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[event.key];
  if (!slide || !way) return;
  event.preventDefault();
  event.stopPropagation();
  if (isLed(slide)) return;
  const step = slideStep(slide) * (event.shiftKey ? 10 : 1);
  const low = Number(slide.dataset.low),
    high = Number(slide.dataset.high);
  slideTo(
    slide,
    Math.min(Math.max(tidy(Number(slide.getAttribute("aria-valuenow")) + way * step, slideStep(slide)), low), high),
    true,
  );
});

const NO_NUMBERS = ["choice", "switch", "text", "colour"];
// What was in the hand when the fields were written last.
let heldBefore = new Set();

// Fields of what is dragged on the stage tell it in figures; what is let go of without being kept is as it was.
function tellHeld(frame) {
  const held = new Set(inHand());
  // While a scene only plays, there is nothing to look for.
  if (!held.size && !heldBefore.size) return;
  for (const field of all("[data-field]:not([data-keyed])")) {
    const { parameter, kind } = field.dataset;
    if (NO_NUMBERS.includes(kind) || (!held.has(parameter) && !heldBefore.has(parameter))) continue;
    if (field.contains(document.activeElement) || field.classList.contains("is-dragged")) continue;
    // A knob that is pulled writes its own.
    if (field.closest("[data-lever], [data-gauge]")?.querySelector(".slide.is-held")) continue;
    const values = held.has(parameter) ? curveAt(parameter, frame, "source") : [];
    if (values.length) write(field, [...values]);
    else if (!held.has(parameter)) for (const input of inputs(field)) input.value = input.defaultValue;
  }
  heldBefore = held;
}

// What keyed fields, pegs and knobs show at the playhead, and fields of what is dragged.
function follow() {
  const frame = frameNow();
  for (const field of all("[data-field][data-keyed]")) {
    const peg = field.querySelector("[data-peg]");
    if (peg) peg.classList.toggle("is-here", keyAt(field, frame) !== undefined);
    if (field.classList.contains("is-dragged") || NO_NUMBERS.includes(field.dataset.kind) || inputs(field).some(typing))
      continue;
    // Values of an earlier state say nothing of the keys as they are now.
    const fresh = answers.last?.revision === scene.revision || inHand().length;
    const values = fresh ? curveAt(field.dataset.parameter, frame, "source") : [];
    if (!values.length) continue;
    const stood = inputs(field).map(input => input.value);
    write(field, [...values]);
    inputs(field).forEach((input, k) => {
      if (input.value === stood[k] || !before.has(input)) return;
      before.set(input, input.value);
      if (input === document.activeElement) input.select();
    });
  }
  tellHeld(frame);
  for (const slide of all("[data-slide]")) {
    const values = curveAt(slide.dataset.slide, frame, slide.dataset.led === undefined ? "source" : "result");
    // In the hand it follows the hand, unless something stops it; answers to where the hand was before do not.
    const held =
      slide.classList.contains("is-held") &&
      (behind() || Math.abs(values[0] - Number(slide.getAttribute("aria-valuenow"))) < slideStep(slide) * 3);
    if (values.length && !held && !busy.get(slide)) knob(slide, values[0]);
  }
}

on("values", follow);
on("frame", follow);
on("panels", () => {
  // Swapped-in attributes do not reach a field that has been typed into: show what is stored.
  for (const input of document.querySelectorAll("[data-field] input")) {
    // A field in which somebody is typing keeps what is typed.
    if (typing(input)) continue;
    const field = fieldOf(input),
      keyed = field?.dataset.keyed !== undefined && !NO_NUMBERS.includes(field.dataset.kind);
    // What is stored of keys is the first; what holds at the playhead comes with the values: until then no number at
    // all, but what was typed.
    if (keyed && input !== document.activeElement) input.value = "…";
    if (keyed || input.value === input.defaultValue) continue;
    input.value = input.defaultValue;
    if (before.has(input)) before.set(input, input.value);
  }
  for (const option of document.querySelectorAll("[data-field] option")) option.selected = option.defaultSelected;
  for (const area of document.querySelectorAll("[data-field] textarea"))
    if (area !== document.activeElement) area.value = area.defaultValue;
  follow();
});
