// Keys that every page with a playhead shares: undo, frames, and a page's own table of single keys.
import { bench } from "./state.js";
import { setFrame } from "./time.js";

// `first` sees the keys before all others and says whether it took them.
export function wireKeys(actions, table, first = () => false) {
  document.addEventListener("keydown", (event) => {
    // A slider, a field or a box has taken the key already.
    if (event.defaultPrevented) return;
    const typing = event.target.closest?.("input, textarea, select, [contenteditable], .formula-pad");
    const control = event.ctrlKey || event.metaKey;
    if (control && !event.altKey && event.key.toLowerCase() === "z" && !(typing && typing.value !== typing.defaultValue)) {
      event.preventDefault();
      actions[event.shiftKey ? "redo" : "undo"]();
      return;
    }
    if (typing || document.querySelector("dialog[open]") || document.querySelector("#menu:popover-open")) return;
    if (first(event, control)) { event.preventDefault(); return; }
    if (control) return;
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (way && !event.altKey) {
      event.preventDefault();
      setFrame(Math.floor(bench.frame) + way * (event.shiftKey ? 10 : 1));
      return;
    }
    const name = table[event.key];
    if (!name || (event.key === " " && event.target.closest?.("button, summary, [role=switch]"))) return;
    event.preventDefault();
    actions[name]();
  });
}
