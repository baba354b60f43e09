// @ts-check
// What drawing needs of where it happens: a page, or a worker that paints for one.
export const around = {
  // Where pictures and clips are fetched.
  project: "",
  // Called when something has come that was waited for: "frame" to be drawn again, "clips" to be told.
  /** @type {(what: string) => void} */
  changed: () => {},
};

/**
 * A canvas that is not shown.
 * @param {number} width
 * @param {number} height
 * @returns {any}
 */
export const canvasOf = (width, height) =>
  typeof document === "undefined"
    ? new OffscreenCanvas(width, height)
    : Object.assign(document.createElement("canvas"), { width, height });
