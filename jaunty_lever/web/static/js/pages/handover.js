// @ts-check
// Handover: a visitor moves levers in a copy of their own, kept in the browser; the scene itself is not changed.
import { answers, setAnswers } from "../talk/answers.js";
import { choice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { on } from "../talk/events.js";
import { root, scene, sceneUrl } from "../talk/scene.js";
import { answerAt, requestFrames, commitEdits, listen } from "../talk/server.js";
import { menu } from "../talk/menus.js";
import { complainAt, say, tellForm } from "../talk/notes.js";
import { drawScene } from "../display/list.js";
import { fitCanvas, highOf, wideOf } from "../lib/canvases.js";
import { play, setFrame, startTime } from "../stage/time.js";
import { wireKeys } from "./keyboard.js";
import "../chain/fields.js";

const canvas = document.getElementById("picture");
const store = `handover ${scene.project} ${scene.id}`;
const list = document.getElementById("handover-snapshots");
let snapshots = JSON.parse(list?.dataset.snapshots ?? "[]");
let ticked = [];

// The copy is a list of edits on top of what is kept.
let own = [];
try {
  own = JSON.parse(localStorage.getItem(store) ?? "[]");
} catch {
  own = [];
}

const leverOf = edit => edit.parameter?.replace(/\.value$/, "");
const keyed = lever => document.querySelector(`[data-lever="${CSS.escape(lever)}"]`)?.dataset.hasKeys !== undefined;
// A keyed lever that is taken in hand stays where it is put: its keys give way, in this copy.
const cleared = levers =>
  levers
    .filter(keyed)
    .map(lever => ({ kind: "clear keys", parameter: `${lever}.value`, frame: Math.floor(clock.frame) }));

function merged(edits) {
  let made = [...own];
  for (const edit of edits) {
    if (edit.kind === "set value") {
      const lever = leverOf(edit);
      made = made.filter(old => leverOf(old) !== lever);
      // The ends of a lever hold for whoever it is handed to, unless they are soft.
      made.push(...cleared([lever]), { ...edit, held: true });
    } else {
      // A snapshot or a blend says for all its levers where they stand.
      const levers = new Set(
        snapshots.filter(([id]) => id === edit.snapshot || edit.snapshots?.includes(id)).flatMap(([, , some]) => some),
      );
      made = made.filter(old => old.kind === "set value" && !levers.has(leverOf(old)));
      made.push(...cleared([...levers]), edit);
    }
  }
  return made.map(edit => ({ scene: scene.id, ...edit }));
}

function took() {
  localStorage.setItem(store, JSON.stringify(own));
  const back = document.querySelector("[data-own=back]");
  if (back) back.disabled = own.length === 0;
  const hidden = document.querySelector("[data-own-export] [name=edits]");
  hidden.value = JSON.stringify(own);
}

// What pages usually keep on the server stays here.
setAnswers({
  keeper: async edits => {
    const before = own;
    own = merged(edits);
    // Kept before it is shown: whoever leaves the page at once finds it again.
    took();
    try {
      const { stopped } = await show();
      // Said of what was asked for just now.
      for (const edit of edits) if (stopped[leverOf(edit)]) say(stopped[leverOf(edit)]);
    } catch (error) {
      own = before;
      took();
      await show();
      throw error;
    }
    return { label: "Changed in your copy" };
  },
  tried: edits => (edits.length ? merged(edits) : own),
});

async function post(url, body) {
  const response = await fetch(url, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body),
  });
  const told = await response.json();
  if (!response.ok) throw new Error(told.message);
  return told;
}

const api = rest => `/api${sceneUrl(rest)}`;

// Where the levers stand in the copy, written into their fields.
async function show() {
  const told = await post(api("levers"), { edits: own, frame: Math.floor(clock.frame) });
  snapshots = told.snapshots;
  for (const [lever, value] of Object.entries(told.values)) {
    const field = document.querySelector(`[data-lever="${CSS.escape(lever)}"] [data-field]`);
    const input = field?.querySelector("[data-input]");
    if (!input) continue;
    const mine =
      own.some(edit => leverOf(edit) === lever) ||
      own.some(edit => edit.kind !== "set value" && edit.kind !== "clear keys");
    // A lever in hand no longer follows its keys on this page.
    if (keyed(lever) && mine) delete field.dataset.keyed;
    if (input.matches("[role=switch]")) input.setAttribute("aria-checked", String(value === true || value === 1));
    else {
      input.value = typeof value === "number" ? String(Number(value.toFixed(3))) : String(value);
      const swatch = field.querySelector("[data-swatch]");
      if (swatch) swatch.value = String(value).slice(0, 7);
    }
  }
  drawSnapshots();
  await requestFrames([]);
  return told;
}

function drawSnapshots() {
  if (!list) return;
  list.replaceChildren(
    ...snapshots.map(([id, name]) => {
      const line = document.createElement("div");
      line.className = "snapshot";
      const box = Object.assign(document.createElement("input"), {
        type: "checkbox",
        checked: ticked.includes(id),
        title: "Tick two or more to blend them",
      });
      box.setAttribute("aria-label", `Blend ${name}`);
      box.addEventListener("change", () => {
        ticked = box.checked ? [...ticked, id].slice(-8) : ticked.filter(one => one !== id);
        drawBlend();
      });
      const button = Object.assign(document.createElement("button"), {
        type: "button",
        className: "snapshot-name",
        textContent: name,
      });
      button.addEventListener("click", () =>
        commitEdits([{ kind: "recall snapshot", snapshot: id, frame: 0 }])
          .then(() => say(`${name} recalled.`))
          .catch(error => complainAt(button, error.message)),
      );
      line.append(box, button);
      return line;
    }),
  );
  if (!snapshots.length) list.innerHTML = '<p class="hint">None yet: move the levers, then keep what you like.</p>';
  drawBlend();
}

function drawBlend() {
  const blend = document.querySelector("[data-own-blend]");
  ticked = ticked.filter(id => snapshots.some(([one]) => one === id));
  blend.hidden = ticked.length < 2;
  const name = id => snapshots.find(([one]) => one === id)?.[1] ?? "";
  blend.querySelector("[data-blend-first]").textContent = name(ticked[0]);
  blend.querySelector("[data-blend-last]").textContent = ticked.slice(1).map(name).join(" → ");
}

const slide = document.querySelector("[data-own-slide]");
/** @returns {import("#types").Edit} */
const blendEdit = () => ({ kind: "blend snapshots", snapshots: ticked, amount: Number(slide.value), frame: 0 });
slide?.addEventListener("input", () => requestFrames([blendEdit()]));
slide?.addEventListener("change", () => commitEdits([blendEdit()]).catch(error => complainAt(slide, error.message)));

document.addEventListener("click", event => {
  const target = event.target.closest?.("[data-own], [data-do]");
  if (target?.dataset.do) actions[target.dataset.do]?.();
  if (target?.dataset.own === "back") {
    own = [];
    took();
    location.reload();
  } else if (target?.dataset.own === "keep") {
    menu(target, [
      { title: "Keep what the levers stand at, for everybody who has this page" },
      {
        field: "Snapshot named",
        value: `Snapshot ${snapshots.length + 1}`,
        button: "Keep",
        run: async name => {
          try {
            const { values } = await post(api("levers"), { edits: own, frame: Math.floor(clock.frame) });
            await post(`/api/projects/${scene.project}/edits`, {
              edits: [{ kind: "store snapshot", scene: scene.id, name, values }],
              by: scene.tab,
            });
            await show();
            say(`Snapshot ${name} kept.`);
          } catch (error) {
            complainAt(target, error.message);
          }
        },
      },
    ]);
  }
});

document.querySelector("[data-go]")?.addEventListener("change", event => {
  location.href = event.target.value;
});
document.addEventListener("htmx:after:request", event => {
  if (tellForm(event) && event.detail.ctx.sourceElement?.closest?.("[data-form]")) event.detail.ctx.swap = "none";
});

function draw() {
  const answer = answerAt(clock.frame);
  const paper = document.getElementById("stage");
  paper.style.aspectRatio = `${scene.width} / ${scene.height}`;
  const context = answer ? fitCanvas(canvas) : null;
  if (!context) return;
  context.clearRect(0, 0, wideOf(canvas), highOf(canvas));
  const scale = Math.min(wideOf(canvas) / scene.width, highOf(canvas) / scene.height);
  context.translate((wideOf(canvas) - scene.width * scale) / 2, (highOf(canvas) - scene.height * scale) / 2);
  context.scale(scale, scale);
  drawScene(context, answer, clock.frame);
}

const actions = {
  undo() {},
  redo() {},
  play: () => play(),
  home: () => setFrame(0),
  end: () => setFrame(scene.length - 1),
};
wireKeys(actions, { " ": "play", Home: "home", End: "end" });

on("values", draw);
on("frame", draw);
on("refused", error => say(error.message, "bad"));
on("elsewhere", () => show().catch(() => {}));
new ResizeObserver(draw).observe(canvas);

startTime();
try {
  await show();
} catch {
  // Something that the copy was made of has gone since: begin anew.
  own = [];
  say("This scene has been changed since: your copy begins anew.");
  await show();
}
took();
listen();
root.dataset.ready = "yes";
window.bench = { scene, choice, clock, answers, setFrame, play };
