// @ts-check
// The Shelf: stills that move when pointed at, dialogs, and dropped files.
import "../lib/own_size.js";
import { say, tellForm, wrongIn } from "../talk/notes.js";

const FRAMES = 24;
// How many strips are fetched at once: a browser gives a server six connections, and whoever goes on to a page needs
// one.
const AT_ONCE = 2;
const strips = new Map();
const waiting = [];
let fetching = 0;

function fetchNext() {
  while (fetching < AT_ONCE && waiting.length) {
    const { address, resolve } = waiting.shift();
    const image = new Image();
    image.src = address;
    fetching += 1;
    // One that did not come may come when it is pointed at.
    image
      .decode()
      .then(
        () => resolve(image),
        () => {
          strips.delete(address);
          resolve(null);
        },
      )
      .finally(() => {
        fetching -= 1;
        fetchNext();
      });
  }
}

// What is pointed at comes before what waits.
async function stripOf(still, first = false) {
  const address = still.dataset.strip;
  if (!strips.has(address)) {
    strips.set(
      address,
      new Promise(resolve => {
        waiting.push({ address, resolve });
      }),
    );
    fetchNext();
  }
  const place = first ? waiting.findIndex(one => one.address === address) : -1;
  if (place > 0) waiting.unshift(...waiting.splice(place, 1));
  return strips.get(address);
}

function show(still, image, frame) {
  still.classList.toggle("is-blank", !image);
  if (!image) return;
  const canvas = still.querySelector("canvas");
  const context = canvas.getContext("2d");
  const width = Number(still.dataset.width),
    height = image.height;
  const scale = Math.min(canvas.width / width, canvas.height / height);
  context.clearRect(0, 0, canvas.width, canvas.height);
  context.drawImage(
    image,
    frame * width,
    0,
    width,
    height,
    (canvas.width - width * scale) / 2,
    (canvas.height - height * scale) / 2,
    width * scale,
    height * scale,
  );
}

function settle() {
  for (const still of document.querySelectorAll("[data-still]:not([data-asked])")) {
    still.dataset.asked = "yes";
    stripOf(still).then(image => {
      show(still, image, 0);
      still.dataset.shown = "yes";
    });
  }
}

let moving = null;
function stop() {
  if (!moving) return;
  clearInterval(moving.timer);
  stripOf(moving.still).then(
    (
      still => image =>
        show(still, image, 0)
    )(moving.still),
  );
  moving = null;
}
async function start(still) {
  if (moving?.still === still) return;
  stop();
  const image = await stripOf(still, true);
  if (!image) return;
  const count = Math.round(image.width / Number(still.dataset.width));
  let frame = 0;
  moving = {
    still,
    timer: setInterval(() => {
      frame = (frame + 1) % Math.min(count, FRAMES);
      show(still, image, frame);
      still.dataset.frame = frame;
    }, 110),
  };
}
document.addEventListener("pointerover", event => {
  const still = event.target.closest?.("[data-still]");
  if (still) start(still);
  else stop();
});
document.addEventListener("focusin", event => {
  const still = event.target.querySelector?.("[data-still]");
  if (still) start(still);
});

const rename = document.getElementById("rename");
const fresh = document.getElementById("new-project");

function openNew(project) {
  const form = fresh.querySelector("form");
  form.reset();
  wrongIn(form);
  form.querySelector("[data-project-name]").hidden = Boolean(project);
  form.querySelector("[data-title]").textContent = project ? "New scene" : "New project";
  form.setAttribute("hx-post", project ? `/projects/${project}/scenes` : "/projects");
  fresh.showModal();
  form.querySelector(project ? "[name=name]" : "[name=project]").focus();
}

document.addEventListener("click", event => {
  const target = event.target.closest?.("[data-open], [data-close], [data-rename], [data-new-scene]");
  if (!target) return;
  if (target.dataset.open) openNew(null);
  else if (target.dataset.newScene) openNew(target.dataset.newScene);
  else if (target.dataset.rename) {
    const form = rename.querySelector("form");
    form.setAttribute("hx-post", target.dataset.rename);
    form.elements.name.value = target.dataset.name;
    wrongIn(form);
    rename.showModal();
    form.elements.name.select();
  } else target.closest("dialog")?.close();
});

// What the server says is wrong stands in the form; everything else stays as it was.
document.addEventListener("htmx:before:swap", event => {
  const ctx = event.detail?.ctx;
  const status = ctx?.response?.status ?? 200;
  if (status >= 400 && !ctx.text?.includes("problems")) event.preventDefault();
});
document.addEventListener("htmx:after:request", event => {
  const ctx = event.detail?.ctx;
  if (!tellForm(event)) {
    if (ctx?.sourceElement?.closest?.("dialog#rename")) rename.close();
    else if (ctx?.response?.status === 200) document.getElementById("problems").replaceChildren();
  }
  if (ctx?.sourceElement?.matches?.(".import")) ctx.sourceElement.reset();
});
document.addEventListener("htmx:after:swap", () => {
  settle();
  const toast = document.querySelector("[data-toast]");
  if (toast) setTimeout(() => toast.remove(), 12000);
});

// Whoever is here for the first time is offered a first rig, once.
const KNOWN = "been here";
const visit = document.getElementById("first-visit");
visit.hidden = Boolean(localStorage.getItem(KNOWN));
visit.addEventListener("click", async event => {
  const target = /** @type {Element} */ (event.target);
  if (target.matches("[data-not-now]")) {
    localStorage.setItem(KNOWN, "yes");
    visit.hidden = true;
  }
  if (!target.matches("[data-first-rig]")) return;
  const scene = { project: "First rig", size: "1280x720", fps: "30", length: "300" };
  const made = await fetch("/projects", { method: "POST", body: new URLSearchParams(scene) });
  const to = made.headers.get("hx-redirect");
  if (!made.ok || !to) {
    say("It could not be made. Try New project.", "bad");
    return;
  }
  localStorage.setItem(KNOWN, "yes");
  location.href = `${to}${to.includes("?") ? "&" : "?"}steps`;
});

// Not before the page is there: a browser takes what is begun earlier for a part of it.
if (document.readyState === "complete") settle();
else window.addEventListener("load", settle);
document.body.dataset.ready = "yes";
