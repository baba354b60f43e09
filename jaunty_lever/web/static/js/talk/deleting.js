// @ts-check
// Deleting: at once where nothing listens to what goes; else a sheet says first what does, and what becomes of it.
import { clock } from "./clock.js";
import { scene } from "./scene.js";
import { commitEdits, onEach, step, withScene } from "./server.js";
import { closeSheet, sheet } from "./menus.js";
import { say } from "./notes.js";

/** What is waiting to be deleted, and who wants to hear of it. */
let waiting = null;

/**
 * Delete by some edits. Resolves to what was done, or to null when it was left there; rejects when it cannot be done.
 * @param {Array<Record<string, unknown>>} edits
 * @param {boolean} each whether they are of one layer and meant for all that are chosen
 */
export async function deleteBy(edits, each = false) {
  const frame = Math.floor(clock.frame);
  const framed = edits.map(edit => ({ scene: scene.id, ...edit, frame }));
  const whole = withScene(each ? onEach(framed) : framed);
  const shown = await sheet("deleting", {}, { edits: whole, frame });
  if (shown === false) return null;
  if (shown === undefined) return commitEdits(whole);
  return new Promise((resolve, reject) => {
    waiting = { edits: whole, resolve, reject };
  });
}

/** The same, and say so, with a way back. */
export function deleteAndSay(edits) {
  return deleteBy(edits).then(told => {
    if (told) say(`${told.label}.`, "plain", { words: "Undo", run: () => step("undo") });
    return told;
  });
}

document.addEventListener("click", event => {
  if (!event.target.closest?.("[data-delete-now]") || !waiting) return;
  const { edits, resolve, reject } = waiting;
  waiting = null;
  closeSheet();
  commitEdits(edits).then(resolve, reject);
});

document.getElementById("sheet").addEventListener("close", () => {
  // The click on Delete has taken what was waiting by now.
  waiting?.resolve(null);
  waiting = null;
});
