// @ts-check
// One drag at a time, by one pointer, from its press to its end: a mouse, a pen or a finger.
/** @type {number | null} */
let held = null;

/**
 * Follow a press on `target`: `move(event)` while it is held, then `end(true)` when it is let go, or `end(false)`
 * when it breaks off: by Escape, or because the system took the pointer away. Other pointers have no say meanwhile.
 * False when something is dragged already.
 * @param {any} target
 * @param {any} event
 * @param {{ move: (event: any) => void, end: (commit: boolean) => void }} hand
 */
export function grip(target, event, { move, end }) {
  if (held !== null) return false;
  held = event.pointerId;
  const mine = (/** @type {PointerEvent} */ e) => e.pointerId === event.pointerId;
  const moved = (/** @type {PointerEvent} */ e) => {
    if (mine(e)) move(e);
  };
  const finish = (/** @type {boolean} */ commit) => {
    if (held === null) return;
    held = null;
    for (const [name, listener] of listeners) target.removeEventListener(name, listener);
    document.removeEventListener("keydown", escape, true);
    end(commit);
  };
  const escape = (/** @type {KeyboardEvent} */ e) => {
    if (e.key !== "Escape") return;
    e.stopPropagation();
    finish(false);
  };
  /** @type {[string, (e: PointerEvent) => void][]} */
  const listeners = [
    ["pointermove", moved],
    [
      "pointerup",
      e => {
        if (mine(e)) finish(true);
      },
    ],
    [
      "pointercancel",
      e => {
        if (mine(e)) finish(false);
      },
    ],
    // What is dragged may be swapped away under the hand. Moved to another place of the page, it is taken hold of anew.
    [
      "lostpointercapture",
      e => {
        if (!mine(e)) return;
        if (target.isConnected) target.setPointerCapture(e.pointerId);
        else finish(false);
      },
    ],
  ];
  for (const [name, listener] of listeners) target.addEventListener(name, listener);
  document.addEventListener("keydown", escape, true);
  target.setPointerCapture(event.pointerId);
  return true;
}

// Whether something is being dragged now.
export const dragging = () => held !== null;
