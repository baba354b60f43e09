// @ts-check
// What a project keeps at hand: fonts that texts are set in, and palettes that colours are taken from.
import { choice } from "../talk/choice.js";
import { commitEdits } from "../talk/server.js";
import { setEdit } from "../chain/fields.js";
import { closeSheet, sheet } from "../talk/menus.js";
import { say } from "../talk/notes.js";
import { FONTS, PALETTES, pickFile } from "../talk/pictures.js";

const bad = error => say(error.message, "bad");

// A text is set in a font of the project, or in a shipped one again.
function choose(layer, font, family) {
  const edits = [{ kind: "choose font", layers: [layer], font: font || null }];
  if (!font) edits.push(setEdit(`${layer}.font`, { value: family }));
  return commitEdits(edits).catch(bad);
}

document.addEventListener("change", event => {
  const select = event.target.closest?.("[data-typeface]");
  if (!select) return;
  const option = select.selectedOptions[0],
    [layer] = select.dataset.typeface.split(".");
  if (option.dataset.allFonts === undefined) return choose(layer, option.dataset.font, option.value);
  for (const one of select.options) one.selected = one.defaultSelected;
  sheet("fonts", { layer });
});

document.addEventListener("click", event => {
  const target = event.target.closest?.(
    "[data-font-of], [data-remove-font], [data-bring-font], " +
      "[data-take-colour], [data-remove-palette], [data-bring-palette]",
  );
  if (!target) return;
  const { dataset } = target;
  const layer = document.querySelector("#sheet [data-font-of]")?.getAttribute("data-font-of") ?? "";
  if (dataset.fontOf) choose(dataset.fontOf, dataset.font, dataset.family).then(closeSheet);
  else if (dataset.removeFont)
    commitEdits([{ kind: "remove font", font: dataset.removeFont }])
      .then(() => sheet("fonts", { layer }))
      .catch(bad);
  else if (dataset.bringFont !== undefined) {
    closeSheet();
    pickFile({ kinds: FONTS, chosen: layer ? [layer] : choice.layers });
  } else if (dataset.takeColour) {
    commitEdits([setEdit(dataset.for, { text: dataset.takeColour })])
      .then(closeSheet)
      .catch(bad);
  } else {
    const parameter = document.querySelector("#sheet [data-colours-for]")?.getAttribute("data-colours-for") ?? "";
    const again = () => sheet("colours", { parameter });
    if (dataset.removePalette)
      commitEdits([{ kind: "remove palette", palette: dataset.removePalette }])
        .then(again)
        .catch(bad);
    else pickFile({ kinds: PALETTES, chosen: [], then: again });
  }
});

// Inline styles are not allowed on the page; scripts may set them.
new MutationObserver(() => {
  for (const one of document.querySelectorAll("#sheet [data-take-colour]"))
    one.style.background = one.dataset.takeColour;
}).observe(document.getElementById("sheet-body"), { childList: true });
