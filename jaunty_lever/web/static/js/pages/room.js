// @ts-check
// How the Bench shares its room: a chain pulled taller or folded, and a stage that fills the window.
import { grip } from "../lib/dragging.js";
import { root } from "../talk/scene.js";
import { drawCurves } from "../chain/curves.js";
import { drawWindows } from "../chain/windows.js";

const pull = document.getElementById("pull");
const FOLDED = 36,
  LEAST = 150;
// What suits the window, as the style has it.
const STANDARD = () => Math.round(document.querySelector(".bottom").getBoundingClientRect().height);
const most = () => Math.max(LEAST, innerHeight - 44 - 46 - 120);

let height = Number(localStorage.getItem("chain height")) || 0;

// 0 is the height that suits the window.
function setHeight(to) {
  height = to && to < LEAST - 40 ? FOLDED : to ? Math.round(Math.min(Math.max(to, LEAST), most())) : 0;
  if (height) root.style.setProperty("--chain", `${height}px`);
  else root.style.removeProperty("--chain");
  root.classList.toggle("is-folded", height === FOLDED);
  pull.setAttribute("aria-valuenow", String(height || STANDARD()));
  drawCurves();
  drawWindows();
}

function keepHeight() {
  if (height) localStorage.setItem("chain height", String(height));
  else localStorage.removeItem("chain height");
}

pull.addEventListener("pointerdown", event => {
  if (event.button !== 0) return;
  const from = height || STANDARD(),
    was = height;
  grip(pull, event, {
    move: e => {
      if (Math.abs(e.clientY - event.clientY) > 2 || height !== was) setHeight(from + event.clientY - e.clientY);
    },
    end: commit => {
      if (!commit) setHeight(was);
      keepHeight();
    },
  });
});

pull.addEventListener("dblclick", () => {
  setHeight(height === FOLDED ? 0 : FOLDED);
  keepHeight();
});

pull.addEventListener("keydown", event => {
  const now = height || STANDARD();
  const to = {
    ArrowUp: now === FOLDED ? LEAST : now + 20,
    ArrowDown: now - 20,
    Home: FOLDED,
    End: most(),
    Enter: now === FOLDED ? 0 : FOLDED,
  }[event.key];
  if (to === undefined) return;
  event.preventDefault();
  setHeight(to && to < LEAST ? FOLDED : to);
  keepHeight();
});

// The stage fills the window, and gives it back.
export function fill() {
  const filled = root.classList.toggle("is-filled");
  document.querySelector("[data-do=fill]").setAttribute("aria-pressed", filled);
}

document.addEventListener("keydown", event => {
  if (
    event.key === "Escape" &&
    !event.defaultPrevented &&
    root.classList.contains("is-filled") &&
    !document.querySelector("dialog[open]")
  )
    fill();
});

addEventListener("resize", () => {
  if (height > most()) setHeight(height);
});
setHeight(height);
