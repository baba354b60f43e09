// @ts-check
// The Linkage page: panning and zooming, choosing, linking and cutting, filters, folding, and the drawing as a file.
import { views } from "../talk/views.js";
import { remember } from "../talk/address.js";
import { answers, setAnswers } from "../talk/answers.js";
import { choice, setChoice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { on } from "../talk/events.js";
import { hands } from "../talk/hands.js";
import { root, scene, sceneUrl } from "../talk/scene.js";
import { grip } from "../lib/dragging.js";
import { commitEdits, curveAt, listen, refresh, requestFrames, step } from "../talk/server.js";
import { menu, sheet } from "../talk/menus.js";
import { say, wrongIn } from "../talk/notes.js";
import { play, setFrame, startTime } from "../stage/time.js";
import { wireKeys } from "./keyboard.js";
import { openChecks } from "../sheets/checks.js";
import { openTie, point } from "../stage/pointing.js";
import { turningWords } from "../lib/figures.js";
import { boxOf, draw, followValues, read, shown, wanted } from "../stage/linkage.js";
import "./links.js";

const place = document.getElementById("linkage");
const svg = document.getElementById("linkage-svg");
const all = document.getElementById("linkage-all");
const chosenPlace = document.getElementById("linkage-chosen");
const view = { x: 0, y: 0, zoom: 1 };
let size = { width: 1, height: 1 };

svg.insertAdjacentHTML(
  "afterbegin",
  [
    '<defs><marker id="tie-end" viewBox="0 0 8 8" refX="2" refY="4" markerWidth="7" markerHeight="7"',
    'markerUnits="userSpaceOnUse" orient="auto"><path d="M0 0L8 4L0 8Z" fill="#1f6f78"/></marker></defs>',
  ].join(" "),
);

function move() {
  all.setAttribute("transform", `translate(${view.x} ${view.y}) scale(${view.zoom})`);
  svg.classList.toggle("is-far", view.zoom < 0.45);
  document.getElementById("linkage-zoom").textContent = `${Math.round(view.zoom * 100)} %`;
}

function fit() {
  const pad = 30;
  view.zoom = Math.min(1, (place.clientWidth - 2 * pad) / size.width, (place.clientHeight - 2 * pad) / size.height);
  // Too small to read helps nobody: then it begins at the left, at the first drivers.
  view.zoom = Math.max(view.zoom, 0.68);
  view.x = Math.max(pad, (place.clientWidth - size.width * view.zoom) / 2);
  view.y = Math.max(pad, (place.clientHeight - size.height * view.zoom) / 2);
  move();
}

function show(fitting = false) {
  const began = performance.now();
  size = draw(all);
  place.dataset.laidOut = String(Math.round(performance.now() - began));
  document.getElementById("linkage-empty").hidden =
    all.querySelector(".card") !== null || shown.named !== "" || shown.way !== "all";
  const box = choice.parameter && boxOf(choice.parameter);
  chosenPlace.textContent = box ? box.name : "Click a value to choose it";
  chosenPlace.title = box?.train ? `${box.name}: ${box.train}` : "";
  for (const name of ["link", "open"]) document.querySelector(`[data-do=${name}]`).disabled = !box;
  for (const button of document.querySelectorAll("[data-linkage-show]"))
    button.setAttribute("aria-pressed", button.dataset.linkageShow === shown.way);
  document.querySelector("[data-do=fold]").setAttribute("aria-pressed", shown.folded.size > 0);
  if (fitting) fit();
  else move();
  light();
}

function light() {
  for (const box of all.querySelectorAll("[data-box]")) box.classList.toggle("is-able", Boolean(hands.pointing));
}

function choose(id) {
  setChoice({ parameter: id });
  remember();
  show();
  // How fast a wheel turns is asked for the chosen one.
  requestFrames([]);
}

// What the chosen wheel does: its fraction of the first driver, and how fast it turns at the playhead.
function turning() {
  const box = choice.parameter && boxOf(choice.parameter);
  const speed = turningWords(curveAt(choice.parameter, Math.floor(clock.frame), "turning")[0]);
  document.querySelector("[data-turning]").textContent = speed;
  // What its stations tell: of a wheel, its whole train.
  const chosen = answers.last?.chosen;
  const words = box?.train && chosen?.parameter === choice.parameter ? chosen.notes.flat().map(note => note.text) : [];
  const told = document.getElementById("linkage-told");
  told.hidden = !words.length;
  if (told.textContent !== words.join(" "))
    told.replaceChildren(...words.map(text => Object.assign(document.createElement("p"), { textContent: text })));
}

// A value as the driver of the one that is pointed for.
async function pointed(id, event) {
  const follower = hands.pointing.parameter;
  const response = await fetch(`${sceneUrl("drivers")}?${new URLSearchParams({ parameter: follower })}`);
  const told = response.ok ? await response.json() : null;
  const found = told?.drivers.filter(([driver]) => driver === id) ?? [];
  if (found.length > 1)
    menu(
      chosenPlace,
      [
        { title: `${boxOf(id).name}: which part?` },
        ...found.map(([driver, part, words]) => ({ words, run: () => openTie(follower, driver, part) })),
      ],
      event.clientX ? event : null,
    );
  else openTie(follower, id, found[0]?.[1]);
}

place.addEventListener("click", event => {
  if (place.dataset.panned) return;
  const box = event.target.closest?.("[data-box]");
  const tie = event.target.closest?.("[data-tie-line]");
  const fold = event.target.closest?.("[data-fold]");
  if (box) {
    if (hands.pointing) pointed(box.dataset.box, event);
    else choose(box.dataset.box);
  } else if (tie) tieMenu(tie, event);
  else if (fold) {
    shown.folded[shown.folded.has(fold.dataset.fold) ? "delete" : "add"](fold.dataset.fold);
    show();
  } else if (!event.target.closest?.(".pointing")) choose(null);
});
place.addEventListener("dblclick", event => {
  if (event.target.closest?.("[data-box]")) actions.open();
});
place.addEventListener("keydown", event => {
  const target = event.target.closest?.("[data-box], [data-tie-line], [data-fold]");
  if (target && (event.key === "Enter" || event.key === " ")) {
    event.preventDefault();
    event.stopPropagation();
    target.dispatchEvent(new MouseEvent("click", { bubbles: true }));
  }
});

function tieMenu(tie, event) {
  const { tieLine, tieFollower, tieWords } = tie.dataset;
  const anchor = { getBoundingClientRect: () => tie.getBoundingClientRect() };
  menu(
    anchor,
    [
      { title: tieWords },
      {
        words: "Show the follower’s chain on the Bench",
        run: () => {
          setChoice({ parameter: tieFollower });
          actions.open();
        },
      },
      {
        words: "Link it otherwise …",
        run: () => {
          choose(tieFollower);
          point(tieFollower);
        },
      },
      {
        words: "Cut it; the follower stays where it is",
        danger: true,
        run: () =>
          commitEdits([{ kind: "unlink", modifier: tieLine, frame: Math.floor(clock.frame) }])
            .then(told => say(`${told.label}.`))
            .catch(error => say(error.message, "bad")),
      },
    ],
    event.clientX ? event : null,
  );
}

place.addEventListener("pointerdown", event => {
  if (event.button > 1 || event.target.closest?.(".pointing")) return;
  const from = { x: view.x - event.clientX, y: view.y - event.clientY, cx: event.clientX, cy: event.clientY };
  const moved = e => {
    if (!place.dataset.panned && Math.hypot(e.clientX - from.cx, e.clientY - from.cy) < 4) return;
    place.dataset.panned = "yes";
    Object.assign(view, { x: from.x + e.clientX, y: from.y + e.clientY });
    move();
  };
  let captured = false;
  // Boxes are pressed as well: only a press that travels becomes a drag.
  const first = e => {
    if (captured || e.pointerId !== event.pointerId || Math.hypot(e.clientX - from.cx, e.clientY - from.cy) < 4) return;
    captured = grip(place, event, { move: moved, end: () => setTimeout(() => delete place.dataset.panned) });
    stop();
    if (captured) moved(e);
  };
  const stop = () => {
    removeEventListener("pointermove", first);
    removeEventListener("pointerup", stop);
    removeEventListener("pointercancel", stop);
  };
  addEventListener("pointermove", first);
  addEventListener("pointerup", stop);
  addEventListener("pointercancel", stop);
});

place.addEventListener(
  "wheel",
  event => {
    event.preventDefault();
    const box = place.getBoundingClientRect();
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    const zoom = Math.min(Math.max(view.zoom * Math.exp(-event.deltaY * 0.0015), 0.1), 3);
    view.x = x - ((x - view.x) / view.zoom) * zoom;
    view.y = y - ((y - view.y) / view.zoom) * zoom;
    view.zoom = zoom;
    move();
  },
  { passive: false },
);

// The drawing alone, as a file that any program for vectors opens.
function saveSvg() {
  const copy = svg.cloneNode(true);
  const pad = 20;
  copy.removeAttribute("id");
  copy.setAttribute("viewBox", `${-pad} ${-pad} ${size.width + 2 * pad + 60} ${size.height + 2 * pad}`);
  copy.setAttribute("width", Math.ceil(size.width + 2 * pad + 60));
  copy.setAttribute("height", Math.ceil(size.height + 2 * pad));
  copy.querySelector("g").removeAttribute("transform");
  for (const one of copy.querySelectorAll("[tabindex]")) one.removeAttribute("tabindex");
  const text = `<?xml version="1.0" encoding="UTF-8"?>\n${new XMLSerializer().serializeToString(copy)}`;
  const link = Object.assign(document.createElement("a"), {
    href: URL.createObjectURL(new Blob([text], { type: "image/svg+xml" })),
    download: `${document.title.split(" · ")[1]} linkage.svg`,
  });
  link.click();
  URL.revokeObjectURL(link.href);
}

const actions = {
  undo: () => step("undo").catch(error => say(error.message, "bad")),
  redo: () => step("redo").catch(error => say(error.message, "bad")),
  play: () => play(),
  home: () => setFrame(0),
  end: () => setFrame(scene.length - 1),
  keys: () => sheet("keys"),
  faults: openChecks,
  find: () => document.getElementById("linkage-named").focus(),
  link: () => {
    if (choice.parameter && boxOf(choice.parameter)) point(choice.parameter);
    else say("Choose a value first.");
  },
  open: () => {
    const query = new URLSearchParams({ parameter: choice.parameter });
    const owner = boxOf(choice.parameter)?.owner;
    if (owner && !all.querySelector(`[data-card="${CSS.escape(owner)}"].is-lever`)) query.append("layer", owner);
    location.href = `${sceneUrl("bench")}?${query}#frame=${Math.floor(clock.frame)}`;
  },
  fold: () => {
    if (shown.folded.size) shown.folded.clear();
    else for (const card of all.querySelectorAll("[data-card]")) shown.folded.add(card.dataset.card);
    show(true);
  },
  "save-svg": saveSvg,
  fit,
};

document.addEventListener("click", event => {
  const button = event.target.closest?.("[data-do], [data-linkage-show]");
  if (!button) return;
  if (button.dataset.do) actions[button.dataset.do]?.(button);
  else {
    if (button.dataset.linkageShow !== "all" && !(choice.parameter && boxOf(choice.parameter))) {
      say("Choose a value first: click one in the drawing.");
      return;
    }
    shown.way = button.dataset.linkageShow;
    show(true);
  }
});

document.getElementById("linkage-named").addEventListener("input", event => {
  shown.named = event.target.value;
  show(true);
});
wireKeys(actions, { " ": "play", Home: "home", End: "end", "?": "keys", "/": "find", l: "link", 0: "fit" });

on("pointing", light);
on("frame", () => {
  followValues();
  turning();
});
on("values", () => {
  followValues();
  turning();
});
on("panels", () => {
  read();
  setAnswers({ wanted: wanted() });
  show();
});
on("elsewhere", () => refresh());
on("refused", error => {
  const open = document.querySelector("#sheet[open]");
  if (open) wrongIn(open, error.message);
});
// Playing without a stage: the clock alone.
new ResizeObserver(() => {
  if (!place.dataset.seen) {
    place.dataset.seen = "yes";
    show(true);
  }
}).observe(place);

read();
setAnswers({ wanted: wanted() });
await document.fonts.ready;
show(true);
startTime();
await requestFrames([]);
followValues();
listen();
root.dataset.ready = "yes";
window.bench = { scene, choice, clock, answers, views, setFrame, play, view };
