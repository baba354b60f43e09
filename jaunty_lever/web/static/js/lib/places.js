// @ts-check
// Places of a page by their selectors, looked for once, and again when there is something else in the page: values
// that change, and frames that go by, look for many of them, and a page of two thousand layers is large.

// What selectors go by besides what there is.
const BY = [
  "class",
  "data-array",
  "data-beyond",
  "data-camera",
  "data-chain",
  "data-clip",
  "data-copy-told",
  "data-curve",
  "data-field",
  "data-in-depth",
  "data-keyed",
  "data-notes",
  "data-about-notes",
  "data-parameter",
  "data-range",
  "data-slide",
  "data-spread",
  "data-stage",
  "data-station-value",
  "data-strip",
  "data-track",
  "data-turning",
  "data-value",
  "data-windows",
];

/** @type {Map<string, HTMLElement[]>} */
const known = new Map();

// Texts come and go without end; things and their names do so when panels are fetched anew.
const isOfThings = (/** @type {MutationRecord} */ { type, addedNodes, removedNodes }) =>
  type === "attributes" || [...addedNodes, ...removedNodes].some(node => node.nodeType === Node.ELEMENT_NODE);

/** @param {MutationRecord[]} records */
function heed(records) {
  if (known.size && records.some(isOfThings)) known.clear();
}

const watcher = new MutationObserver(heed);
watcher.observe(document, { childList: true, subtree: true, attributes: true, attributeFilter: BY });

/**
 * All places for a selector.
 * @param {string} selector
 */
export function all(selector) {
  heed(watcher.takeRecords());
  let found = known.get(selector);
  if (!found) known.set(selector, (found = [...document.querySelectorAll(/** @type {any} */ (selector))]));
  return found;
}

/**
 * The first of them.
 * @param {string} selector
 */
export const first = selector => all(selector)[0] ?? null;
