// @ts-check
// Sheets whose form is tried on the stage while it is filled in: kept when it is sent, put back when it is left.
import { closeSheet } from "./menus.js";
import { say, wrongIn } from "./notes.js";
import { commitEdits, requestFrames, withScene } from "./server.js";

/**
 * Show what a form would come to; as it was where that makes no sense yet.
 * @param {HTMLFormElement | null} form
 * @param {(form: HTMLFormElement) => object} edit raises what is wrong
 */
export function tryForm(form, edit) {
  if (!form) return;
  wrongIn(form);
  try {
    requestFrames(withScene([edit(form)]));
  } catch {
    requestFrames([]);
  }
}

/**
 * Keep what a form comes to when it is sent, and close its sheet; what is wrong stands in it.
 * @param {string} selector the form's
 * @param {(form: HTMLFormElement) => any} edit raises what is wrong
 * @param {(edit: any, form: HTMLFormElement) => void} [after] once it is kept
 */
export function keepForm(selector, edit, after = () => {}) {
  document.addEventListener("submit", async event => {
    const form = event.target.closest?.(selector);
    if (!form) return;
    event.preventDefault();
    try {
      const made = edit(form);
      const told = await commitEdits([made]);
      closeSheet();
      say(`${told.label}.`);
      after(made, form);
    } catch (error) {
      wrongIn(form, error.message);
    }
  });
}

/**
 * Leaving a sheet puts back what was tried in it.
 * @param {string} name the sheet's
 * @param {() => void} [also]
 */
export function putBack(name, also = () => {}) {
  const place = document.getElementById("sheet");
  place?.addEventListener("close", () => {
    if (place.dataset.sheet !== name) return;
    requestFrames([]);
    also();
  });
}
