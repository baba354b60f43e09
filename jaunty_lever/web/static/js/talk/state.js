// @ts-check
// What the Bench knows, and who wants to hear when it changes.
export const root = document.getElementById("bench");

const query = new URLSearchParams(location.search);

/**
 * @type {{
 *   answer: import("#types").Answer | null, wanted: { result: string[], source: string[], awake: string[], each?:
 * string[] },
 *   eases: Record<string, number[]>, layers: string[], parameter: string | null, frame: number, [name: string]: any,
 * }}
 */
export const bench = {
  project: root.dataset.project,
  scene: root.dataset.scene,
  revision: Number(root.dataset.revision),
  // Which revision the panels show: they are fetched anew after what was kept.
  shown: Number(root.dataset.revision),
  fps: Number(root.dataset.fps),
  length: Number(root.dataset.length),
  width: Number(root.dataset.width),
  height: Number(root.dataset.height),
  layers: JSON.parse(root.dataset.layers),
  parameter: root.dataset.parameter || null,
  // The named eases by their control points, as CSS has them.
  eases: JSON.parse(root.dataset.eases ?? "{}"),
  frame: 0,
  playing: false,
  ghost: query.get("ghost") === "1",
  path: query.get("path") === "1",
  answer: null,
  tab: Math.random().toString(36).slice(2, 12),
  copied: null,
  // While a driver is pointed at: for which parameter, and which layers and levers have one.
  pointing: null,
  // How a page keeps and tries edits when the server is not to keep them (Handover).
  keeper: null,
  tried: null,
  // Curves that a page asks for besides those that its elements name.
  wanted: { result: [], source: [], awake: [], each: [] },
  // Which copy of each array is shown, how the others are (a fan or a map), and which value stands as dots on the
  // stage.
  copies: JSON.parse(sessionStorage.getItem("copies") ?? "{}"),
  spread: sessionStorage.getItem("spread") === "map" ? "map" : "fan",
  dots: null,
  filter: { show: query.get("show") ?? "", named: query.get("named") ?? "" },
};

const listeners = new Map();

export function on(event, listener) {
  if (!listeners.has(event)) listeners.set(event, []);
  listeners.get(event).push(listener);
}

export function emit(event, detail) {
  for (const listener of listeners.get(event) ?? []) listener(detail);
}

// What is chosen lives in the address, so that a reload (or a colleague) finds the same view.
export function remember() {
  const kept = new URLSearchParams();
  for (const layer of bench.layers) kept.append("layer", layer);
  if (bench.parameter) kept.set("parameter", bench.parameter);
  if (bench.ghost) kept.set("ghost", "1");
  if (bench.path) kept.set("path", "1");
  for (const name of ["show", "named"]) if (bench.filter[name]) kept.set(name, bench.filter[name]);
  const text = kept.toString();
  history.replaceState(null, "", `${location.pathname}${text ? `?${text}` : ""}#frame=${Math.floor(bench.frame)}`);
  sessionStorage.setItem("playing", bench.playing ? "yes" : "no");
  sessionStorage.setItem("copies", JSON.stringify(bench.copies));
  sessionStorage.setItem("spread", bench.spread);
}

export function sceneUrl(rest) {
  return `/projects/${bench.project}/scenes/${bench.scene}/${rest}`;
}

export function chosenQuery() {
  const kept = new URLSearchParams();
  for (const layer of bench.layers) kept.append("layer", layer);
  if (bench.parameter) kept.set("parameter", bench.parameter);
  for (const name of ["show", "named"]) if (bench.filter[name]) kept.set(name, bench.filter[name]);
  return kept;
}
