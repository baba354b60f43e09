// @ts-check
// From one page of a scene to another: what is chosen and the playhead go along.
import { bench, chosenQuery, remember } from "./state.js";

document.addEventListener("click", (event) => {
  const link = event.target.closest?.("[data-page]");
  if (!link) return;
  remember();
  link.href = `${link.href.split(/[?#]/)[0]}?${chosenQuery()}#frame=${Math.floor(bench.frame)}`;
});
