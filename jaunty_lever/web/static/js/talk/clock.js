// @ts-check
// The playhead: at which frame it stands, and whether it runs.
import { owned } from "../lib/owned.js";

export const [clock, setClock] = owned({ frame: 0, playing: false });
