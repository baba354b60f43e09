// @ts-check
// What is chosen: layers in the list and on the stage, and the parameter whose chain is shown.
import { bench, remember } from "./state.js";
import { refresh } from "./server.js";

export function chooseLayers(layers) {
  bench.layers = layers;
  const last = layers.at(-1);
  if (last) {
    // The same value of another layer stays in view, so that layers can be compared by clicking through them.
    const field = bench.parameter?.split(".").slice(1).join(".") ?? "";
    // Of an array, where its copies stand.
    const array = document.querySelector(`[data-layer="${CSS.escape(last)}"]`)?.dataset.kind === "array";
    const kept = ["position", "rotation", "scale", "opacity", "pivot"].includes(field) && !array ? field : array ? "copy_position" : "rotation";
    if (!bench.parameter?.startsWith(`${last}.`)) bench.parameter = `${last}.${kept}`;
  }
  remember();
  return refresh();
}

export function chooseParameter(parameter) {
  bench.parameter = parameter;
  const owner = parameter.split(".")[0];
  if (document.querySelector(`[data-layer="${owner}"]`) && !bench.layers.includes(owner)) bench.layers = [owner];
  remember();
  return refresh();
}
