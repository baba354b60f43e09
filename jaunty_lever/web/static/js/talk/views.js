// @ts-check
// How the scene is looked at: with what is bypassed and the paths of motion, which copies, which values as dots, which
// rows.
import { owned } from "../lib/owned.js";

const query = new URLSearchParams(location.search);

export const [views, setViews] = owned({
  ghost: query.get("ghost") === "1",
  path: query.get("path") === "1",
  // Which copy of each array is shown, how the others are (a fan or a map), and which value stands as dots on stage.
  /** @type {Record<string, number>} */
  copies: JSON.parse(sessionStorage.getItem("copies") ?? "{}"),
  /** @type {"fan" | "map"} */
  spread: sessionStorage.getItem("spread") === "map" ? "map" : "fan",
  /** @type {string | null} */
  dots: null,
  filter: { show: query.get("show") ?? "", named: query.get("named") ?? "" },
  // Seen from above, where a scene has depth.
  /** @type {any} */
  plan: undefined,
});
