// @ts-check
// What is told beside the clock: how many frames a second are drawn where they are fewer than there should be, and
// how many frames of clips are on their way.
import { clock } from "../talk/clock.js";
import { on } from "../talk/events.js";
import { scene } from "../talk/scene.js";
import { missing } from "../display/clip.js";
import { exposedAt, exposureTold } from "./exposure.js";
import { lateAside } from "./painter.js";

const place = document.getElementById("pace");
const FAIR = 0.92;
let times = [],
  slow = "",
  since = 0;

function tell() {
  if (!place) return;
  const late = missing() + lateAside();
  // What comes at once need not be told.
  if (!late) since = 0;
  else if (!since) since = performance.now();
  const told = late && performance.now() - since > 250;
  place.textContent = told
    ? `${late} ${late === 1 ? "frame of a clip" : "frames of clips"} on the way`
    : slow || exposureTold();
  place.hidden = !place.textContent;
}

// A frame has been drawn while playing. Frames that there was no time for are left out, so that the motion keeps its
// speed.
export function drawn(now) {
  const gap = times.length && now - times[times.length - 1] > 1500;
  times = gap ? [now] : [...times.filter(one => now - one < 2000), now];
  const span = (now - times[0]) / 1000;
  if (span < 1) return;
  const rate = (times.length - 1) / span,
    wanted = Math.min(scene.fps, 60);
  exposedAt(rate / wanted);
  slow =
    rate < wanted * FAIR ? `${Math.round(rate)} of ${Math.round(scene.fps * 100) / 100} frames a second are shown` : "";
  tell();
}

on("painted", () => {
  drawn(performance.now());
  document.dispatchEvent(new CustomEvent("played"));
});
on("clips", tell);
on("frame", () => {
  if (!clock.playing && slow) {
    slow = "";
    times = [];
  }
  tell();
});
