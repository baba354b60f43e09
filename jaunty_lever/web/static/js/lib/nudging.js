// @ts-check
// Steps by keys while Alt is held, however fast they come: added up, shown at once, and kept as one when it is let go.

/** Those that are under way. @type {Set<() => void>} */
const under = new Set();

function endAll() {
  for (const end of [...under]) end();
}

// Whatever else is done comes after what was nudged.
addEventListener("pointerdown", endAll, true);
addEventListener("pagehide", endAll);
addEventListener("blur", endAll);
addEventListener("keyup", event => event.key === "Alt" && endAll(), true);
addEventListener(
  "keydown",
  event => {
    if (!/^(Arrow|Alt|Shift)/.test(event.key)) endAll();
  },
  true,
);

/**
 * @param {(x: number, y: number) => void} show what so many steps would come to
 * @param {(x: number, y: number) => void} keep it
 * @returns {(x: number, y: number) => void} one step more
 */
export function nudging(show, keep) {
  /** @type {[number, number] | null} */
  let sum = null;
  const end = () => {
    under.delete(end);
    const whole = sum;
    sum = null;
    if (whole) keep(...whole);
  };
  return (x, y) => {
    sum = sum ? [sum[0] + x, sum[1] + y] : [x, y];
    under.add(end);
    show(...sum);
  };
}
