// @ts-check
// What was asked of the server and what it answered last; what is tried and not kept.
import { owned } from "../lib/owned.js";

export const [answers, setAnswers] = owned({
  /** @type {import("#types").Answer | null} */
  last: null,
  // Curves that a page asks for besides those that its elements name.
  /** @type {{ result: string[], source: string[], awake: string[], each?: string[] }} */
  wanted: { result: [], source: [], awake: [], each: [] },
  // How a page keeps and tries edits when the server is not to keep them (Handover).
  /** @type {any} */
  keeper: null,
  /** @type {any} */
  tried: null,
});
