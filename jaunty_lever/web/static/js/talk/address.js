// @ts-check
// What is chosen and how it is looked at lives in the address, so that a reload (or a colleague) finds the same view.
import { choice } from "./choice.js";
import { clock } from "./clock.js";
import { views } from "./views.js";

export function chosenQuery() {
  const kept = new URLSearchParams();
  for (const layer of choice.layers) kept.append("layer", layer);
  if (choice.parameter) kept.set("parameter", choice.parameter);
  for (const name of ["show", "named"]) if (views.filter[name]) kept.set(name, views.filter[name]);
  return kept;
}

export function remember() {
  const kept = chosenQuery();
  if (views.ghost) kept.set("ghost", "1");
  if (views.path) kept.set("path", "1");
  const text = kept.toString();
  history.replaceState(null, "", `${location.pathname}${text ? `?${text}` : ""}#frame=${Math.floor(clock.frame)}`);
  sessionStorage.setItem("playing", clock.playing ? "yes" : "no");
  sessionStorage.setItem("copies", JSON.stringify(views.copies));
  sessionStorage.setItem("spread", views.spread);
}
