// @ts-check
// Asking the server: values (with edits tried but not kept), edits, undo, panels, and others' changes.
import { decode } from "../../vendor/msgpack.js";
import { channel, channels, row } from "../lib/channels.js";
import { OF_PROJECT } from "../lib/of_project.js";
import { chosenQuery, remember } from "./address.js";
import { answers, setAnswers } from "./answers.js";
import { choice, setChoice } from "./choice.js";
import { clock } from "./clock.js";
import { emit } from "./events.js";
import { hands } from "./hands.js";
import { root, scene, sceneUrl, setScene } from "./scene.js";
import { views } from "./views.js";
import { say, sayHowFar } from "./notes.js";
import { hear } from "../lib/news.js";
import { around } from "../lib/surroundings.js";
import { all, first } from "../lib/places.js";

Object.assign(around, { project: scene.project, changed: emit });

const MOST_FRAMES = 600,
  MOST_DRAWN = 300_000,
  MANY = 300,
  AT_ONCE = 60;
const blocks = new Map();
let wanted = null;
// Milliseconds that all frames took at last while something was being tried.
let took = Infinity;
let asking = null;
let trying = [];

export async function complaint(response) {
  try {
    const told = await response.json();
    return Object.assign(new Error(told.message), { at: told.at, status: response.status });
  } catch {
    return Object.assign(new Error(`The server answered ${response.status}.`), { status: response.status });
  }
}

async function send(url, body) {
  let response;
  try {
    response = await fetch(url, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify(body),
    });
  } catch {
    throw new Error(
      "The server cannot be reached. Your last change was not saved; start the server, then do it again.",
    );
  }
  if (!response.ok) throw await complaint(response);
  return response;
}

// How many things are drawn in a frame: layers, and what is in arrays once for each copy.
const weights = new WeakMap();
function weightOf(nodes) {
  let sum = 0;
  for (const node of nodes) {
    let own = weights.get(node);
    if (own === undefined) {
      own = node.kind === "array" ? Math.max(1, node.copies) * weightOf(node.nodes) : 1 + weightOf(node.nodes);
      weights.set(node, own);
    }
    sum += own;
  }
  return sum;
}

let weight = Math.max(1, Number(root.dataset.drawn) || 1);

// How many frames are asked for at a time: as many as there is room for.
const blockLength = () => Math.max(6, Math.min(MOST_FRAMES, Math.floor(MOST_DRAWN / weight)));

// How many frames there is room for at several moments each.
export const framesAt = moments => Math.max(2, Math.floor(blockLength() / moments));

export function blockOf(frame) {
  const block = blockLength();
  return Math.floor(Math.min(frame, scene.length - 1) / block) * block;
}

// The parameters that are in the hand: those which what is being tried sets.
export function inHand(edits = trying) {
  return edits.flatMap(edit => {
    if (edit.kind === "on each") return inHand(edit.edits);
    if (edit.kind === "set value") return [edit.parameter];
    if (edit.kind === "move layers") return edit.layers.map(layer => `${layer}.position`);
    return edit.kind === "move pivot" ? [`${edit.layer}.pivot`, `${edit.layer}.position`] : [];
  });
}

/** @returns {import("#types").Question} */
function question(start, edits, stop) {
  const curves = {
    result: new Set(answers.wanted.result),
    source: new Set(answers.wanted.source),
    awake: new Set(answers.wanted.awake),
    turning: new Set(),
    each: new Set(answers.wanted.each),
  };
  for (const place of all("[data-strip]")) curves.each.add(place.dataset.strip);
  const array = first("[data-array]");
  let flight = null;
  if (array) {
    const { id, values, kind } = JSON.parse(array.dataset.array);
    for (const parameter of values) curves.result.add(parameter);
    // Sparks come and go: of an emitter the way of one is wanted.
    if (kind === "emitter") flight = id;
    else curves.each.add(`${id}.place`);
  }
  for (const place of all("[data-track]")) curves.result.add(place.dataset.track);
  for (const place of all("[data-stage]"))
    for (const parameter of JSON.parse(place.dataset.stage)) curves.result.add(parameter);
  for (const place of all("[data-keyed]")) curves.source.add(place.dataset.parameter);
  for (const place of all("[data-slide]"))
    (place.dataset.led === undefined ? curves.source : curves.result).add(place.dataset.slide);
  if (choice.parameter && first("[data-turning]")) curves.turning.add(choice.parameter);
  for (const parameter of inHand(edits))
    if (first(`[data-field][data-parameter="${CSS.escape(parameter)}"]`)) curves.source.add(parameter);
  const layer = choice.layers.at(-1) ?? null;
  if (layer) curves.result.add(`${layer}.pivot`);
  return {
    edits,
    token: answers.last?.token ?? null,
    only_new: true,
    start,
    stop,
    chosen: choice.parameter,
    copies: views.copies,
    spread: views.spread,
    dots: views.dots,
    flight,
    plan: views.plan && Boolean(first("[data-in-depth]")),
    curves: Object.fromEntries(Object.entries(curves).map(([what, asked]) => [what, [...asked].slice(0, 400)])),
    ghost: views.ghost ? layer : null,
    path: views.path ? layer : null,
  };
}

async function fetchAnswer(start, edits, stop = start + blockLength()) {
  const before = answers.last;
  const response = await send(
    `/api/projects/${scene.project}/scenes/${scene.id}/evaluate`,
    question(start, edits, stop),
  );
  const answer = decode(new Uint8Array(await response.arrayBuffer()));
  keep(answer);
  if (answer.new_nodes) {
    // All others stand as they did.
    answer.nodes = before.nodes.slice();
    for (const [place, node] of answer.new_nodes) answer.nodes[place] = node;
  }
  return answer;
}

// Channels that came with an answer are kept by their hashes.
function keep(answer) {
  for (const [key, [rows, each, bytes]] of Object.entries(answer.channels)) {
    const data = new Float32Array(bytes.slice().buffer);
    channels.set(key, { rows, each, width: data.length / Math.max(rows * each, 1), data });
  }
  answer.channels = null;
}

// A frame as the shutter of a scene with motion blur sees it: its moments, to be averaged. Null where the scene has
// none.
export async function askExposure(frame) {
  const asked = { edits: trying, token: answers.last?.token ?? null, start: frame, stop: frame + 1, exposure: frame };
  const response = await send(`/api/projects/${scene.project}/scenes/${scene.id}/evaluate`, asked);
  const answer = decode(new Uint8Array(await response.arrayBuffer()));
  keep(answer);
  return answer.exposure;
}

// Some frames as their shutters see them, roughly, at so many moments each. Null where the scene has no motion blur.
export async function askShutter(start, stop, moments) {
  const asked = { edits: trying, token: answers.last?.token ?? null, start, stop, moments };
  const response = await send(`/api/projects/${scene.project}/scenes/${scene.id}/evaluate`, asked);
  const answer = decode(new Uint8Array(await response.arrayBuffer()));
  keep(answer);
  return answer.shutter && { ...answer.shutter, start: answer.start, stop: answer.stop };
}

const planKeys = plan =>
  plan
    ? [
        ...plan.things.map(({ spots }) => spots),
        ...plan.zones.flatMap(({ spots, reach }) => [spots, reach]),
        ...plan.sparks.flatMap(({ spots, counts }) => [spots, counts]),
        plan.camera?.eye,
        plan.camera?.aim,
        plan.camera?.perspective,
        plan.light?.spots,
      ]
    : [];

export function keysOf(answer) {
  const keys = new Set([
    answer.background,
    answer.path,
    ...Object.values(answer.curves).flatMap(found => Object.values(found)),
    ...(answer.chosen?.outputs ?? []),
    ...(answer.chosen?.copies?.outputs ?? []),
    answer.dots?.values,
    answer.dots?.places,
    answer.flight?.points,
    ...Object.values(answer.planes ?? {}),
    ...planKeys(answer.plan),
  ]);
  const walk = node => {
    for (const key of Object.values(node.channels)) keys.add(key);
    for (const inner of node.nodes) walk(inner);
    if (node.matte) walk(node.matte);
  };
  const others = [...(answer.exposure ? [answer.exposure] : []), ...(answer.shutters ?? [])];
  for (const node of [...answer.nodes, ...others.flatMap(({ nodes }) => nodes)]) walk(node);
  for (const { background } of others) keys.add(background);
  if (answer.ghost) walk(answer.ghost);
  return keys;
}

// Channels that nothing shows any more are forgotten now and then.
let many = 200;

function forget() {
  const kept = new Set();
  for (const answer of blocks.values()) for (const key of keysOf(answer)) kept.add(key);
  for (const key of channels.keys()) if (!kept.has(key)) channels.delete(key);
  many = 200 + 1.5 * channels.size;
}

/**
 * Values for the present state with `edits` tried on top. Calls that come while one is under way are folded into one.
 * @param {import("#types").Edit[]} edits
 */
export function requestFrames(edits = []) {
  // A page on which nothing is kept on the server has edits of its own below those that are tried.
  const all = answers.tried ? answers.tried(edits) : edits;
  trying = all;
  wanted = all;
  wake?.();
  asking ??= pump();
  return asking;
}

/** Whether what was answered last is of something older than what is wanted now: something newer waits to be asked. */
export const behind = () => wanted !== null;

let wake = null;

// Waits for a while, or until something new is wanted.
const pause = time =>
  new Promise(done => {
    wake = done;
    setTimeout(done, time);
  }).then(() => {
    wake = null;
  });

function show(answer) {
  blocks.clear();
  blocks.set(answer.start, answer);
  setAnswers({ last: answer });
  weight = Math.max(1, weightOf(answer.nodes));
  setScene({ fps: answer.fps, length: answer.length, width: answer.width, height: answer.height });
  if (channels.size > many) forget();
  emit("values", answer);
  document.dispatchEvent(new CustomEvent("painted"));
}

async function pump() {
  while (wanted !== null) {
    const edits = wanted;
    wanted = null;
    try {
      if (edits.length && weight > MANY && took > AT_ONCE && !clock.playing) {
        // Of many copies the frame that is shown comes first; the others follow once the hand rests.
        const frame = Math.floor(clock.frame);
        show(await fetchAnswer(frame, edits, frame + 1));
        if (wanted === null) await pause(180);
        if (wanted !== null) continue;
      }
      const begun = performance.now();
      const answer = await fetchAnswer(blockOf(clock.frame), edits);
      if (edits.length) took = performance.now() - begun;
      show(answer);
    } catch (error) {
      if (edits.length) emit("refused", error);
      else say(error.message, "bad");
    }
  }
  // In the same breath as the loop ends: a question that came in between would be forgotten.
  asking = null;
}

let fetching = null;

// The answer that holds a frame; when it is not here yet, the nearest one, while the right one is on its way.
export function answerAt(frame) {
  const start = blockOf(frame);
  const here = blocks.get(start);
  const block = blockLength();
  const next = (start + block) % (Math.ceil(scene.length / block) * block);
  const missing = !here ? start : scene.length > block && frame - start > block / 3 && !blocks.has(next) ? next : null;
  if (answers.last && missing !== null && fetching === null && !asking) {
    const token = answers.last;
    fetching = fetchAnswer(missing, trying)
      .then(answer => {
        if (answers.last === token) {
          blocks.set(answer.start, answer);
          emit("frame");
        }
      })
      .catch(() => {})
      .finally(() => {
        fetching = null;
      });
  }
  return here ?? answers.last;
}

// A parameter's curve over the scene: `result`, `source`, `awake` or `turning` (see the server's Question).
export function curveOf(parameter, what = "result") {
  return channel(answers.last?.curves[what]?.[parameter]);
}

export function curveAt(parameter, frame, what = "result") {
  return row(answers.last?.curves[what]?.[parameter], frame);
}

function saved(words, bad = false) {
  const place = document.getElementById("saved");
  place.textContent = words;
  place.classList.toggle("is-bad", bad);
}

let queue = Promise.resolve();

/** @typedef {import("#types").Edit} Edit */

// Make edits and keep them as one step. Resolves when the panels show the result; rejects with what was wrong.
export function commitEdits(edits, label = "") {
  const list = Array.isArray(edits) ? edits : [edits];
  if (answers.keeper) return answers.keeper(list);
  const body = { edits: withScene(list), label, by: scene.tab, revision: scene.revision, aside: true };
  const work = queue.then(async () => {
    saved("saving …");
    try {
      const told = await (await send(`/api/projects/${scene.project}/edits`, body)).json();
      saved("saved");
      if (told.working) {
        waitFor(told);
        return told;
      }
      setScene({ revision: told.revision });
      // It is kept, whatever becomes of showing it.
      await refresh().catch(error =>
        say(`It is saved, but the page could not be brought up to date: ${error.message}`, "bad"),
      );
      return told;
    } catch (error) {
      saved("not saved", true);
      requestFrames([]);
      if (error.status === 409) refresh().catch(() => {});
      throw error;
    }
  });
  queue = work.catch(() => {});
  return work;
}

// What lasts is worked out beside everything else: how far it is stands at the foot of the page, where it can be
// stopped.
async function waitFor({ working, label }) {
  const gone = { message: "The program was started anew meanwhile: it was not done. Nothing was changed." };
  let end = () => {};
  const came = await new Promise(resolve => {
    end = sayHowFar(`${label} …`, working, told => {
      if (told.came || !told.what) resolve(told.came ?? gone);
    });
  });
  end();
  if (came.stopped) say("Stopped. Nothing was changed.");
  else if (came.message) say(came.message, "bad");
  else {
    setScene({ revision: came.revision });
    say(`${came.label}.`);
    await refresh().catch(error =>
      say(`It is saved, but the page could not be brought up to date: ${error.message}`, "bad"),
    );
  }
}

export function withScene(edits) {
  return edits.map(edit => (OF_PROJECT.has(edit.kind) ? edit : { scene: scene.id, ...edit }));
}

// Edits of a value, a modifier or a layer, made on each of the chosen layers where several are chosen and listed.
/** @param {object[]} edits @returns {any[]} */
export function onEach(edits) {
  if (choice.layers.length < 2 || !document.querySelector(".layer-list")) return edits;
  return [{ kind: "on each", layers: choice.layers, edits: withScene(edits) }];
}

export async function step(way) {
  // What is still on its way to be kept comes first.
  await queue;
  const told = await (await send(`/api/projects/${scene.project}/${way}`, { by: scene.tab })).json();
  setScene({ revision: told.revision });
  const where = told.scene_name && told.scene !== scene.id ? `, in ${told.scene_name}` : "";
  say(told.label ? `${way === "undo" ? "Undone" : "Redone"}: ${told.label}${where}` : `Nothing to ${way}.`);
  await refresh();
}

// Rows of which only new ones came, into those that the page has.
async function takeRows(fresh, came) {
  const list = document.querySelector(".layer-list");
  for (const around of ["layers-head", "layers-about"])
    await htmx.swap({ target: `#${around}`, text: fresh.querySelector(`#${around}`).innerHTML, swap: "innerMorph" });
  for (const row of [...came.children]) {
    if (document.getElementById(row.id))
      await htmx.swap({ target: `#${CSS.escape(row.id)}`, text: row.outerHTML, swap: "outerMorph" });
    else list.append(document.adoptNode(row));
  }
  if (came.dataset.order !== undefined) {
    const order = came.dataset.order
        .split(" ")
        .filter(Boolean)
        .map(id => `row-${id}`),
      all = new Set(order);
    for (const row of [...list.children]) if (!all.has(row.id)) row.remove();
    let next = list.firstElementChild;
    for (const id of order) {
      if (next?.id === id) next = next.nextElementSibling;
      else list.insertBefore(document.getElementById(id), next);
    }
  }
  list.dataset.rows = came.dataset.rows;
}

let refreshing = 0;

// Fetch the panels anew and the values with them.
export async function refresh() {
  const mine = ++refreshing,
    { revision } = scene;
  remember();
  const asked = chosenQuery(),
    had = document.querySelector(".layer-list")?.dataset.rows;
  // Of rows that it has the page is sent nothing.
  if (had) asked.set("rows", had);
  const response = await fetch(`${sceneUrl(root.dataset.panelsUrl ?? "panels")}?${asked}`, {
    headers: { "hx-request": "true" },
  });
  if (!response.ok) {
    const error = await complaint(response);
    say(error.message, "bad");
    return;
  }
  const text = await response.text();
  if (mine !== refreshing) return;
  // A name that is being typed stands in the list itself: the list waits until it is done.
  await hands.renaming;
  if (mine !== refreshing) return;
  const parsed = new DOMParser().parseFromString(text, "text/html");
  // Every panel of the answer takes the place of its namesake on the page.
  for (const fresh of parsed.querySelectorAll("body > [hx-swap-oob]")) {
    const { id } = fresh;
    // A newer answer may have been swapped in while this one waited for its turn.
    if (mine !== refreshing) return;
    const list = fresh.querySelector("[data-only-new]");
    if (!list) await htmx.swap({ target: `#${id}`, text: fresh.innerHTML, swap: "innerMorph" });
    else if (document.querySelector(".layer-list").dataset.rows === had) await takeRows(fresh, list);
    // Others came meanwhile: what is new is new to what was there before them.
    else return refresh();
  }
  if (document.getElementById("chain")) {
    setChoice({ parameter: document.querySelector("[data-chain]")?.dataset.chain ?? null });
    setChoice({ layers: choice.layers.filter(layer => document.querySelector(`[data-layer="${layer}"]`)) });
  }
  remember();
  emit("panels");
  await requestFrames([]);
  setScene({ shown: revision });
}

export function listen() {
  let lost = false;
  hear(scene.project, (kind, news) => {
    if (kind === "lost") {
      lost = true;
      saved("no connection", true);
    } else if (kind === "open") {
      if (lost) saved("saved");
      lost = false;
    } else if (kind === "looked") emit("looked", news);
    else if (news.by !== scene.tab && news.revision !== scene.revision) {
      setScene({ revision: news.revision });
      if (news.label && news.by) say(`In another tab: ${news.label}`);
      emit("elsewhere");
    }
  });
}
