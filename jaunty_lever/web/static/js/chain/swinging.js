// @ts-check
// Copies that go round at paces of their own: the sheet in which that is asked for, tried on the stage meanwhile.
import { sheet } from "../talk/menus.js";
import { keepForm, putBack, tryForm } from "../talk/tried.js";
import { fresh } from "../lib/fresh.js";
import { typedNumber } from "../lib/figures.js";

/** @returns {HTMLFormElement | null} */
const formNow = () => document.querySelector("#sheet form[data-swing-form]");

/** The kinds of modifiers that go round. */
export const GOES_ROUND = ["wave", "figure", "rate"];

/** The sheet for a modifier that goes round on the copies of an array. */
export const openSwinging = modifier => sheet("swing-out", { modifier }).then(() => tryIt());

function edit(form) {
  const number = name => typedNumber(form.elements[name].value);
  const [least, most] = [number("least"), number("most")];
  if (![least, most].every(Number.isInteger)) throw new Error("Both are whole numbers of rounds, such as 12 and 40.");
  const id = form.dataset.id ?? (form.dataset.id = fresh("m"));
  const others = form.elements.by.value === "step" ? { step: most } : { most };
  return { kind: "swing out of step", modifier: form.dataset.swingForm, least, ...others, id };
}

const tryIt = () => tryForm(formNow(), edit);

document.addEventListener("input", event => {
  if (event.target.closest?.("form[data-swing-form]")) tryIt();
});

keepForm("form[data-swing-form]", edit);
putBack("swing-out");
