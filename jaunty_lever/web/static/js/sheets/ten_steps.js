// @ts-check
// A first rig in ten steps, on the stage itself: each waits until it is done, shows where, and can be left at any time.
import { choice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { scene } from "../talk/scene.js";
import { views } from "../talk/views.js";
import { rimOnPage } from "../stage/stage.js";

// Whether the page was opened with them: before its first pictures have come, the address may be written anew.
const asked = new URLSearchParams(location.search).has("steps");
const card = document.getElementById("ten-steps");
const ring = document.getElementById("step-ring");
const first = selector => /** @type {HTMLElement | null} */ (document.querySelector(selector));
const texts = selector =>
  [...document.querySelectorAll(selector)].map(one => /** @type {HTMLInputElement} */ (one).value);
const menuOpen = () => first("#menu:popover-open");
const sheetOpen = () => first("#sheet[open]");
const among = (selector, words) =>
  [.../** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll(selector))].find(
    one => one.textContent.trim() === words,
  );
const wiggle = "#chain [data-kind=wiggle]";
const setting = name => `${wiggle} [data-parameter$=".${name}"]`;
const moving = () => document.querySelectorAll("#layers .moves").length;
const layers = () => document.querySelectorAll("#layers [data-layer]").length;
const lever = () => first("#levers [data-lever]");

// What a step waits for: `seen` holds what came to pass since it began; where: what is to be pressed next.
/** @type {Record<string, { done(seen: Record<string, any>): boolean, where(seen: Record<string, any>): any }>} */
const STEPS = {
  project: { done: () => true, where: () => null },
  layer: {
    done: () => layers() > 0,
    where: () => (menuOpen() ? among("#menu button", "Star") : first("#layers .button[data-do=add-layer]")),
  },
  pivot: {
    done: () => texts('#layers [data-parameter$=".pivot"] [data-input]').some(text => Number(text) !== 0),
    where: () => rimOnPage()?.pivot,
  },
  rotation: {
    done: () => Boolean(choice.parameter?.endsWith(".rotation")),
    where: () => first('#layers [data-field][data-parameter$=".rotation"] .field-name'),
  },
  wiggle: {
    done(seen) {
      seen.played ||= Boolean(first(wiggle)) && clock.playing;
      return seen.played;
    },
    where: () =>
      first(wiggle)
        ? first("#time [data-do=play]")
        : sheetOpen()
          ? first('#sheet [data-add="wiggle"]')
          : first("#chain .add-station"),
  },
  numbers: {
    done(seen) {
      for (const name of ["frequency", "amplitude"]) {
        const now = texts(`${setting(name)} [data-input]`).join();
        if (now) seen[name] ??= now;
        seen[`${name} set`] ||= Boolean(now) && seen[name] !== now;
      }
      return seen["frequency set"] && seen["amplitude set"];
    },
    where: seen => first(`${setting(seen["frequency set"] ? "amplitude" : "frequency")} .field-name`),
  },
  compare: {
    done(seen) {
      seen.off ||= Boolean(first(`${wiggle}.is-bypassed`));
      seen.on ||= seen.off && !first(`${wiggle}.is-bypassed`);
      return seen.on && views.ghost;
    },
    where: seen => (seen.on ? first("[data-do=ghost]") : first(`${wiggle} [data-bypass]`)),
  },
  copies: {
    done: () => moving() > 1,
    where() {
      if (sheetOpen())
        return first("#sheet input[name=target]:checked")
          ? among("#sheet button", "Copy")
          : first("#sheet [data-tick-same]");
      if (layers() < 3) return menuOpen() ? null : first("#layers .panel-head [data-do=add-layer]");
      if (!first(wiggle)) return first("#layers .layer:has(.moves) [data-choose-layer]");
      return first("#chain [data-do=copy-chain]");
    },
  },
  lever: {
    done: () => Boolean(lever()),
    where: () => (menuOpen() ? first("#menu .menu-field input") : first(`${setting("amplitude")} [data-menu]`)),
  },
  keys: {
    done: () => (first("#chain .station.source [data-keyed]")?.dataset.keyed ?? "").split(" ").length > 1,
    where() {
      const id = lever()?.dataset.lever;
      if (choice.parameter !== `${id}.value`) return first("#levers [data-lever] .lever-name");
      const field = first("#chain .station.source [data-field]");
      if (!field?.dataset.keyed) return first(clock.frame >= 1 ? "#time [data-do=home]" : "#chain [data-do=key]");
      const away = Math.abs(clock.frame - Number(field.dataset.keyed)) >= 1;
      return away ? field.querySelector("[data-input]") : first("#ruler");
    },
  },
  end: { done: () => false, where: () => null },
};
const NAMES = Object.keys(STEPS);

// Where one is, for as long as the browser's tab is open: a page that is loaded anew goes on there.
const KEPT = "ten steps";
let at = -1;
let seen = {};
let timer = 0;
let passing = false;

function remember() {
  if (at < 0) sessionStorage.removeItem(KEPT);
  else sessionStorage.setItem(KEPT, JSON.stringify({ project: scene.project, at }));
}

function show() {
  for (const one of card.querySelectorAll("[data-step]"))
    /** @type {HTMLElement} */ (one).hidden = one !== card.querySelector(`[data-step="${NAMES[at]}"]`);
  const last = NAMES[at] === "end";
  card.classList.remove("is-done");
  card.querySelector("[data-step-of]").textContent = last ? "done" : `${at + 1} of 10`;
  card.querySelectorAll(".step-dots i").forEach((dot, k) => {
    dot.classList.toggle("is-past", k < at);
    dot.classList.toggle("is-now", k === at);
  });
  card.querySelector("[data-skip-step]").textContent = last ? "Close" : "Skip this one";
  const now = card.querySelector(`[data-step="${NAMES[at]}"]`);
  card.querySelector("[data-step-told]").textContent = now.textContent.replace(/\s+/g, " ").trim();
}

function goTo(number) {
  at = number;
  seen = {};
  passing = false;
  remember();
  show();
  look();
}

// What is done is seen to be done before the next one comes.
function pass() {
  passing = true;
  card.classList.add("is-done");
  const mine = at;
  setTimeout(() => at === mine && goTo(at + 1), 900);
}

function look() {
  if (at < 0) return;
  const step = STEPS[NAMES[at]];
  if (!passing && step.done(seen)) pass();
  place(passing ? null : step.where(seen));
}

let around = null;
// A ring about what is to be pressed; over a sheet where that is in one.
function place(where) {
  const point = Array.isArray(where) ? where : null;
  const box = point
    ? new DOMRect(point[0] - 9, point[1] - 9, 18, 18)
    : where?.isConnected && where.offsetParent !== undefined
      ? where.getBoundingClientRect()
      : null;
  const shown = box && box.width > 0 && box.bottom > 0 && box.top < innerHeight;
  const over = shown && !point ? where.closest("dialog, [popover]") : null;
  if (ring.matches(":popover-open") && (!shown || over !== around)) ring.hidePopover();
  around = over;
  if (!shown) return;
  if (!ring.matches(":popover-open")) ring.showPopover();
  const room = point ? 2 : 4;
  Object.assign(ring.style, {
    left: `${box.left - room}px`,
    top: `${box.top - room}px`,
    width: `${box.width + 2 * room}px`,
    height: `${box.height + 2 * room}px`,
  });
}

export function beginSteps(from = 0) {
  card.hidden = false;
  clearInterval(timer);
  // A look costs a few queries of the page, and is taken only while the steps are open.
  timer = setInterval(look, 200);
  goTo(from);
}

function leave() {
  clearInterval(timer);
  at = -1;
  remember();
  place(null);
  card.hidden = true;
}

document.addEventListener("click", event => {
  const target = /** @type {Element} */ (event.target);
  if (target.closest("[data-leave-steps]")) leave();
  else if (target.closest("[data-skip-step]")) {
    if (NAMES[at] === "end") leave();
    else goTo(at + 1);
  } else if (target.closest("[data-begin-steps]")) beginSteps();
});

/** Where the page was opened with them, or was left in the middle of them, they go on. */
export function resumeSteps() {
  const kept = JSON.parse(sessionStorage.getItem(KEPT) ?? "null");
  if (asked) {
    const query = new URLSearchParams(location.search);
    query.delete("steps");
    history.replaceState(history.state, "", `${location.pathname}${query.size ? `?${query}` : ""}${location.hash}`);
    beginSteps();
  } else if (kept?.project === scene.project) beginSteps(Math.min(Math.max(kept.at, 0), NAMES.length - 1));
}
