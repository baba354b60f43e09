// @ts-check
// What hands are at: what is pointed at, what was copied, what is being renamed.
import { owned } from "../lib/owned.js";

export const [hands, setHands] = owned({
  // While a driver is pointed at: for which parameter, and which layers and levers have one.
  /** @type {any} */
  pointing: null,
  /** @type {any} */
  copied: null,
  /** @type {any} */
  renaming: undefined,
});
