// @ts-check
// The Bench: everything put together, and what buttons and keys do.
import { fresh } from "../lib/fresh.js";
import { answers } from "../talk/answers.js";
import { focusOn } from "../talk/focus.js";
import { setViews, views } from "../talk/views.js";
import { remember } from "../talk/address.js";
import { choice, setChoice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { on } from "../talk/events.js";
import { hands, setHands } from "../talk/hands.js";
import { root, scene, sceneUrl } from "../talk/scene.js";
import { commitEdits, complaint, curveAt, listen, onEach, refresh, requestFrames, step } from "../talk/server.js";
import { chooseLayers, chooseParameter } from "../talk/choosing.js";
import { closeSheet, menu, sheet } from "../talk/menus.js";
import { complainAt, say, wrongIn } from "../talk/notes.js";
import { drawCurves, keyAtOrBefore, keyMenu } from "../chain/curves.js";
import { drawRuler, play, setFrame, startTime } from "../stage/time.js";
import "../board/curve_sheet.js";
import { beginSteps, resumeSteps } from "../sheets/ten_steps.js";
import { GOES_ROUND, openSwinging } from "../chain/swinging.js";
import { drawWindows, typeWindows, windowsEdit } from "../chain/windows.js";
import { copyOnPage, draw, fit, handlesOnPage, nudge, rimOnPage, scenePixels } from "../stage/stage.js";
import { keyAt, setEdit } from "../chain/fields.js";
import { wireKeys } from "./keyboard.js";
import { openFormula } from "../chain/formula.js";
import { makeLoop, openChecks } from "../sheets/checks.js";
import { openColumns } from "../sheets/columns.js";
import { openRecipes, saveRecipe } from "../sheets/recipes.js";
import { pickFile } from "../talk/pictures.js";
import { fold } from "../stage/plan.js";
import "../lists/clip_strip.js";
import "../sheets/kept.js";
import { point } from "../stage/pointing.js";
import { deleteAndSay, deleteBy } from "../talk/deleting.js";
import { repeatLayers } from "../board/gauges.js";
import "../board/profiles.js";
import { duplicate } from "../lists/lists.js";
import { alignMenu } from "../stage/aligning.js";
import "../board/snapshots.js";
import "./links.js";
import "../chain/stations.js";
import { fill } from "./room.js";
import "../sheets/forms.js";

const frameNow = () => Math.floor(clock.frame);
const chain = () => document.getElementById("chain");
const tell = anchor => error => complainAt(anchor, error.message);

const LAYERS = [
  ["ellipse", "Ellipse"],
  ["rectangle", "Rectangle"],
  ["polygon", "Polygon"],
  ["star", "Star"],
  ["gear", "Gear"],
  ["line", "Line"],
  ["texture", "Texture"],
  ["path", "Path"],
  ["text", "Text"],
  ["group", "Group"],
  ["trace", "Trace"],
];
const IN_DEPTH = [
  ["block", "Block"],
  ["ball", "Ball"],
  ["camera", "Camera"],
  ["light", "Light"],
];
// What stands in no group when it is made, and leaves no trace.
const ALONE = new Set(["camera", "light", "trace"]);
const LEVERS = [
  ["number", "Number"],
  ["angle", "Angle"],
  ["percentage", "Percentage"],
  ["switch", "Switch"],
  ["choice", "Choice"],
  ["colour", "Colour"],
];

function toggle(name) {
  setViews({ [name]: !views[name] });
  document.querySelector(`[data-do=${name}]`).setAttribute("aria-pressed", views[name]);
  remember();
  requestFrames([]);
}

export const actions = {
  undo: () => step("undo").catch(error => say(error.message, "bad")),
  redo: () => step("redo").catch(error => say(error.message, "bad")),
  play: () => play(),
  "ten-steps": () => beginSteps(),
  home: () => setFrame(0),
  end: () => setFrame(scene.length - 1),
  fit,
  ghost: () => toggle("ghost"),
  path: () => toggle("path"),
  plan: fold,
  fill,
  keys: () => sheet("keys"),
  "swing-out": () => {
    const stations = [...document.querySelectorAll("#chain .station[data-modifier]")];
    const one = stations.find(station => GOES_ROUND.includes(station.dataset.kind));
    if (one) openSwinging(one.dataset.modifier);
    else say("Open the chain of a value of copies that has a Wave, a Figure or a Rate: its copies can swing apart.");
  },
  find: () => sheet("find", choice.parameter ? { parameter: choice.parameter } : {}),
  export: () => /** @type {HTMLElement} */ (document.querySelector("[data-page=export]")).click(),
  "scene-settings": () => sheet("scene"),
  scenes: anchor =>
    menu(anchor, [
      ...JSON.parse(document.getElementById("scene-list").textContent).map(([id, name]) => ({
        words: name,
        ticked: id === scene.id,
        run: () => {
          location.href = `/projects/${scene.project}/scenes/${id}/bench`;
        },
      })),
      { line: true },
      { words: "About this project …", run: () => sheet("project") },
      { words: "New scene …", run: () => sheet("new-scene") },
    ]),
  "add-layer": anchor =>
    menu(anchor ?? document.querySelector("[data-do=add-layer]"), [
      ...LAYERS.map(([layer, words]) => ({ words, run: () => addLayer(layer) })),
      { line: true },
      ...IN_DEPTH.map(([layer, words]) => ({ words, run: () => addLayer(layer) })),
      { line: true },
      { words: "A file: picture, clip, SVG, Lottie, font …", run: () => pickFile() },
    ]),
  "group-layers": anchor => {
    if (!choice.layers.length) return say("Choose the layers to group first.");
    const id = fresh("layer");
    commitEdits([{ kind: "group layers", layers: choice.layers, id }])
      .then(() => chooseLayers([id]))
      .catch(tell(anchor));
  },
  "repeat-layers": anchor => repeatLayers(anchor),
  "duplicate-layers": () => {
    if (choice.layers.length) duplicate(choice.layers).catch(error => say(error.message, "bad"));
    else say("Choose the layers to duplicate first.");
  },
  align: anchor => alignMenu(anchor ?? document.querySelector("[data-do=align]")),
  "delete-layers": () => {
    if (!choice.layers.length) return;
    const layers = choice.layers;
    deleteAndSay([{ kind: "remove layers", layers }])
      .then(told => {
        if (told) setChoice({ layers: choice.layers.filter(layer => !layers.includes(layer)) });
      })
      .catch(error => say(error.message, "bad"));
  },
  "add-lever": anchor =>
    menu(
      anchor ?? document.querySelector("[data-do=add-lever]"),
      LEVERS.map(([lever, words]) => ({
        words,
        run: () => {
          const id = fresh("lever");
          commitEdits([{ kind: "add lever", lever, id, name: words }])
            .then(() => sheet("lever", { lever: id }))
            .catch(tell(anchor));
        },
      })),
    ),
  "add-modifier": () => {
    if (choice.parameter) sheet("add-modifier", { parameter: choice.parameter });
    else say("Choose a layer and the name of one of its values first.");
  },
  "bypass-chain": () => {
    const button = document.querySelector("[data-do=bypass-chain]");
    if (!button) return say("There is no chain here to switch off.");
    commitEdits(
      onEach([
        { kind: "bypass", parameter: choice.parameter, bypassed: button.getAttribute("aria-pressed") !== "true" },
      ]),
    ).catch(tell(chain()));
  },
  "copy-chain": () => sheet("copy-chain", { parameter: choice.parameter, layer: choice.layers }),
  bake: () => {
    if (document.querySelector("#chain .station[data-modifier]")) sheet("bake", { parameter: choice.parameter });
    else say("There is no chain here to bake.");
  },
  key: () => {
    if (!choice.parameter) return say("Choose a value first.");
    commitEdits(onEach([{ kind: "set key", parameter: choice.parameter, frame: frameNow() }])).catch(tell(chain()));
  },
  "key-menu": anchor => {
    const key = keyAtOrBefore(frameNow());
    if (key) keyMenu(anchor, key[0], key[1]);
  },
  link: () => {
    if (choice.parameter) linkFrom(choice.parameter);
    else say("Choose a value first.");
  },
  faults: openChecks,
  recipes: openRecipes,
  fonts: () => sheet("fonts", { layer: choice.layers.at(-1) ?? "" }),
  "save-chain": anchor =>
    saveRecipe(
      anchor ?? chain(),
      { parameter: choice.parameter },
      document.querySelector(".crumbs [aria-current]")?.textContent ?? "Recipe",
    ),
  "save-layers": anchor => {
    if (!choice.layers.length) return say("Choose the layers to save first.");
    saveRecipe(
      anchor ?? document.getElementById("layers"),
      { layers: choice.layers },
      document.querySelector(`[data-layer="${CSS.escape(choice.layers.at(-1))}"]`)?.dataset.name ?? "Recipe",
    );
  },
};

const leavesNone = layer =>
  ALONE.has(document.querySelector(`[data-layer="${CSS.escape(layer ?? "")}"]`)?.dataset.kind);

function addLayer(layer) {
  const id = fresh("layer");
  const parent = document.querySelector(`[data-layer="${choice.layers.at(-1)}"]`)?.dataset.group
    ? choice.layers.at(-1)
    : null;
  // A trace is that of what is chosen; its list of layers tells where nothing is.
  const chosen = choice.layers.at(-1),
    traced = layer === "trace" && chosen && !leavesNone(chosen) ? { traces: chosen } : {};
  const where = layer === "trace" ? { position: [0, 0] } : {};
  commitEdits([{ kind: "add layer", layer, id, parent: ALONE.has(layer) ? null : parent, ...where, ...traced }])
    .then(() => chooseLayers([id]))
    .then(() => focusOn(`[data-choose-layer="${id}"]`))
    .catch(error => say(error.message, "bad"));
}

// Point at a driver: for a value of a chosen layer, the same value of the other chosen layers goes along.
function linkFrom(parameter) {
  const [owner, ...rest] = parameter.split(".");
  const also = choice.layers.includes(owner)
    ? choice.layers.filter(layer => layer !== owner).map(layer => [layer, ...rest].join("."))
    : [];
  point(parameter, also);
}

// The menu behind the three dots of a field.
function fieldMenu(button) {
  const field = button.closest("[data-field]");
  const parameter = field.dataset.parameter;
  const lever = field.closest("[data-lever]");
  const driven = field.querySelector(".driven:not(.part)");
  const frames = (field.dataset.keyed ?? "").split(" ").filter(Boolean).map(Number);
  const here = keyAt(field);
  const make = edits => commitEdits(edits).catch(tell(field));
  const each = edits => make(onEach(edits));
  /** @type {import("#types").MenuLine[]} */
  const entries = [{ title: field.dataset.label }];
  if (!lever && !driven && field.dataset.kind !== "text") {
    entries.push({
      field: "Make it a lever named",
      value: field.dataset.label,
      button: "Make",
      run: name => {
        const id = fresh("lever");
        make([{ kind: "make lever", parameter, name, id }]).then(() => focusOn(`[data-lever="${id}"] .lever-name`));
      },
    });
  }
  if (driven) {
    if (driven.dataset.formula === undefined)
      entries.push({ words: "Link it otherwise …", run: () => linkFrom(parameter) });
    const written = driven.dataset.formula !== undefined;
    entries.push({
      words: written ? "Take the formula off, stay where it is" : "Cut the link, stay where it is",
      run: () => each([{ kind: "unlink", modifier: driven.dataset.cut, frame: frameNow() }]),
    });
  } else {
    const text = field.dataset.kind === "text";
    entries.push({
      words: text ? "Show a lever or a value as a number …" : "Link: point at what drives it …",
      run: () => linkFrom(parameter),
    });
    if (field.dataset.kind !== "choice" && !driven)
      entries.push({ words: "Write a formula …  (or type =)", run: () => openFormula(parameter) });
  }
  // Components that are driven by themselves are cut free by themselves.
  for (const part of field.querySelectorAll(".driven.part"))
    entries.push({
      words: `Cut ${part.dataset.axis} free of ${part.textContent}, stay where it is`,
      run: () => each([{ kind: "unlink", modifier: part.dataset.cut, frame: frameNow() }]),
    });
  if (!driven && !lever) entries.push({ words: "Follow a column of a table …", run: () => openColumns(parameter) });
  if (field.dataset.kind === "colour" && !driven)
    entries.push({ words: "Take it from a palette …", run: () => sheet("colours", { parameter }) });
  if (field.dataset.chained !== undefined)
    entries.push({ words: "Bake: write the result as keys …", run: () => sheet("bake", { parameter }) });
  const moves = frames.length > 1 || driven || field.dataset.chained !== undefined;
  if (moves && !["text", "choice"].includes(field.dataset.kind))
    entries.push({ words: "Make this loop …", run: () => makeLoop(parameter) });
  entries.push({ line: true });
  entries.push(
    here === undefined
      ? { words: `Key it at frame ${frameNow()}`, run: () => each([{ kind: "set key", parameter, frame: frameNow() }]) }
      : { words: `Remove the key at frame ${here}`, run: () => each([{ kind: "remove key", parameter, frame: here }]) },
  );
  if (frames.length)
    entries.push({ words: "Remove all keys", run: () => each([{ kind: "clear keys", parameter, frame: frameNow() }]) });
  entries.push({ line: true });
  const input = field.querySelector("[data-input]");
  if (input && "value" in input && input.tagName !== "BUTTON") {
    entries.push({
      words: `Copy ${input.value}`,
      run: () => {
        setHands({ copied: { ...hands.copied, value: input.value } });
        navigator.clipboard?.writeText(input.value).catch(() => {});
      },
    });
    if (hands.copied?.value !== undefined)
      entries.push({
        words: `Paste ${hands.copied.value}`,
        run: () => each([setEdit(parameter, { text: hands.copied.value })]),
      });
  }
  entries.push({ words: "Reset", run: () => each([{ kind: "reset value", parameter }]) });
  entries.push({ words: "Open its chain", run: () => chooseParameter(parameter) });
  entries.push({ words: `About ${field.dataset.label}`, run: () => help(field) });
  menu(button, entries);
}

// The paragraph about the value that has the focus, or all of the help.
function help(field = null) {
  open(field?.dataset.about || "/help", "_blank", "noopener");
}

function modifierMenu(button) {
  const station = button.closest("[data-modifier]");
  const modifier = station.dataset.modifier;
  const position = Number(station.dataset.position);
  const make = edit => commitEdits(onEach([edit])).catch(tell(station));
  menu(button, [
    { title: station.querySelector("h3").textContent },
    {
      words: "Move left",
      disabled: position === 0,
      run: () => make({ kind: "move modifier", modifier, position: position - 1 }),
    },
    { words: "Move right", run: () => make({ kind: "move modifier", modifier, position: position + 1 }) },
    { words: "Duplicate, with a seed of its own", run: () => make({ kind: "copy modifier", modifier }) },
    {
      words: "Active only here: a window around the playhead",
      run: () => {
        const start = Math.max(0, frameNow() - 15);
        const windows = [...JSON.parse(station.dataset.windows), [start, Math.min(scene.length - 1, start + 30), 0, 0]];
        commitEdits(windowsEdit(modifier, windows)).catch(tell(station));
      },
    },
    { words: "When it acts, in figures …", run: () => typeWindows(modifier) },
    ...(GOES_ROUND.includes(station.dataset.kind) && document.querySelector("#chain .copy-shown")
      ? [{ words: "Swing out of step, from copy to copy …", run: () => openSwinging(modifier) }]
      : []),
    { line: true },
    ...(station.querySelector(".driven")
      ? [{ words: "Cut the link, stay where it is", run: () => make({ kind: "unlink", modifier, frame: frameNow() }) }]
      : []),
    {
      words: "About this modifier",
      run: () => open(`/help/modifiers/${station.dataset.kind.replace(" ", "-")}`, "_blank", "noopener"),
    },
    {
      words: "Remove",
      danger: true,
      run: () => deleteBy([{ kind: "remove modifier", modifier }], true).catch(tell(station)),
    },
  ]);
}

document.addEventListener("click", event => {
  const target = event.target.closest?.(
    "[data-do], [data-choose], [data-menu], [data-bypass], [data-modifier-menu], " +
      "[data-peg], [data-add], [data-link], [data-drives], [data-lever-sheet]",
  );
  if (!target) return;
  const { dataset } = target;
  if (dataset.dragged) return;
  if (dataset.do) {
    if (target.closest("#sheet")) closeSheet();
    actions[dataset.do]?.(target);
  } else if (dataset.menu !== undefined) fieldMenu(target);
  else if (dataset.modifierMenu) modifierMenu(target);
  else if (dataset.bypass)
    commitEdits(
      onEach([{ kind: "bypass", modifier: dataset.bypass, bypassed: target.getAttribute("aria-checked") === "true" }]),
    ).catch(tell(target));
  else if (dataset.peg !== undefined) {
    const field = target.closest("[data-field]");
    const here = keyAt(field);
    commitEdits(
      onEach([
        here === undefined
          ? { kind: "set key", parameter: field.dataset.parameter, frame: frameNow() }
          : { kind: "remove key", parameter: field.dataset.parameter, frame: here },
      ]),
    ).catch(tell(field));
  } else if (dataset.add) {
    closeSheet();
    const id = fresh("m");
    commitEdits(onEach([{ kind: "add modifier", parameter: dataset.parameter, modifier: dataset.add, id }]))
      .then(() => focusOn(`#station-${CSS.escape(id)} h3`))
      .catch(tell(chain()));
  } else if (dataset.link) {
    closeSheet();
    linkFrom(dataset.link);
  } else if (dataset.drives) {
    showDriven(target, dataset.drives).catch(tell(target));
  } else if (dataset.leverSheet) sheet("lever", { lever: dataset.leverSheet });
  else if (dataset.choose) {
    if (target.closest("#sheet")) closeSheet();
    if (document.querySelector(`[data-layer="${CSS.escape(dataset.choose)}"]`)) chooseLayers([dataset.choose]);
    else chooseParameter(dataset.choose);
  }
});

const KEYS = {
  " ": "play",
  Home: "home",
  End: "end",
  "/": "find",
  "?": "keys",
  m: "add-modifier",
  r: "recipes",
  c: "repeat-layers",
  b: "bypass-chain",
  k: "key",
  l: "link",
  a: "align",
  g: "ghost",
  p: "path",
  f: "fill",
  0: "fit",
};

wireKeys(actions, KEYS, (event, control) => {
  const station = event.target.closest?.("[data-modifier]"),
    field = event.target.closest?.("[data-field]");
  const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
  if (control && event.key.toLowerCase() === "d") actions["duplicate-layers"]();
  else if (control && event.key.toLowerCase() === "c" && choice.parameter && !String(getSelection())) copyChain();
  else if (control && event.key.toLowerCase() === "v") pasteChain();
  // Where a value has the focus it is meant, whichever is chosen.
  else if (!control && "klm".includes(event.key) && field && field.dataset.parameter !== choice.parameter)
    chooseParameter(field.dataset.parameter).then(() => actions[KEYS[event.key]]());
  else if (event.key === "F1") help(field);
  else if (arrow?.[1] && event.altKey && event.target.matches?.("#levers [data-group] > h3"))
    moveGroup(event.target.closest("[data-group]"), arrow[1]);
  else if (arrow?.[1] && event.altKey && event.target.closest?.("[data-lever]"))
    moveLever(event.target.closest("[data-lever]"), arrow[1]);
  else if (arrow && event.altKey) {
    const far = event.shiftKey ? 10 : 1;
    if (station && arrow[0])
      commitEdits(
        onEach([
          {
            kind: "move modifier",
            modifier: station.dataset.modifier,
            position: Math.max(0, Number(station.dataset.position) + arrow[0]),
          },
        ]),
      ).catch(tell(station));
    else nudge(arrow[0] * far, arrow[1] * far);
  } else if (event.key === "Delete" && station)
    deleteBy([{ kind: "remove modifier", modifier: station.dataset.modifier }], true).catch(tell(station));
  else if ((event.key === "Delete" || event.key === "Backspace") && !control) actions["delete-layers"]();
  else return false;
  return true;
});

// A lever one place up or down; over the edge of its group it joins the next one. At either end there is nowhere to go.
function moveLever(lever, by) {
  const all = [...document.querySelectorAll("[data-lever]")];
  const at = all.indexOf(lever),
    other = all[at + by];
  if (!other) return say(`${lever.dataset.name} is the ${by < 0 ? "first" : "last"} lever already.`);
  const group = other.closest("[data-group]").dataset.group;
  const same = group === lever.closest("[data-group]").dataset.group;
  commitEdits([{ kind: "move lever", lever: lever.dataset.lever, group, position: same ? at + by : by > 0 ? at : at }])
    .then(() => focusOn(`[data-lever="${CSS.escape(lever.dataset.lever)}"] .lever-name`))
    .catch(tell(lever));
}

// A group with all its levers before the group above it, or behind the one below.
function moveGroup(group, by) {
  const groups = [...document.querySelectorAll("#levers [data-group]")];
  const other = groups[groups.indexOf(group) + by];
  const { group: name } = group.dataset;
  if (!other) return say(`${name} is the ${by < 0 ? "first" : "last"} group already.`);
  const ids = part => [...part.querySelectorAll("[data-lever]")].map(lever => lever.dataset.lever);
  const order = groups.flatMap(one =>
    one === group ? [] : one === other ? (by < 0 ? [group, other] : [other, group]) : [one],
  );
  const edits = order.flatMap(one => ids(one).map(lever => ({ lever, group: one.dataset.group })));
  commitEdits(
    edits.map((one, position) => ({ kind: "move lever", ...one, position })),
    `${name} moved ${by < 0 ? "up" : "down"}`,
  )
    .then(() => focusOn(`#levers [data-group="${CSS.escape(name)}"] > h3`))
    .catch(tell(group));
}

function copyChain() {
  if (!document.querySelector("#chain .station[data-modifier]")) return;
  setHands({ copied: { ...hands.copied, chain: choice.parameter } });
  say("Chain copied. Choose other layers, then Ctrl+V.");
}

function pasteChain() {
  const source = hands.copied?.chain;
  if (!source) return;
  const field = source.split(".").slice(1).join(".");
  const targets =
    choice.layers.length > 1 || choice.parameter?.split(".").slice(1).join(".") === field
      ? choice.layers.map(layer => `${layer}.${field}`)
      : [choice.parameter];
  const others = targets.filter(target => target && target !== source);
  if (!others.length) return say("Choose the layers or the value to paste onto first.");
  commitEdits([{ kind: "paste chain", source, targets: others, frame: frameNow() }])
    .then(told => say(`${told.label}, each with a seed of its own.`))
    .catch(tell(chain()));
}

on("refused", error => wrongIn(document.querySelector("#sheet[open]"), error.message));
on("elsewhere", () => refresh());

// Unfolded settings stay unfolded when the panels are swapped.
const unfolded = new Set(JSON.parse(sessionStorage.getItem("unfolded") ?? "[]"));
function unfold() {
  for (const button of document.querySelectorAll("[data-unfold]")) {
    const open = unfolded.has(button.dataset.unfold);
    button.setAttribute("aria-expanded", open);
    button.closest(".folding").classList.toggle("is-unfolded", open);
  }
}
// What a lever or a gauge drives, to go there.
async function showDriven(anchor, top) {
  const answer = await fetch(sceneUrl(`followers?${new URLSearchParams({ of: top })}`));
  if (!answer.ok) throw await complaint(answer);
  const { followers } = await answer.json();
  menu(
    anchor,
    followers.map(([id, words]) => ({ words, run: () => chooseParameter(id) })),
  );
}

document.addEventListener("click", event => {
  const button = event.target.closest?.("[data-unfold]");
  if (!button) return;
  unfolded[unfolded.has(button.dataset.unfold) ? "delete" : "add"](button.dataset.unfold);
  sessionStorage.setItem("unfolded", JSON.stringify([...unfolded]));
  unfold();
  drawCurves();
  drawWindows();
});
on("panels", () => {
  unfold();
  drawCurves();
  drawWindows();
});

for (const name of ["ghost", "path"])
  document.querySelector(`[data-do=${name}]`).setAttribute("aria-pressed", String(views[name]));
document.fonts.ready.then(() => {
  drawRuler();
  drawWindows();
});
unfold();
startTime();
await requestFrames([]);
drawWindows();
listen();
resumeSteps();
root.dataset.ready = "yes";

// Read by tests and measurements.
window.bench = {
  scene,
  choice,
  clock,
  answers,
  views,
  scenePixels,
  setFrame,
  play,
  draw,
  rim: rimOnPage,
  copyOnPage,
  handlesOnPage,
  requestFrames: () => requestFrames([]),
  value: parameter => [...curveAt(parameter, Math.floor(clock.frame))],
};
