// @ts-check
// What stations tell about themselves: figures worth knowing, why one does nothing, and mends with one press.
import { answers } from "../talk/answers.js";
import { choice } from "../talk/choice.js";
import { on } from "../talk/events.js";
import { commitEdits } from "../talk/server.js";
import { chooseParameter } from "../talk/choosing.js";
import { complainAt } from "../talk/notes.js";
import { all, first } from "../lib/places.js";

function noteOf(note) {
  const line = document.createElement("p");
  line.className = note.warn ? "station-note is-warning" : "station-note";
  line.textContent = note.text;
  for (const [label, edits] of note.mends) {
    const button = document.createElement("button");
    button.type = "button";
    button.className = "link";
    button.textContent = label;
    button.addEventListener("click", () => commitEdits(edits, label).catch(error => complainAt(line, error.message)));
    line.append(" ", button);
  }
  if (note.at) {
    const button = document.createElement("button");
    button.type = "button";
    button.className = "link";
    button.textContent = "Go there";
    button.addEventListener("click", () => chooseParameter(note.at));
    line.append(" ", button);
  }
  return line;
}

const shown = new WeakMap();

function tell() {
  const chosen = answers.last?.chosen;
  const here = chosen?.parameter === choice.parameter;
  for (const place of all("[data-notes]")) {
    const own = here ? [...(chosen.notes[Number(place.dataset.notes)] ?? [])] : [];
    const station = place.closest("[data-modifier]").dataset.modifier;
    const faults = (answers.last?.faults ?? []).filter(fault => fault.modifier === station);
    for (const fault of faults) {
      own.unshift({
        text: fault.text
          ? fault.message
          : `${fault.message}, first at frame ${fault.frame}. It passes on what comes in there.`,
        warn: true,
        mends: [],
      });
    }
    // What is at fault elsewhere and comes in here is named with its origin.
    for (const fault of (answers.last?.faults ?? []).filter(one => here && one.through?.includes(station))) {
      own.unshift({
        text: [
          `${fault.label}: ${fault.message}${fault.text ? "" : `, first at frame ${fault.frame}`}.`,
          "That step is passed over there, and what is left comes in here.",
        ].join(" "),
        warn: true,
        mends: [],
        at: fault.parameter,
      });
    }
    const words = JSON.stringify(own);
    if (shown.get(place) === words && place.childElementCount === own.length) continue;
    shown.set(place, words);
    place.replaceChildren(...own.map(noteOf));
  }
}

// How much of the time the result lies beyond what can be drawn of it.
function beyond() {
  const place = first("[data-beyond]");
  if (!place) return;
  const chosen = answers.last?.chosen;
  const note = chosen?.parameter === choice.parameter ? chosen.beyond : null;
  const words = JSON.stringify(note);
  if (shown.get(place) === words && place.childElementCount === (note ? 1 : 0)) return;
  shown.set(place, words);
  place.replaceChildren(...(note ? [noteOf(note)] : []));
}

// What the program has noticed about the chosen value, where there is room for it at the end of the chain.
function about() {
  const place = first("[data-about-notes]");
  if (!place) return;
  // In full here where the head of the chain has no room for all of it.
  const sentence = first(".chain-head .sentence");
  first(".about-sentence").hidden = !sentence || sentence.scrollWidth <= sentence.clientWidth;
  const own = (answers.last?.faults ?? [])
    .filter(fault => fault.parameter === choice.parameter)
    .map(fault => ({
      text: fault.text ? fault.message : `${fault.message}, first at frame ${fault.frame}.`,
      warn: true,
      mends: [],
    }));
  const notes =
    answers.last?.chosen?.parameter === choice.parameter
      ? answers.last.chosen.notes.flat().filter(note => !note.warn)
      : [];
  const words = JSON.stringify([own, notes.map(note => note.text)]);
  if (shown.get(place) === words && place.childElementCount) return;
  shown.set(place, words);
  const heading = document.createElement("h3");
  heading.textContent = "Worth knowing";
  const lines = [...own, ...notes.slice(0, 6)].map(noteOf);
  place.replaceChildren(...(lines.length ? [heading, ...lines] : []));
}

on("values", tell);
on("panels", tell);
on("values", beyond);
on("panels", beyond);
on("values", about);
on("panels", about);
addEventListener("resize", about);

// A wheel turned over the stations runs along the chain, unless it is over settings that scroll themselves.
document.addEventListener(
  "wheel",
  event => {
    const list = event.target.closest?.(".stations");
    if (!list || list.scrollWidth <= list.clientWidth || Math.abs(event.deltaX) > Math.abs(event.deltaY)) return;
    const inner = event.target.closest(".station-settings");
    if (inner && inner.scrollHeight > inner.clientHeight) return;
    event.preventDefault();
    list.scrollLeft += event.deltaY;
  },
  { passive: false },
);
