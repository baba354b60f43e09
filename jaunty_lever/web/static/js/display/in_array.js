// @ts-check
// The copies of an array: how many there are, which is drawn when, and where each lies.
import { row } from "../lib/channels.js";

export const countOf = (node, index, element) => Math.round(row(node.channels.count, index, element)[0] ?? 0);

// Which copy is drawn when: by its number, or by depth.
export const inOrder = (node, index, first, k) =>
  node.channels.order ? first + Math.round(row(node.channels.order, index, k)[0]) : k;

// Each copy that there is at a frame, or only one of them: its number among all, its number in this array, and where
// it lies in it.
export function* copiesOf(node, index, element, only = null) {
  const first = element * node.copies,
    count = countOf(node, index, element);
  for (let n = 0; n < count; n += 1) {
    if (only !== null && (n || only >= count)) return;
    const k = only ?? inOrder(node, index, first, first + n) - first;
    const [a, b, c, d] = row(node.channels.turned, index, first + k),
      [e, f] = row(node.channels.moved, index, first + k);
    yield [first + k, k, new DOMMatrix([a, b, c, d, e, f])];
  }
}
