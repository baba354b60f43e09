// @ts-check
// Which scene of which project this page shows, at which revision, and how large and long it is.
import { owned } from "../lib/owned.js";

export const root = document.getElementById("bench");
const { dataset } = root;

export const [scene, setScene] = owned({
  project: dataset.project,
  id: dataset.scene,
  revision: Number(dataset.revision),
  // Which revision the panels show: they are fetched anew after what was kept.
  shown: Number(dataset.revision),
  fps: Number(dataset.fps),
  length: Number(dataset.length),
  width: Number(dataset.width),
  height: Number(dataset.height),
  // The named eases by their control points, as CSS has them.
  /** @type {Record<string, number[]>} */
  eases: JSON.parse(dataset.eases ?? "{}"),
  // Which of the pages that are open this one is.
  tab: Math.random().toString(36).slice(2, 12),
});

/** @param {string} rest */
export function sceneUrl(rest) {
  return `/projects/${scene.project}/scenes/${scene.id}/${rest}`;
}
