// @ts-check
// Chosen layers set beside one another: in one line, evenly spread, or in the middle of the stage.
import { choice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { menu } from "../talk/menus.js";
import { complainAt, say } from "../talk/notes.js";
import { commitEdits } from "../talk/server.js";

const ALIGNED = [
  ["x", "start", "Left edges", "At the left edge"],
  ["x", "middle", "Middles across", "In the middle across"],
  ["x", "end", "Right edges", "At the right edge"],
  ["y", "start", "Top edges", "At the top edge"],
  ["y", "middle", "Middles up and down", "In the middle up and down"],
  ["y", "end", "Bottom edges", "At the bottom edge"],
];

/** @param {HTMLElement} anchor */
export function alignMenu(anchor) {
  const layers = choice.layers;
  if (!layers.length) return say("Choose the layers to align first; Ctrl-click and Shift-click choose several.");
  const many = layers.length;
  const make = edit =>
    commitEdits([{ ...edit, layers, frame: Math.floor(clock.frame) }]).catch(error =>
      complainAt(anchor, error.message),
    );
  const align = (axis, to, stage) => () => make({ kind: "align layers", axis, to, stage });
  const spread = axis => () => make({ kind: "spread layers", axis });
  menu(anchor, [
    { title: many > 1 ? `${many} layers, as they stand at this frame` : "On the stage, as it stands at this frame" },
    { words: "Centre on the stage", run: align("both", "middle", true) },
    ...(many > 1
      ? [
          { line: true },
          { title: "In one line" },
          ...ALIGNED.map(([axis, to, words]) => ({ words, run: align(axis, to, false) })),
          { line: true },
          { words: "Spread evenly across", disabled: many < 3, run: spread("x") },
          { words: "Spread evenly up and down", disabled: many < 3, run: spread("y") },
        ]
      : []),
    { line: true },
    ...(many > 1 ? [{ title: "On the stage" }] : []),
    ...ALIGNED.map(([axis, to, , words]) => ({ words, run: align(axis, to, true) })),
  ]);
}
