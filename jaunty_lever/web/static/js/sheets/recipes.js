// @ts-check
// Recipes: the shelf, trying one on layers while it moves, and saving one's own.
import { choice } from "../talk/choice.js";
import { clock } from "../talk/clock.js";
import { scene } from "../talk/scene.js";
import { requestFrames, withScene } from "../talk/server.js";
import { menu, sheet } from "../talk/menus.js";
import { say, wrongIn } from "../talk/notes.js";
import { keepForm, putBack } from "../talk/tried.js";
import { play } from "../stage/time.js";
import { chooseLayers } from "../talk/choosing.js";

const formNow = () => document.querySelector("#sheet form[data-recipe-form]");
let salt = "";
let wasPlaying = false;

const sheetNow = () => document.getElementById("sheet");

export const openRecipes = () => sheet("recipes");

function recipeEdit(form) {
  const recipe = JSON.parse(form.querySelector("[data-recipe-data]").textContent);
  const parts = {};
  for (const part of recipe.parts ?? []) {
    const ticked = [...form.querySelectorAll(`input[name="${part.id}"]:checked`)].map(box => box.value);
    const chosen = form.querySelector(`select[name="${part.id}"]`)?.value;
    parts[part.id] = chosen ? [chosen] : ticked;
    if (!parts[part.id].length) throw new Error(`Choose a layer for: ${part.name}.`);
  }
  return { kind: "apply recipe", recipe, parts, salt };
}

function tryIt() {
  const form = formNow();
  if (!form) return;
  try {
    const edit = recipeEdit(form);
    wrongIn(sheetNow());
    requestFrames(withScene([edit]));
    if (!clock.playing && !matchMedia("(prefers-reduced-motion: reduce)").matches) play(true);
  } catch (error) {
    wrongIn(sheetNow(), error.message);
    requestFrames([]);
  }
}

document.addEventListener("click", async event => {
  const chosen = event.target.closest?.("[data-recipe]");
  const forget = event.target.closest?.("[data-forget-recipe]");
  if (chosen) {
    salt = `r-${Math.random().toString(36).slice(2, 10)}`;
    wasPlaying = clock.playing;
    await sheet("recipe", { recipe: chosen.dataset.recipe, layer: choice.layers });
    tryIt();
  } else if (forget) {
    const response = await fetch(`/api/recipes/${forget.dataset.forgetRecipe}/delete`, { method: "POST" });
    if (!response.ok) wrongIn(sheetNow(), (await response.json()).message);
    else sheet("recipes");
  } else if (event.target.closest?.("[data-bring-recipe]")) {
    const input = Object.assign(document.createElement("input"), { type: "file", accept: ".json,application/json" });
    input.addEventListener("change", async () => {
      const body = new FormData();
      body.append("file", input.files[0]);
      const response = await fetch("/api/recipes", { method: "POST", body });
      const told = await response.json();
      if (!response.ok) wrongIn(sheetNow(), told.problems?.length ? told.problems.join(" ") : told.message);
      else {
        await sheet("recipes");
        say(`Recipe ${told.name} brought in.`);
      }
    });
    input.click();
  }
});

document.addEventListener("change", event => {
  if (event.target.closest?.("form[data-recipe-form]")) tryIt();
});

keepForm("form[data-recipe-form]", recipeEdit, edit => {
  const layers = Object.values(edit.parts).flat();
  if (layers.length) chooseLayers(layers);
});
putBack("recipe", () => {
  if (!wasPlaying && clock.playing) play(false);
});

// A chain, or layers, onto the shelf.
export function saveRecipe(anchor, what, name) {
  menu(anchor, [
    { title: "Save as a recipe, to be put on other layers" },
    {
      field: "Recipe named",
      value: name,
      button: "Save",
      run: async given => {
        const response = await fetch(`/api/projects/${scene.project}/scenes/${scene.id}/recipes`, {
          method: "POST",
          headers: { "content-type": "application/json" },
          body: JSON.stringify({ name: given, ...what }),
        });
        const told = await response.json();
        if (!response.ok) say(told.problems?.length ? told.problems.join(" ") : told.message, "bad");
        else say(`Recipe ${told.name} is on the shelf.`, "plain", { words: "Recipes", run: openRecipes });
      },
    },
  ]);
}
