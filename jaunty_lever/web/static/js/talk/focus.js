// @ts-check
// Where the focus goes when what had it is there no more: to what was made, else to where it came from, never to
// nothing.
import { choice } from "./choice.js";
import { on } from "./events.js";

// What can be come back to, from the nearest on: by what it is of, since panels are made anew.
/** @type {string[]} */
let places = [];
/** @type {string[]} */
let made = [];

const by = (name, id) => `[${name}="${CSS.escape(id)}"]`;

// The thing, and what stands beside it should it be gone: what comes after it, then what comes before.
function thing(target, name, inside = "") {
  const own = target.closest(`[${name}]`);
  if (!own) return [];
  const all = [...document.querySelectorAll(`[${name}]`)];
  const at = all.indexOf(own);
  return [own, all[at + 1], all[at - 1]]
    .filter(Boolean)
    .map(one => `${by(name, one.getAttribute(name))}${inside ? ` ${inside}` : ""}`);
}

function field(target) {
  const own = target.closest("[data-field]");
  if (!own) return [];
  // In the list of layers and in a station there may be one of the same value.
  const panel = own.closest("[id]")?.id;
  const here = `${panel ? `#${CSS.escape(panel)} ` : ""}[data-field]${by("data-parameter", own.dataset.parameter)}`;
  return [`${here} .field-name`, `[data-field]${by("data-parameter", own.dataset.parameter)} .field-name`];
}

/** @param {any} target */
function placesOf(target) {
  if (!target.closest || target === document.body) return [];
  return [
    ...(target.id ? [`#${CSS.escape(target.id)}`] : []),
    ...(target.dataset.do ? [by("data-do", target.dataset.do)] : []),
    ...field(target),
    ...thing(target, "data-modifier", "h3"),
    ...(target.closest("#chain") ? [".add-station"] : []),
    ...thing(target, "data-lever", ".lever-name"),
    ...(target.closest("#levers") ? ["[data-do=add-lever]"] : []),
    ...thing(target, "data-choose-layer"),
  ];
}

document.addEventListener("focusin", event => {
  // A menu or a sheet is on the way to something: what it was opened from is where one comes back to.
  if (/** @type {Element} */ (event.target).closest("#menu, #sheet, #formula-pad, .formula-pad")) return;
  places = placesOf(event.target);
});

/** What is about to be made gets the focus once it is there. @param {string[]} selectors the first that is found */
export function focusOn(...selectors) {
  made = selectors;
  settle();
}

const here = selector =>
  [.../** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll(selector))].find(one => one.offsetParent);

function settle() {
  if (document.querySelector("dialog[open]") || document.querySelector("#menu:popover-open")) return;
  const wanted = made.map(here).find(Boolean);
  if (wanted) {
    made = [];
    wanted.focus({ preventScroll: true });
    wanted.scrollIntoView({ block: "nearest", inline: "nearest" });
    return;
  }
  const now = document.activeElement;
  if (now && now !== document.body) return;
  const chosen = choice.layers.at(-1);
  const back = [...places, ...(chosen ? [by("data-choose-layer", chosen)] : []), ".panel-head [data-do=add-layer]"];
  back.map(here).find(Boolean)?.focus({ preventScroll: true });
}

on("panels", settle);
document.getElementById("sheet")?.addEventListener("close", () => setTimeout(settle));
document.getElementById("menu")?.addEventListener("toggle", event => {
  if (/** @type {any} */ (event).newState === "closed") setTimeout(settle);
});
