// @ts-check
// The Export page: which use is chosen, and from scene to scene.
import "../sheets/forms.js";
import { hearOthers } from "./links.js";
import { root } from "../talk/scene.js";

// What will come of it is told of the scene as it is now.
hearOthers(() => {
  const form = document.getElementById("export-form");
  if (form) htmx.trigger(form, "change");
});

root.dataset.ready = "";

document.addEventListener("click", event => {
  const use = event.target.closest?.("[data-use]");
  if (!use) return;
  for (const one of document.querySelectorAll("[data-use]")) one.toggleAttribute("aria-current", false);
  use.setAttribute("aria-current", "true");
  const address = new URL(location.href);
  address.searchParams.set("for", use.dataset.use);
  history.replaceState(null, "", address);
});

document.addEventListener("change", event => {
  const each = event.target.closest?.("[name=each]");
  // Before anything else reads the form: names of files are told by the columns of the table that is chosen.
  if (each?.value) each.form.elements.naming.value = each.selectedOptions[0].dataset.naming;
  const go = event.target.closest?.("[data-go]");
  if (go) location.href = go.value;
});

// A picture of a row that cannot be made says why in its place.
document.addEventListener(
  "error",
  async event => {
    const picture = /** @type {HTMLImageElement} */ (event.target);
    if (!(picture instanceof HTMLImageElement) || picture.dataset.contact === undefined) return;
    const figure = picture.closest("figure");
    try {
      const told = await (await fetch(picture.src)).json();
      figure.classList.add("is-wrong");
      figure.querySelector("figcaption").textContent = told.message;
    } catch {
      /* the picture stays empty */
    }
  },
  true,
);

document.addEventListener("click", event => {
  const more = event.target.closest?.("[data-contact-from]");
  if (!more) return;
  const form = more.closest("form");
  const query = new URLSearchParams([...new FormData(form)].map(([name, value]) => [name, String(value)]));
  query.set("first", more.dataset.contactFrom);
  htmx.ajax("GET", `contact?${query}`, { target: "#contact" });
});
