// @ts-check
// From one page of a scene to another: what is chosen and the playhead go along.
import { chosenQuery, remember } from "../talk/address.js";
import { clock } from "../talk/clock.js";
import { scene } from "../talk/scene.js";
import { say } from "../talk/notes.js";
import { hear } from "../lib/news.js";

document.addEventListener("click", event => {
  const link = event.target.closest?.("[data-page]");
  if (!link) return;
  remember();
  link.href = `${link.href.split(/[?#]/)[0]}?${chosenQuery()}#frame=${Math.floor(clock.frame)}`;
});

// Hear of the project's changes that others make, and other tabs of one's own, and say what they are.
export function hearOthers(heard) {
  let known = null;
  hear(scene.project, (kind, news) => {
    if (kind !== "change") return;
    const fresh = known !== null && news.revision !== known;
    known = news.revision;
    if (!fresh || news.by === scene.tab) return;
    if (news.label && news.by) say(`In another tab: ${news.label}`);
    heard();
  });
}
