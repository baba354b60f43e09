// @ts-check
// What is chosen: layers, the last of which the chain shows, and the value whose chain it is.
import { owned } from "../lib/owned.js";
import { root } from "./scene.js";

export const [choice, setChoice] = owned({
  /** @type {string[]} */
  layers: JSON.parse(root.dataset.layers),
  /** @type {string | null} */
  parameter: root.dataset.parameter || null,
});
