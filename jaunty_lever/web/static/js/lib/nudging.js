// @ts-check
// Steps by keys, however fast they come: added up while they do, shown at once, and kept as one when the hand rests.

const RESTS = 450;

/** Those that are under way. @type {Set<() => void>} */
const under = new Set();

function endAll() {
  for (const end of [...under]) end();
}

// Whatever else is done comes after what was nudged.
addEventListener("pointerdown", endAll, true);
addEventListener("pagehide", endAll);
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
  let timer = 0;
  const end = () => {
    clearTimeout(timer);
    under.delete(end);
    const [x, y] = sum;
    sum = null;
    keep(x, y);
  };
  return (x, y) => {
    sum = sum ? [sum[0] + x, sum[1] + y] : [x, y];
    under.add(end);
    show(...sum);
    clearTimeout(timer);
    timer = setTimeout(end, RESTS);
  };
}
