// @ts-check
// Snapshots: stored, recalled, blended by a slider, and a blend made a lever.
import { fresh } from "../lib/fresh.js";
import { clock } from "../talk/clock.js";
import { on } from "../talk/events.js";
import { requestFrames, commitEdits, withScene } from "../talk/server.js";
import { menu } from "../talk/menus.js";
import { complainAt, say } from "../talk/notes.js";

const frameNow = () => Math.floor(clock.frame);
const tell = place => error => complainAt(place, error.message);

// Ticked snapshots in the order of ticking: the blend runs from the first to the last.
let ticked = [];
const slide = () => document.querySelector("[data-blend-slide]");
const nameOf = id => document.querySelector(`[data-snapshot="${CSS.escape(id)}"]`)?.dataset.name ?? "";

function show() {
  ticked = ticked.filter(id => document.querySelector(`[data-snapshot="${CSS.escape(id)}"]`));
  for (const box of document.querySelectorAll("[data-blend-tick]"))
    box.checked = ticked.includes(box.dataset.blendTick);
  const blend = document.querySelector("[data-blend]");
  if (!blend) return;
  blend.hidden = ticked.length < 2;
  if (blend.hidden) return;
  blend.querySelector("[data-blend-first]").textContent = nameOf(ticked[0]);
  blend.querySelector("[data-blend-last]").textContent = ticked.slice(1).map(nameOf).join(" → ");
}

const blendEdit = () => ({
  kind: "blend snapshots",
  snapshots: ticked,
  amount: Number(slide().value),
  frame: frameNow(),
});

document.addEventListener("input", event => {
  if (event.target.matches?.("[data-blend-slide]")) requestFrames(withScene([blendEdit()]));
});

document.addEventListener("change", event => {
  const box = event.target.closest?.("[data-blend-tick]");
  if (box) {
    const id = box.dataset.blendTick;
    ticked = box.checked ? [...ticked, id].slice(-8) : ticked.filter(one => one !== id);
    show();
  }
  if (event.target.matches?.("[data-blend-slide]")) {
    const { value } = event.target;
    commitEdits([blendEdit()])
      .then(() => {
        if (slide()) slide().value = value;
      })
      .catch(tell(event.target));
  }
});

document.addEventListener("click", event => {
  const target = event.target.closest?.(
    "[data-store-snapshot], [data-recall], [data-snapshot-menu], [data-make-blend]",
  );
  if (!target) return;
  const { dataset } = target;
  const make = edit => commitEdits([edit]).catch(tell(target));
  if (dataset.storeSnapshot !== undefined) {
    menu(target, [
      { title: "Keep what the levers stand at" },
      {
        field: "Snapshot named",
        value: `Snapshot ${document.querySelectorAll("[data-snapshot]").length + 1}`,
        button: "Store",
        run: name => make({ kind: "store snapshot", name, frame: frameNow() }),
      },
    ]);
  } else if (dataset.recall) {
    make({ kind: "recall snapshot", snapshot: dataset.recall, frame: frameNow() }).then(told => {
      if (told) say(`${told.label}.`);
    });
  } else if (dataset.snapshotMenu) {
    const snapshot = dataset.snapshotMenu;
    menu(target, [
      { title: nameOf(snapshot) },
      {
        words: "Store it anew, as the levers stand now",
        run: () => make({ kind: "store snapshot", instead: snapshot, frame: frameNow() }),
      },
      {
        field: "Name",
        value: nameOf(snapshot),
        button: "Rename",
        run: name => make({ kind: "rename snapshot", snapshot, name }),
      },
      { words: "Delete", danger: true, run: () => make({ kind: "remove snapshot", snapshot }) },
    ]);
  } else if (dataset.makeBlend !== undefined) {
    menu(target, [
      { title: `${ticked.map(nameOf).join(" → ")}` },
      {
        field: "Lever named",
        value: "Blend",
        button: "Make",
        run: name =>
          make({ kind: "make blend", snapshots: ticked, name, amount: Number(slide().value), id: fresh("lever") }).then(
            told => {
              if (told) {
                ticked = [];
                show();
                say(`${told.label}.`);
              }
            },
          ),
      },
    ]);
  }
});

on("panels", show);
show();
