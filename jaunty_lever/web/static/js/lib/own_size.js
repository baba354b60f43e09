// @ts-check
// Where a size of one's own is typed, that is the size that is chosen.
document.addEventListener("input", event => {
  const field = /** @type {HTMLInputElement} */ (event.target);
  if (field.closest?.(".own-size")) field.form.elements.namedItem("size").value = "own";
});
