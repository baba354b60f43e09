// @ts-check
// What is chosen: layers in the list and on the stage, and the parameter whose chain is shown.
import { remember } from "./address.js";
import { choice, setChoice } from "./choice.js";
import { refresh } from "./server.js";
import { say } from "./notes.js";

export function chooseLayers(layers) {
  setChoice({ layers: layers });
  const last = layers.at(-1);
  if (last) {
    // The same value of another layer stays in view, so that layers can be compared by clicking through them.
    const field = choice.parameter?.split(".").slice(1).join(".") ?? "";
    // Of an array, where its copies stand.
    const kind = document.querySelector(`[data-layer="${CSS.escape(last)}"]`)?.dataset.kind;
    // Of an array, where its copies stand; of a camera, what carries it round.
    const first = { array: "copy_position", camera: "around", light: "position" }[kind];
    const kept = first ?? (["position", "rotation", "scale", "opacity", "pivot"].includes(field) ? field : "rotation");
    if (!choice.parameter?.startsWith(`${last}.`)) setChoice({ parameter: `${last}.${kept}` });
  }
  remember();
  return refresh();
}

export function chooseParameter(parameter) {
  setChoice({ parameter: parameter });
  const owner = parameter.split(".")[0];
  if (document.querySelector(`[data-layer="${owner}"]`) && !choice.layers.includes(owner))
    setChoice({ layers: [owner] });
  remember();
  return refresh();
}

// What follows something else is not pulled by hand: says what it follows, and leads there.
export function tellDriven(what, driven) {
  const driver = driven.dataset.choose;
  say(
    `${what} follows ${driven.textContent}: pull that, or cut the link.`,
    "plain",
    driver ? { words: "Go there", run: () => chooseParameter(driver) } : null,
  );
}
