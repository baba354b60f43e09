// @ts-check
// The sheet in which values are led by a gauge: what each has now and what it will have, tried on the stage meanwhile.
import { clock } from "../talk/clock.js";
import { sheet } from "../talk/menus.js";
import { keepForm, putBack, tryForm } from "../talk/tried.js";
import { figure, typedNumber, unitBehind } from "../lib/figures.js";
import { fresh } from "../lib/fresh.js";

/** @returns {HTMLFormElement | null} */
const formNow = () => document.querySelector("#sheet form[data-tie-form]");
/** @returns {HTMLElement[]} */
const rowsOf = form => [...form.querySelectorAll(".tie-row")];
const partOf = (row, name) => row.querySelector(`[name=${name}]`);
const wayOf = row => partOf(row, "way")?.value ?? "towards";

/** The sheet of what follows a gauge. */
export const openSteering = gauge => sheet("tie-gauge", { gauge, frame: Math.floor(clock.frame) }).then(tellRows);

// What a number becomes where the gauge is 1.
const LED = {
  towards: (_, goal) => goal,
  by: (now, goal) => now + goal,
  times: (now, goal) => now * goal,
  plays: (now, goal) => now + goal,
};

// Between what numbers lie on the copies; once, where that is the same for all components.
function said(all) {
  const each = all.map(([a, b]) => [figure(Math.min(a, b), 1), figure(Math.max(a, b), 1)]);
  const words = each.map(([low, high]) => (low === high ? low : `${low} … ${high}`));
  return [...(words.every(one => one === words[0]) && all[0][0] !== all[0][1] ? [words[0]] : words)].join(", ");
}

/**
 * What a value has now, and what it will have where the gauge is 1; nothing where that is only known to the server.
 * @param {HTMLElement} row
 */
function toldOf(row) {
  const now = JSON.parse(row.dataset.now),
    typed = partOf(row, "to").value;
  if (!Array.isArray(now)) return now === "" ? "" : `${now} → ${typed}`;
  const goals = typed.split(/[,;]/).map(part => typedNumber(part));
  if (goals.some(goal => !Number.isFinite(goal)) || ![1, now.length].includes(goals.length)) return "";
  const led = now.map((ends, k) => ends.map(one => LED[wayOf(row)](one, goals[goals.length > 1 ? k : 0])));
  return `${said(now)} → ${said(led)}${unitBehind(row.dataset.unit)}`;
}

function tellRows() {
  const form = formNow();
  for (const row of form ? rowsOf(form) : []) row.querySelector("[data-tie-told]").textContent = toldOf(row);
}

function edit(form) {
  const ticked = rowsOf(form).filter(row => partOf(row, "value").checked);
  if (!ticked.length) throw new Error("Tick at least one value that follows it.");
  const by = said => Object.fromEntries(ticked.map(row => [partOf(row, "value").value, said(row)]));
  return {
    kind: "tie to gauge",
    gauge: form.dataset.tieForm,
    values: by(row => partOf(row, "to").value),
    ways: by(wayOf),
    parts: by(row => partOf(row, "part")?.value ?? "x"),
    id: form.dataset.id ?? (form.dataset.id = fresh("m")),
  };
}

document.addEventListener("input", event => {
  const row = event.target.closest?.("[data-tie-form] .tie-row");
  if (!row) return;
  // Whoever types a goal, or chooses a way, means it.
  if (!event.target.matches("[name=value]")) partOf(row, "value").checked = true;
  tellRows();
  tryForm(formNow(), edit);
});

keepForm("form[data-tie-form]", edit);
putBack("tie-gauge");
