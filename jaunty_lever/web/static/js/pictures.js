// @ts-check
// Pictures brought in by file or by dropping them on the stage.
import { bench } from "./state.js";
import { refresh } from "./server.js";
import { chooseLayers } from "./choosing.js";
import { say } from "./notes.js";

const KINDS = ["image/png", "image/jpeg", "image/webp", "image/svg+xml", ".json"];

// Send picture files; `at` is a place on the stage, `layer` one whose picture they replace.
export async function bringIn(files, { at = null, layer = null } = {}) {
  const form = new FormData();
  for (const file of files) form.append("files", file);
  form.append("by", bench.tab);
  if (at) form.append("at", JSON.stringify([Math.round(at.x), Math.round(at.y)]));
  if (layer) form.append("layer", layer);
  say(files.length === 1 ? `Bringing in ${files[0].name} …` : `Bringing in ${files.length} files …`);
  let response;
  try {
    response = await fetch(`/api/projects/${bench.project}/scenes/${bench.scene}/pictures`, { method: "POST", body: form });
  } catch {
    return say("The server cannot be reached. Nothing was brought in.", "bad");
  }
  const told = await response.json();
  if (!response.ok) return say(told.message, "bad");
  bench.revision = told.revision;
  for (const problem of told.problems) say(problem, "bad");
  for (const remark of told.remarks) say(remark);
  await refresh();
  if (told.layers.length) await chooseLayers(told.layers);
}

export function pickFile(options = {}) {
  const input = Object.assign(document.createElement("input"), { type: "file", accept: KINDS.join(","), multiple: !options.layer });
  input.addEventListener("change", () => { if (input.files.length) bringIn([...input.files], options); });
  input.click();
}

// Dropped on the stage, a picture lies where it was let go.
export function takeDrops(stage, toScene) {
  const carries = (event) => [...(event.dataTransfer?.types ?? [])].includes("Files");
  stage.addEventListener("dragover", (event) => {
    if (!carries(event)) return;
    event.preventDefault();
    stage.classList.add("takes-drop");
  });
  stage.addEventListener("dragleave", () => stage.classList.remove("takes-drop"));
  stage.addEventListener("drop", (event) => {
    stage.classList.remove("takes-drop");
    if (!carries(event)) return;
    event.preventDefault();
    const files = [...event.dataTransfer.files];
    if (files.length) bringIn(files, { at: toScene(event) });
  });
}
