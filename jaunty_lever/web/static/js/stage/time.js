// @ts-check
// The playhead: playing in real time, the ruler, and the frame in figures.
import { remember } from "../talk/address.js";
import { clock, setClock } from "../talk/clock.js";
import { emit, on } from "../talk/events.js";
import { root, scene } from "../talk/scene.js";
import { grip } from "../lib/dragging.js";
import { boxOf, fitCanvas, wideOf } from "../lib/canvases.js";
import { colours } from "../lib/charts.js";
import { typedNumber } from "../lib/figures.js";
import { drawn } from "./pace.js";
import { isAside } from "./painter.js";
import { all, first } from "../lib/places.js";

const ruler = document.getElementById("ruler");
const frameInput = document.getElementById("frame");
const seconds = document.getElementById("seconds");
const playIcon = document.getElementById("play-icon");
const playButton = document.querySelector(".play");

let began = 0;
let beganAt = 0;

export function setFrame(frame, keepPlaying = false) {
  const last = scene.length - 1;
  setClock({ frame: Math.min(Math.max(frame, 0), last) });
  if (clock.playing && !keepPlaying) {
    began = performance.now();
    beganAt = clock.frame;
  }
  show();
  emit("frame");
  if (!clock.playing) soonRemember();
}

let remembering = 0;
function soonRemember() {
  clearTimeout(remembering);
  remembering = setTimeout(remember, 250);
}

export function play(yes = !clock.playing) {
  setClock({ playing: yes });
  began = performance.now();
  beganAt = clock.frame >= scene.length - 1 ? 0 : clock.frame;
  playIcon.setAttribute("href", playIcon.getAttribute("href").replace(/#.*/, yes ? "#pause" : "#play"));
  playButton.setAttribute("aria-label", yes ? "Pause" : "Play");
  playButton.classList.toggle("is-playing", yes);
  if (!yes) {
    setClock({ frame: Math.floor(clock.frame) });
    emit("frame");
  }
  remember();
  if (yes) requestAnimationFrame(tick);
}

// The clock decides the frame, so a slow frame is dropped rather than the motion slowed.
function tick(now) {
  if (!clock.playing) return;
  const passed = (Math.max(0, now - began) / 1000) * scene.fps;
  const frame = Math.floor((beganAt + passed) % scene.length);
  if (frame !== clock.frame) {
    setClock({ frame: frame });
    show();
    emit("frame");
    // What is painted aside tells when it is.
    if (!isAside()) drawn(now);
  }
  requestAnimationFrame(tick);
}

// What the ruler shows of the scene, as far as values have a say in it.
const ruled = () => `${Math.floor(clock.frame)} ${scene.length} ${scene.fps}`;
let shown = "";

function show() {
  const frame = Math.floor(clock.frame);
  shown = ruled();
  if (document.activeElement !== frameInput) frameInput.value = String(frame);
  seconds.textContent = `${(frame / scene.fps).toFixed(2)} s`;
  ruler.setAttribute("aria-valuenow", String(frame));
  drawRuler();
}

const PAD = 10;
const span = () => wideOf(ruler) - 2 * PAD;
// Where frames stand on the ruler: the whole scene, or what a page shows of it.
let scale = {
  xOf: frame => PAD + (frame / Math.max(1, scene.length - 1)) * span(),
  frameAt: x => Math.round(((x - PAD) / span()) * (scene.length - 1)),
  each: () => scene.length / span(),
  from: () => 0,
  to: () => scene.length - 1,
};
const xOf = frame => scale.xOf(frame);
const frameAt = x => scale.frameAt(x);

export function shareScale(other) {
  scale = other;
}

// The least pleasant number of frames (1, 2, 5, 10 …) that is not under `least`.
export function frameStep(least) {
  for (const step of [1, 2, 5, 10, 15, 20, 30, 50, 60, 100, 120, 150, 300, 600, 1500, 3000, 6000])
    if (step >= least) return step;
  return 12000;
}

const stepFor = count => frameStep(scale.each() * count);

export function drawRuler() {
  const context = fitCanvas(ruler);
  if (!context) return;
  const [width, height] = boxOf(ruler);
  context.clearRect(0, 0, width, height);
  context.font = "10px 'Martian Mono'";
  context.textAlign = "center";
  const label = stepFor(56),
    tick = stepFor(7);
  context.strokeStyle = colours.rule;
  context.fillStyle = colours.faded;
  context.lineWidth = 1;
  context.beginPath();
  for (let f = Math.ceil(scale.from() / tick) * tick; f <= scale.to(); f += tick) {
    const x = Math.round(xOf(f)) + 0.5;
    context.moveTo(x, height - (f % label ? 5 : 10));
    context.lineTo(x, height);
  }
  context.stroke();
  for (let f = Math.ceil(scale.from() / label) * label; f <= scale.to(); f += label)
    if (xOf(f) > 4 && xOf(f) < width - 14) context.fillText(String(f), xOf(f), 13);
  const chain = first("[data-chain]");
  for (const station of all("[data-windows]")) {
    for (const [start, end] of JSON.parse(station.dataset.windows)) {
      context.fillStyle = "rgb(31 111 120 / 0.18)";
      context.fillRect(xOf(start), height - 16, Math.max(2, xOf(end) - xOf(start)), 5);
    }
  }
  // Where copies that swing out of step are all together.
  context.fillStyle = colours.sea;
  for (const frame of chain?.dataset.meets ? JSON.parse(chain.dataset.meets) : []) {
    const at = Math.round(Math.min(xOf(frame), width - 4)) + 0.5;
    context.beginPath();
    context.moveTo(at, height - 1);
    context.lineTo(at - 4, height - 9);
    context.lineTo(at + 4, height - 9);
    context.fill();
  }
  for (const [frame] of chain ? JSON.parse(chain.dataset.keys) : []) {
    context.beginPath();
    context.arc(xOf(frame), height - 7, 4, 0, 7);
    context.fillStyle = colours.sheet;
    context.strokeStyle = colours.brass;
    context.lineWidth = 1.6;
    context.fill();
    context.stroke();
  }
  const x = Math.round(xOf(Math.floor(clock.frame))) + 0.5;
  context.strokeStyle = context.fillStyle = colours.brass;
  context.lineWidth = 1.5;
  context.beginPath();
  context.moveTo(x, 16);
  context.lineTo(x, height);
  context.stroke();
  context.beginPath();
  context.roundRect(x - 3, 15, 6, 10, 3);
  context.fill();
}

ruler.addEventListener("pointerdown", event => {
  const move = e => setFrame(frameAt(e.offsetX));
  if (grip(ruler, event, { move, end: () => {} })) move(event);
});

frameInput.addEventListener("keydown", event => {
  if (event.key === "Enter") {
    frameInput.blur();
  } else if (event.key === "Escape") {
    frameInput.value = String(Math.floor(clock.frame));
    frameInput.blur();
  }
});
frameInput.addEventListener("blur", () => {
  const typed = typedNumber(frameInput.value);
  if (Number.isFinite(typed)) setFrame(Math.round(typed));
  frameInput.value = String(Math.floor(clock.frame));
});
frameInput.addEventListener("focus", () => {
  // What is typed is meant for where one is now.
  if (clock.playing) play(false);
  frameInput.select();
});

on("values", () => {
  if (clock.frame > scene.length - 1) setFrame(scene.length - 1, true);
  else if (shown !== ruled()) show();
});
on("panels", show);
new ResizeObserver(drawRuler).observe(ruler);

export function startTime() {
  const kept = Number(new URLSearchParams(location.hash.slice(1)).get("frame"));
  setFrame(Number.isFinite(kept) ? kept : 0);
  const calm = matchMedia("(prefers-reduced-motion: reduce)").matches;
  const reloaded = location.hash.includes("frame=");
  // Only on Handover a scene plays as it is opened.
  if (reloaded ? sessionStorage.getItem("playing") === "yes" : !calm && root.dataset.moves) play(true);
}
