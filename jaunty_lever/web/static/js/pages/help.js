// @ts-check
// The reference pages: figures beside their sliders, and back to how the example was.
import { withUnit } from "../lib/figures.js";
import { nearest } from "../lib/nearest.js";

const words = (value, unit) => withUnit([Number(value)], unit, 4);

function show(form) {
  for (const output of form.querySelectorAll("output"))
    output.textContent = words(output.previousElementSibling.value, output.dataset.unit);
}

document.addEventListener("input", event => {
  const form = event.target.closest?.(".knobs");
  if (form) show(form);
});

document.addEventListener("reset", event => {
  const form = event.target.closest?.(".knobs");
  if (!form) return;
  setTimeout(() => {
    show(form);
    form.dispatchEvent(new Event("input", { bubbles: true }));
  });
});

// The index of the help: typing narrows it, and where nothing fits what comes nearest is offered.
const search = /** @type {HTMLInputElement | null} */ (document.getElementById("help-search"));

function narrow() {
  const words = search.value.toLowerCase().split(/\s+/).filter(Boolean);
  const entries = /** @type {HTMLElement[]} */ ([...document.querySelectorAll("[data-help-entry]")]);
  const texts = entries.map(entry => `${entry.dataset.words} ${entry.querySelector("a").textContent.toLowerCase()}`);
  const fits = texts.map(text => words.every(word => text.includes(word)));
  const shown = fits.some(Boolean);
  const near = shown || !words.length ? [] : nearest(words, texts);
  entries.forEach((entry, k) => {
    entry.hidden = words.length ? !fits[k] && !near.includes(k) : entry.dataset.minor !== undefined;
  });
  for (const section of /** @type {HTMLElement[]} */ ([...document.querySelectorAll("[data-help-section]")]))
    section.hidden = !section.querySelector("[data-help-entry]:not([hidden])");
  /** @type {HTMLElement} */ (document.querySelector("[data-help-rest]")).hidden = words.length > 0;
  const nothing = /** @type {HTMLElement} */ (document.querySelector("[data-help-nothing]"));
  nothing.hidden = shown;
  /** @type {HTMLElement} */ (nothing.querySelector("[data-nearest]")).hidden = !near.length;
  /** @type {HTMLElement} */ (nothing.querySelector("[data-none]")).hidden = near.length > 0;
}

search?.addEventListener("input", narrow);
search?.addEventListener("keydown", event => {
  if (event.key !== "Enter") return;
  event.preventDefault();
  /** @type {HTMLElement | null} */ (document.querySelector("[data-help-entry]:not([hidden]) a"))?.click();
});
// What is led to from the list of finds stands below it: the list gives way.
document.addEventListener("click", event => {
  const link = event.target.closest?.(".help-section a[href^='#']");
  if (!link || !search) return;
  search.value = "";
  narrow();
});
