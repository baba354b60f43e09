// @ts-check
// The list of layers and the lever board: choosing, reordering by dragging, renaming, hiding.
import { answers } from "../talk/answers.js";
import { focusOn } from "../talk/focus.js";
import { choice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { on } from "../talk/events.js";
import { setHands } from "../talk/hands.js";
import { sceneUrl } from "../talk/scene.js";
import { commitEdits, onEach } from "../talk/server.js";
import { chooseLayers, chooseParameter } from "../talk/choosing.js";
import { deleteAndSay, deleteBy } from "../talk/deleting.js";
import { intoLetters, repeatLayers } from "../board/gauges.js";
import { saveRecipe } from "../sheets/recipes.js";
import { pickFile } from "../talk/pictures.js";
import { menu, sheet } from "../talk/menus.js";
import { complainAt, say } from "../talk/notes.js";

const tell = anchor => error => complainAt(anchor, error.message);
const rows = () => [...document.querySelectorAll("[data-layer]")];

document.addEventListener("click", event => {
  const eye = event.target.closest?.("[data-toggle-layer]");
  if (eye) {
    commitEdits([
      { kind: "change layer", layer: eye.dataset.toggleLayer, hidden: eye.getAttribute("aria-pressed") !== "true" },
    ]).catch(tell(eye));
    return;
  }
  const dots = event.target.closest?.("[data-layer-menu]");
  if (dots) {
    layerMenu(dots, dots.dataset.layerMenu);
    return;
  }
  const row = event.target.closest?.("[data-choose-layer]");
  if (row && !event.target.closest("input")) choose(row.dataset.chooseLayer, event);
});

function choose(layer, event) {
  if (event.shiftKey && choice.layers.length) {
    const ids = rows().map(row => row.dataset.layer);
    const [a, b] = [ids.indexOf(choice.layers.at(-1)), ids.indexOf(layer)].sort((x, y) => x - y);
    const between = ids.slice(a, b + 1);
    chooseLayers([...choice.layers.filter(id => !between.includes(id)), ...between.filter(id => id !== layer), layer]);
  } else if (event.ctrlKey || event.metaKey) {
    chooseLayers(choice.layers.includes(layer) ? choice.layers.filter(id => id !== layer) : [...choice.layers, layer]);
  } else chooseLayers([layer]);
}

document.addEventListener("keydown", event => {
  const row = event.target.closest?.("[data-choose-layer]");
  if (!row || event.target !== row) return;
  const all = [...document.querySelectorAll("[data-choose-layer]")];
  const step = { ArrowUp: -1, ArrowDown: 1 }[event.key];
  if (step && !event.altKey) {
    event.preventDefault();
    all[all.indexOf(row) + step]?.focus();
  } else if (event.key === "Enter") choose(row.dataset.chooseLayer, event);
  else if (event.key === "F2") {
    event.preventDefault();
    rename(row.dataset.chooseLayer);
  }
});

document.addEventListener("dblclick", event => {
  const name = event.target.closest?.(".layer-name");
  if (name) rename(name.closest("[data-layer]").dataset.layer);
});

function rename(layer) {
  const row = document.querySelector(`[data-layer="${layer}"]`);
  const name = row.querySelector(".layer-name");
  const input = document.createElement("input");
  input.value = row.dataset.name;
  input.className = "rename";
  input.maxLength = 120;
  input.setAttribute("aria-label", "Name of the layer");
  name.replaceWith(input);
  input.focus();
  input.select();
  let ended = false,
    free;
  setHands({
    renaming: new Promise(done => {
      free = done;
    }),
  });
  const end = commit => {
    if (ended) return;
    ended = true;
    const typed = input.value;
    input.replaceWith(name);
    free();
    if (commit && typed.trim() !== row.dataset.name)
      commitEdits([{ kind: "change layer", layer, name: typed }]).catch(tell(row));
  };
  input.addEventListener("keydown", event => {
    event.stopPropagation();
    if (event.key === "Enter") end(true);
    else if (event.key === "Escape") end(false);
  });
  input.addEventListener("blur", () => end(true));
}

// Copies a little aside of what they are of, and chosen: whoever makes one moves it next.
export function duplicate(layers) {
  return commitEdits([{ kind: "duplicate layers", layers, aside: [24, 24] }]).then(told => {
    if (!told.made?.length) return null;
    return chooseLayers(told.made).then(() => focusOn(`[data-choose-layer="${CSS.escape(told.made.at(-1))}"]`));
  });
}

const KINDS_WITH_OUTLINE = new Set(["ellipse", "rectangle", "polygon", "star", "gear", "line", "path", "text"]);

// The shape gets a line or an edge of its own; the value that moves it is chosen, so that a motion can be given at
// once.
function givePart(layer, part, value, anchor) {
  chooseLayers([layer]);
  return commitEdits([{ kind: `set ${part}`, layer }])
    .then(() => chooseParameter(`${layer}.${part}.${value}`))
    .catch(tell(anchor));
}

const sortingOf = layer => document.querySelector(`[data-layer="${CSS.escape(layer)}"]`)?.dataset.sorting;

const viewedOf = layer => document.querySelector(`[data-layer="${CSS.escape(layer)}"]`)?.dataset.viewed;

function layerMenu(anchor, layer) {
  const chosen = choice.layers.includes(layer) ? choice.layers : [layer];
  const make = edits => commitEdits(edits).catch(tell(anchor));
  const kind = document.querySelector(`[data-layer="${CSS.escape(layer)}"]`)?.dataset.kind;
  menu(anchor, [
    { words: "Rename", run: () => rename(layer) },
    {
      words: chosen.length > 1 ? `Duplicate ${chosen.length} layers` : "Duplicate",
      run: () => duplicate(chosen).catch(tell(anchor)),
    },
    ...(document.querySelector(`[data-layer="${CSS.escape(layer)}"]`)?.dataset.kind === "picture"
      ? [{ words: "Another picture …", run: () => pickFile({ layer }) }]
      : []),
    ...(document.querySelector(`[data-layer="${CSS.escape(layer)}"]`)?.dataset.kind === "clip"
      ? [{ words: "Another clip …", run: () => pickFile({ layer, clip: true }) }]
      : []),
    ...(kind === "text"
      ? [
          ["letter", "letters"],
          ["word", "words"],
          ["line", "lines"],
        ].map(([by, words]) => ({ words: `Take apart into ${words}`, run: () => intoLetters(layer, by, anchor) }))
      : []),
    ...(KINDS_WITH_OUTLINE.has(kind)
      ? [
          ["line", "Draw its line in part, or in dashes", "end"],
          ["edge", "Move its edge point by point", "out"],
        ]
      : []
    )
      .filter(([part]) => !document.querySelector(`[data-take-part="${CSS.escape(layer)}"][data-part="${part}"]`))
      .map(([part, words, value]) => ({ words, run: () => givePart(layer, part, value, anchor) })),
    ...(["trace", "camera", "light"].includes(kind)
      ? []
      : [
          {
            words: kind === "array" ? "Let each copy leave a trace" : "Let it leave a trace",
            run: () => make([{ kind: "add layer", layer: "trace", position: [0, 0], traces: layer }]),
          },
        ]),
    ...(["camera", "light"].includes(kind) ? [] : [{ words: "Repeat it", run: () => repeatLayers(anchor) }]),
    ...(kind === "array"
      ? [
          {
            words: "Take apart: copies as they stand now",
            run: () => make([{ kind: "take apart", array: layer, way: "still", frame: Math.floor(clock.frame) }]),
          },
          { words: "Take apart: copies with their motion as keys …", run: () => sheet("take-apart", { array: layer }) },
        ]
      : []),
    ...(answers.last?.motion_blur
      ? [
          {
            words: document.querySelector(`[data-layer="${CSS.escape(layer)}"]`)?.dataset.sharp
              ? "Let its motion blur"
              : "Keep it sharp in motion",
            run: () =>
              make(
                chosen.map(one => ({
                  kind: "change layer",
                  layer: one,
                  blurs: Boolean(document.querySelector(`[data-layer="${CSS.escape(layer)}"]`)?.dataset.sharp),
                })),
              ),
          },
        ]
      : []),
    ...(sortingOf(layer)
      ? [
          {
            words: sortingOf(layer) === "sorted" ? "Draw what is in it in its order" : "Draw what is nearer in front",
            run: () => make([{ kind: "change layer", layer, by_depth: sortingOf(layer) !== "sorted" }]),
          },
        ]
      : []),
    ...(viewedOf(layer)
      ? [
          {
            words:
              viewedOf(layer) === "stays" ? "Let the camera see it" : "Keep it on the stage, whatever the camera does",
            run: () =>
              make(
                chosen
                  .filter(viewedOf)
                  .map(one => ({ kind: "change layer", layer: one, stays: viewedOf(layer) !== "stays" })),
              ),
          },
        ]
      : []),
    { words: "Higher", run: () => shift(layer, 1) },
    { words: "Lower", run: () => shift(layer, -1) },
    { words: "Out of its group", disabled: !groupOf(layer), run: () => out(layer) },
    {
      words: chosen.length > 1 ? `Save ${chosen.length} layers as a recipe …` : "Save as a recipe …",
      run: () =>
        saveRecipe(
          anchor,
          { layers: chosen },
          document.querySelector(`[data-layer="${CSS.escape(layer)}"]`)?.dataset.name ?? "Recipe",
        ),
    },
    { line: true },
    {
      words: chosen.length > 1 ? `Delete ${chosen.length} layers` : "Delete",
      danger: true,
      run: () => deleteAndSay([{ kind: "remove layers", layers: chosen }]).catch(tell(anchor)),
    },
  ]);
}

const depthOf = row => Number([...row.classList].find(name => name.startsWith("depth-")).slice(6));

// The group a row lies in: the nearest row above it that is less deep.
function groupOf(layer) {
  const all = rows();
  const at = all.findIndex(row => row.dataset.layer === layer);
  const depth = depthOf(all[at]);
  for (let k = at - 1; k >= 0; k--) if (depthOf(all[k]) < depth) return all[k].dataset.layer;
  return null;
}

// Layers of one group from the lowest up; the list shows the topmost first.
const siblings = parent =>
  rows()
    .filter(row => groupOf(row.dataset.layer) === parent)
    .map(row => row.dataset.layer)
    .reverse();

function shift(layer, by) {
  const parent = groupOf(layer);
  const at = siblings(parent).indexOf(layer);
  commitEdits([{ kind: "arrange layer", layer, parent, position: Math.max(0, at + by) }]).catch(error =>
    say(error.message, "bad"),
  );
}

function out(layer) {
  const group = groupOf(layer);
  const parent = groupOf(group);
  commitEdits([{ kind: "arrange layer", layer, parent, position: siblings(parent).indexOf(group) + 1 }]).catch(error =>
    say(error.message, "bad"),
  );
}

// Dragging rows, levers and stations.
let carried = null;

document.addEventListener("dragstart", event => {
  const row = event.target.closest?.("[data-choose-layer]");
  const lever = event.target.closest?.("[data-lever]");
  const station = event.target.closest?.(".station-head");
  if (lever && event.target !== lever) return;
  if (document.activeElement?.matches("input") && (lever ?? row)?.contains(document.activeElement)) {
    event.preventDefault();
    return;
  }
  carried = row
    ? { layer: row.dataset.chooseLayer }
    : lever
      ? { lever: lever.dataset.lever }
      : station
        ? { modifier: station.closest("[data-modifier]").dataset.modifier }
        : null;
  if (carried) event.dataTransfer.setData("text/plain", "");
});

const clearMarks = () =>
  document
    .querySelectorAll(".drop-before, .drop-after, .drop-into")
    .forEach(el => el.classList.remove("drop-before", "drop-after", "drop-into"));

function dropPlace(event) {
  if (carried?.layer) {
    const row = event.target.closest?.("[data-layer]");
    if (!row || row.dataset.layer === carried.layer) return null;
    const box = row.querySelector(".layer-row").getBoundingClientRect();
    const share = (event.clientY - box.top) / box.height;
    if (row.dataset.group && share > 0.3 && share < 0.75) return { element: row, mark: "drop-into" };
    return { element: row, mark: share < 0.5 ? "drop-before" : "drop-after" };
  }
  if (carried?.lever) {
    const lever = event.target.closest?.("[data-lever]");
    if (!lever || lever.dataset.lever === carried.lever) return null;
    const box = lever.getBoundingClientRect();
    return { element: lever, mark: event.clientY < box.top + box.height / 2 ? "drop-before" : "drop-after" };
  }
  if (carried?.modifier) {
    const station = event.target.closest?.(".station[data-modifier]");
    if (!station || station.dataset.modifier === carried.modifier) return null;
    const box = station.getBoundingClientRect();
    return { element: station, mark: event.clientX < box.left + box.width / 2 ? "drop-before" : "drop-after" };
  }
  return null;
}

document.addEventListener("dragover", event => {
  const place = dropPlace(event);
  clearMarks();
  if (!place) return;
  event.preventDefault();
  place.element.classList.add(place.mark);
});
document.addEventListener("dragend", () => {
  clearMarks();
  carried = null;
});
document.addEventListener("drop", event => {
  const place = dropPlace(event);
  clearMarks();
  if (!place) return;
  event.preventDefault();
  const { element, mark } = place;
  const edit = carried.layer
    ? layerDrop(element, mark)
    : carried.lever
      ? leverDrop(element, mark)
      : stationDrop(element, mark);
  carried = null;
  commitEdits([edit]).catch(tell(element));
});

function layerDrop(element, mark) {
  const target = element.dataset.layer;
  if (mark === "drop-into") return { kind: "arrange layer", layer: carried.layer, parent: target, position: 10_000 };
  const parent = groupOf(target);
  const order = siblings(parent).filter(id => id !== carried.layer);
  return {
    kind: "arrange layer",
    layer: carried.layer,
    parent,
    position: order.indexOf(target) + (mark === "drop-before" ? 1 : 0),
  };
}

function leverDrop(element, mark) {
  const order = [...document.querySelectorAll("[data-lever]")]
    .map(lever => lever.dataset.lever)
    .filter(id => id !== carried.lever);
  const group = element.closest("[data-group]").dataset.group;
  return {
    kind: "move lever",
    lever: carried.lever,
    group,
    position: order.indexOf(element.dataset.lever) + (mark === "drop-after" ? 1 : 0),
  };
}

function stationDrop(element, mark) {
  const order = [...document.querySelectorAll(".station[data-modifier]")]
    .map(one => one.dataset.modifier)
    .filter(id => id !== carried.modifier);
  return {
    kind: "move modifier",
    modifier: carried.modifier,
    position: order.indexOf(element.dataset.modifier) + (mark === "drop-after" ? 1 : 0),
  };
}

// Filters and mattes.
function filterMenu(anchor) {
  const place = anchor.closest("[data-layer-filter]");
  const filter = place.dataset.layerFilter,
    position = Number(place.dataset.position);
  const many = document.querySelectorAll("[data-layer-filter]").length;
  const make = edit => commitEdits([edit]).catch(tell(place));
  menu(anchor, [
    {
      words: "Earlier",
      disabled: position === 0,
      run: () => make({ kind: "move filter", filter, position: position - 1 }),
    },
    {
      words: "Later",
      disabled: position + 1 >= many,
      run: () => make({ kind: "move filter", filter, position: position + 1 }),
    },
    { line: true },
    { words: "Take off", danger: true, run: () => deleteBy([{ kind: "remove filter", filter }]).catch(tell(place)) },
  ]);
}

document.addEventListener("click", event => {
  const add = event.target.closest?.("[data-add-filter]"),
    dots = event.target.closest?.("[data-filter-menu]"),
    off = event.target.closest?.("[data-bypass-filter]");
  if (add)
    menu(
      add,
      JSON.parse(add.dataset.filters).map(([kind, words, help]) => ({
        words,
        help,
        run: () => commitEdits([{ kind: "add filter", layer: add.dataset.addFilter, filter: kind }]).catch(tell(add)),
      })),
    );
  if (dots) filterMenu(dots);
  if (off)
    commitEdits([
      {
        kind: "bypass filter",
        filter: off.closest("[data-layer-filter]").dataset.layerFilter,
        bypassed: off.getAttribute("aria-pressed") !== "true",
      },
    ]).catch(tell(off));
});
document.addEventListener("change", event => {
  const traces = event.target.closest?.("[data-traces]");
  if (traces)
    commitEdits([{ kind: "follow point", layer: traces.dataset.traces, follows: traces.value }]).catch(tell(traces));
  const matte = event.target.closest?.("[data-matte]");
  if (matte)
    commitEdits([
      { kind: "set matte", layer: matte.dataset.matte, matte: matte.value || null, frame: Math.floor(clock.frame) },
    ]).catch(tell(matte));
});

// Where a layer may show: asked for when that can be chosen, since in a large scene it is a long list.
let offered = { layer: "", mattes: [] };

async function offerMattes(select) {
  const layer = select.dataset.matte;
  const answer = await fetch(sceneUrl(`mattes?${new URLSearchParams({ layer })}`));
  if (!answer.ok) return;
  offered = { layer, mattes: (await answer.json()).mattes };
  putMattes(select);
}

function putMattes(select) {
  const chosen = select.value,
    known = new Set([...select.options].map(one => one.value));
  for (const [id, name] of offered.mattes) if (!known.has(id)) select.append(new Option(`where ${name} is`, id));
  select.value = chosen;
}

document.addEventListener("focusin", event => {
  const select = event.target.closest?.("[data-matte]");
  if (select) offerMattes(select);
});
document.addEventListener(
  "toggle",
  event => {
    const place = /** @type {HTMLDetailsElement} */ (event.target);
    const select = place.open && place.querySelector?.(":scope [data-matte]");
    if (select) offerMattes(select);
  },
  true,
);
on("panels", () => {
  const select = document.querySelector("details[data-compositing][open] [data-matte]");
  if (select) offered.layer === select.dataset.matte ? putMattes(select) : offerMattes(select);
});

// Fills, stops and path data.
document.addEventListener("change", event => {
  const fill = event.target.closest?.("[data-fill]");
  if (fill)
    commitEdits(
      onEach([{ kind: "set fill", layer: fill.dataset.fill, fill: fill.value, frame: Math.floor(clock.frame) }]),
    ).catch(tell(fill));
  const data = event.target.closest?.("[data-path-input]");
  if (data) {
    const place = data.closest("[data-path-data]");
    commitEdits([{ kind: "change layer", layer: place.dataset.pathData, data: data.value }]).catch(tell(place));
  }
});
document.addEventListener("click", event => {
  const add = event.target.closest?.("[data-add-stop]");
  const remove = event.target.closest?.("[data-remove-stop]");
  const part = event.target.closest?.("[data-take-part]");
  if (part)
    commitEdits([
      { kind: `set ${part.dataset.part}`, layer: part.dataset.takePart, on: false, frame: Math.floor(clock.frame) },
    ]).catch(tell(part));
  if (add)
    commitEdits([{ kind: "change stops", of: add.dataset.stopsOf, layer: add.dataset.addStop }]).catch(tell(add));
  if (remove)
    commitEdits([
      {
        kind: "change stops",
        of: remove.dataset.stopsOf,
        layer: remove.dataset.removeStop,
        remove: remove.dataset.stopId,
        frame: Math.floor(clock.frame),
      },
    ]).catch(tell(remove));
});

// Which layers' ways of being laid down have been folded out or in by hand: they stay so when the list comes anew.
const folded = new Map();
document.addEventListener(
  "toggle",
  event => {
    const place = /** @type {HTMLDetailsElement} */ (event.target);
    if (place.dataset?.compositing) folded.set(place.dataset.compositing, place.open);
  },
  true,
);
on("panels", () => {
  for (const place of document.querySelectorAll("details[data-compositing]")) {
    const open = folded.get(place.dataset.compositing);
    if (open !== undefined && !place.hasAttribute("data-used")) place.open = open;
  }
  for (const select of document.querySelectorAll("[data-fill], [data-matte], [data-traces]"))
    for (const option of select.options) option.selected = option.defaultSelected;
});

// A layer that is chosen on the stage, by a link or in the address comes into view in the list, its chosen value with
// it.
let revealed = null;
function reveal() {
  const chosen = choice.layers.at(-1) ?? null;
  const row = chosen === revealed ? null : rows().find(one => one.dataset.layer === chosen);
  revealed = chosen;
  if (!row) return;
  const head = row.querySelector(".layer-row"),
    list = document.getElementById("layers").parentElement.getBoundingClientRect();
  const { top, bottom } = head.getBoundingClientRect();
  if (top < list.top + 36 || bottom > list.bottom) head.scrollIntoView({ block: "start" });
  row.querySelector(".field.is-chosen")?.scrollIntoView({ block: "nearest" });
}
on("panels", reveal);
reveal();
