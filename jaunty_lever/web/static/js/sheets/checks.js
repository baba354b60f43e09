// @ts-check
// What the program notices: the count in the head, and the list that mends.
import { on } from "../talk/events.js";
import { scene } from "../talk/scene.js";
import { commitEdits, step } from "../talk/server.js";
import { closeSheet, sheet } from "../talk/menus.js";
import { complainAt, say } from "../talk/notes.js";
import { setFrame } from "../stage/time.js";
import { chooseLayers, chooseParameter } from "../talk/choosing.js";

const place = document.getElementById("faults");
let seen = null;
let waiting = 0;

function show(count, grave) {
  place.classList.toggle("is-grave", grave > 0);
  place.hidden = false;
  place.classList.toggle("is-clear", count === 0);
  place.textContent = count ? `! ${count}` : "✓";
  place.title = count ? `${count} ${count === 1 ? "thing" : "things"} to look at` : "Nothing to mend";
  place.setAttribute("aria-label", place.title);
}

async function count() {
  const { revision } = scene;
  const response = await fetch(`/api/projects/${scene.project}/scenes/${scene.id}/checks`).catch(() => null);
  if (response?.status !== 200) return;
  const found = await response.json();
  if (revision !== scene.revision) return;
  const [done, total] = (response.headers.get("x-looked-at") ?? "1/1").split("/").map(Number);
  // The rest comes as news; what nobody brought is asked for now and then.
  clearTimeout(waiting);
  if (done < total) waiting = setTimeout(count, 10_000);
  else seen = revision;
  // While it is being looked for, nothing found yet is no word of praise.
  if (done === total || found.length)
    show(found.length, found.filter(one => ["fault", "formula", "flashing"].includes(one.kind)).length);
}

on("looked", news => {
  if (news.scene !== scene.id || news.revision !== scene.revision) return;
  count();
  renew();
});

// Once all is quiet.
on("values", answer => {
  if (answer.faults.length) show(answer.faults.length, answer.faults.length);
  clearTimeout(waiting);
  if (seen !== answer.revision) waiting = setTimeout(count, 700);
});

/** What closes a value at the scene's end, to choose from. */
export const makeLoop = parameter => sheet("make-loop", { parameter });

export const openChecks = () => sheet("checks");

const dialog = /** @type {HTMLDialogElement} */ (document.getElementById("sheet"));
const showsChecks = () => dialog.open && dialog.querySelector(".perfect") !== null;

// The open sheet shows what is known by now, and mends what is kept now: whoever stands on something in it stays there.
let renewing = 0;
function renew() {
  if (!showsChecks()) return;
  clearTimeout(renewing);
  renewing = setTimeout(async () => {
    if (!showsChecks()) return;
    const at = dialog.contains(document.activeElement) ? document.activeElement.textContent.trim() : "";
    const top = dialog.scrollTop;
    await openChecks();
    dialog.scrollTop = top;
    if (at) [...dialog.querySelectorAll("button")].find(one => one.textContent.trim() === at)?.focus();
  }, 150);
}

on("panels", renew);

document.addEventListener("click", async event => {
  const mend = event.target.closest?.("[data-mend]");
  const lead = event.target.closest?.("[data-check-at]");
  const loop = event.target.closest?.("[data-make-loop]");
  const closing = event.target.closest?.("[data-closing]");
  if (loop) await makeLoop(loop.dataset.makeLoop);
  else if (closing) {
    try {
      const told = await commitEdits(JSON.parse(closing.dataset.closing), closing.querySelector("strong").textContent);
      closeSheet();
      say(`${told.label}.`, "plain", { words: "Undo", run: () => step("undo") });
    } catch (error) {
      complainAt(closing, error.message);
    }
  }
  if (mend) {
    try {
      const told = await commitEdits(JSON.parse(mend.dataset.mend), mend.textContent.trim());
      say(`${told.label}.`);
      await sheet("checks");
    } catch (error) {
      say(error.message, "bad");
    }
  } else if (lead) {
    document.getElementById("sheet").close();
    setFrame(Number(lead.dataset.frame));
    const at = lead.dataset.checkAt;
    if (at.includes(".")) chooseParameter(at);
    else if (at !== scene.id) chooseLayers([at]);
  }
});
