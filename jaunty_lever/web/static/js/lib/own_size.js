// @ts-check
// Where a size of one's own is typed, that is the size that is chosen.
document.addEventListener("input", event => {
  const field = /** @type {HTMLInputElement} */ (event.target);
  const size = /** @type {HTMLSelectElement | null | undefined} */ (field.form?.elements.namedItem("size"));
  if (size && field.closest(".own-size")) size.value = "own";
});
