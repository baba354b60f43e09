// @ts-check
// Files brought in by choosing them or by dropping them on the stage: pictures, clips, drawings, fonts, palettes,
// tables.
import { choice } from "./choice.js";
import { scene, setScene } from "./scene.js";
import { refresh } from "./server.js";
import { chooseLayers } from "./choosing.js";
import { say, sayHowFar } from "./notes.js";

const PICTURES = ["image/png", "image/jpeg", "image/webp"];
export const FONTS = [".ttf", ".otf", ".woff2"],
  PALETTES = [".gpl", ".json"];
const CLIPS = ["video/mp4", "video/quicktime", "video/webm", ".mkv", ".m4v", "image/gif", "image/apng", "image/webp"];
const MOST_FILES = 1000;
const KINDS = [...PICTURES, ...CLIPS, "image/svg+xml", ".json", ...FONTS, ".gpl", ".csv", ".tsv"];

// Send files; `at` is a place on the stage, `layer` one whose picture they replace, `chosen` texts that are set in a
// font.
export async function bringIn(files, { at = null, layer = null, chosen = choice.layers } = {}) {
  if (files.length > MOST_FILES)
    return say(
      `These are ${files.length.toLocaleString("en")} files; up to ${MOST_FILES.toLocaleString("en")} come in at once.`,
      "bad",
    );
  const form = new FormData(),
    coming = crypto.randomUUID();
  form.append("coming", coming);
  for (const file of files) form.append("files", file);
  form.append("by", scene.tab);
  if (at) form.append("at", JSON.stringify([Math.round(at.x), Math.round(at.y)]));
  if (layer) form.append("layer", layer);
  for (const one of chosen) form.append("chosen", one);
  const end = sayHowFar(
    files.length === 1 ? `Bringing in ${files[0].name} …` : `Bringing in ${files.length} files …`,
    coming,
  );
  let response;
  try {
    response = await fetch(`/api/projects/${scene.project}/scenes/${scene.id}/pictures`, {
      method: "POST",
      body: form,
    });
  } catch {
    return say("The server cannot be reached. Nothing was brought in.", "bad");
  } finally {
    end();
  }
  const told = await response.json();
  if (!response.ok) return say(told.message, "bad");
  setScene({ revision: told.revision });
  for (const problem of told.problems) say(problem, "bad");
  for (const remark of told.remarks) say(remark);
  await refresh();
  if (told.layers.length) await chooseLayers(told.layers);
}

export function pickFile(options = {}) {
  const input = Object.assign(document.createElement("input"), {
    type: "file",
    accept: (options.kinds ?? (options.layer ? (options.clip ? CLIPS : PICTURES) : KINDS)).join(","),
    multiple: !options.layer,
  });
  input.addEventListener("change", () => {
    if (input.files.length) bringIn([...input.files], options).then(options.then);
  });
  input.click();
}

// Dropped on the stage, a picture lies where it was let go.
export function takeDrops(stage, toScene) {
  const carries = event => [...(event.dataTransfer?.types ?? [])].includes("Files");
  stage.addEventListener("dragover", event => {
    if (!carries(event)) return;
    event.preventDefault();
    stage.classList.add("takes-drop");
  });
  stage.addEventListener("dragleave", () => stage.classList.remove("takes-drop"));
  stage.addEventListener("drop", event => {
    stage.classList.remove("takes-drop");
    if (!carries(event)) return;
    event.preventDefault();
    const files = [...event.dataTransfer.files];
    if (files.length) bringIn(files, { at: toScene(event) });
  });
}
