// @ts-check
// Canvases on a page: how large they are.

// The boxes of canvases, told when they change: to ask for one makes the browser lay the page out anew, many times a
// frame.
/** @type {WeakMap<Element, number[]>} */
const boxes = new WeakMap();
const observer = new ResizeObserver(all => {
  let other = false;
  for (const { target, contentRect } of all) {
    const box = [Math.round(contentRect.width), Math.round(contentRect.height)];
    const known = boxes.get(target);
    other ||= known !== undefined && (known[0] !== box[0] || known[1] !== box[1]);
    boxes.set(target, box);
  }
  // What was drawn for another size is stretched until it is drawn anew.
  if (other) document.dispatchEvent(new CustomEvent("resized"));
});

/**
 * How wide and how high something is, in CSS pixels.
 * @param {Element} canvas
 */
export function boxOf(canvas) {
  let box = boxes.get(canvas);
  if (!box) {
    box = [canvas.clientWidth, canvas.clientHeight];
    boxes.set(canvas, box);
    observer.observe(canvas);
  }
  return box;
}

/** @param {Element} canvas */
export const wideOf = canvas => boxOf(canvas)[0];
/** @param {Element} canvas */
export const highOf = canvas => boxOf(canvas)[1];

/**
 * Sizes a canvas to its box in real pixels and gives its context in CSS pixels; null where it has no room.
 * @param {any} canvas
 * @returns {CanvasRenderingContext2D | null}
 */
export function fitCanvas(canvas) {
  const ratio = devicePixelRatio || 1;
  const [width, height] = boxOf(canvas);
  if (!width || !height) return null;
  if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
  }
  const context = canvas.getContext("2d");
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  return context;
}
