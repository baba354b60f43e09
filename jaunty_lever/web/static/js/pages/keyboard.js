// @ts-check
// Keys that every page with a playhead shares: undo, frames, and a page's own table of single keys.
import { entered } from "../lib/entered.js";
import { clock } from "../talk/clock.js";
import { setFrame } from "../stage/time.js";

// What was reached by Tab, so that Space presses it; whatever was pressed by hand has had its press.
let reached = null,
  tabbing = false;
document.addEventListener(
  "keydown",
  event => {
    tabbing = event.key === "Tab";
  },
  true,
);
document.addEventListener(
  "pointerdown",
  () => {
    reached = null;
    tabbing = false;
  },
  true,
);
document.addEventListener("focusin", event => {
  if (tabbing) reached = event.target;
});
// A sheet gives the focus back to where it was: nobody went there to press it again.
document.addEventListener(
  "close",
  () => {
    reached = null;
    tabbing = false;
  },
  true,
);

const TYPED =
  "textarea, [contenteditable], .formula-pad, " +
  "input:not([type=checkbox], [type=radio], [type=range], [type=color], [type=button])";

// Whether the focused thing has a use of its own for a key.
function needs(target, key) {
  if (entered.has(target)) return !/^[a-zA-Z? ]$/.test(key);
  if (!target?.closest || target.closest(TYPED)) return true;
  if (target.matches("select")) return key !== "?" && key !== "/";
  if (target.matches("input[type=range], [role=slider]")) return /^(Arrow|Home|End|Page)/.test(key);
  if (target.matches("input[type=radio]")) return key === " " || key.startsWith("Arrow");
  if (target.matches("input[type=checkbox], input[type=color]")) return key === " ";
  return key === " " && target === reached && target.matches("button, summary, a, [role=switch], [role=button]");
}

// `first` sees the keys before all others and says whether it took them.
/**
 * @param {Record<string, any>} actions
 * @param {Record<string, string>} table which action a key stands for
 * @param {(event: KeyboardEvent, control: boolean) => boolean | void} first what a page does with a key itself
 */
export function wireKeys(actions, table, first = () => false) {
  document.addEventListener("keydown", event => {
    // A slider, a field or a box has taken the key already.
    if (event.defaultPrevented) return;
    const typing = event.target.closest?.(TYPED);
    const control = event.ctrlKey || event.metaKey;
    if (
      control &&
      !event.altKey &&
      event.key.toLowerCase() === "z" &&
      !(typing && typing.value !== typing.defaultValue)
    ) {
      event.preventDefault();
      actions[event.shiftKey ? "redo" : "undo"]();
      return;
    }
    if (
      needs(event.target, event.key) ||
      document.querySelector("dialog[open]") ||
      document.querySelector("#menu:popover-open")
    )
      return;
    if (first(event, control)) {
      event.preventDefault();
      return;
    }
    if (control) return;
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (way && !event.altKey) {
      event.preventDefault();
      setFrame(Math.floor(clock.frame) + way * (event.shiftKey ? 10 : 1));
      return;
    }
    const name = table[event.key];
    if (!name) return;
    event.preventDefault();
    actions[name]();
  });
}
