// @ts-check
// The reference pages: figures beside their sliders, and back to how the example was.
import { withUnit } from "../lib/figures.js";

const words = (value, unit) => withUnit([Number(value)], unit, 4);

function show(form) {
  for (const output of form.querySelectorAll("output"))
    output.textContent = words(output.previousElementSibling.value, output.dataset.unit);
}

document.addEventListener("input", event => {
  const form = event.target.closest?.(".knobs");
  if (form) show(form);
});

document.addEventListener("reset", event => {
  const form = event.target.closest?.(".knobs");
  if (!form) return;
  setTimeout(() => {
    show(form);
    form.dispatchEvent(new Event("input", { bubbles: true }));
  });
});
