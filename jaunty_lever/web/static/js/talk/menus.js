// @ts-check
// Small menus beside what they belong to, and sheets that float over the page.
import { scene, sceneUrl } from "./scene.js";
import { nearest } from "../lib/nearest.js";
import { say } from "./notes.js";

const place = document.getElementById("menu");

/**
 * A menu at an element, or where a pointer pressed.
 * @param {{ getBoundingClientRect(): DOMRect }} anchor
 * @param {import("#types").MenuLine[]} entries
 * @param {MouseEvent | null} event
 */
export function menu(anchor, entries, event = null) {
  place.replaceChildren();
  for (const entry of entries) place.append(entryOf(entry));
  if (place.matches(":popover-open")) place.hidePopover();
  place.showPopover();
  const box = anchor.getBoundingClientRect();
  const left = event ? event.clientX : box.left;
  const top = event ? event.clientY : box.bottom + 2;
  place.style.left = `${Math.max(4, Math.min(left, innerWidth - place.offsetWidth - 8))}px`;
  const above = (event ? top : box.top) - place.offsetHeight - 2;
  place.style.top = `${top + place.offsetHeight > innerHeight - 4 ? Math.max(4, above) : top}px`;
  place.querySelector("input, button")?.focus();
  place.querySelector("input")?.select();
}

// The lines of a menu that tells a key how it goes on to the next: `now` an ease by name or by its points, `set` what
// a choice does.
export function easesOf(now, set) {
  const points = Array.isArray(now) ? now.join(", ") : null;
  return [
    ...["hold", ...Object.keys(scene.eases)].map(name => ({
      words: name,
      ticked: name === now || (points !== null && scene.eases[name]?.join(", ") === points),
      run: () => set(name),
    })),
    {
      field: "cubic-bezier",
      value: Array.isArray(now) ? now.map(part => Number(part.toFixed(4))).join(", ") : "0.6, 0, 0.2, 1",
      run: text =>
        set(
          text
            .split(/[,\s]+/)
            .filter(Boolean)
            .map(Number),
        ),
    },
  ];
}

/** @param {import("#types").MenuLine} entry */
function entryOf(entry) {
  if (entry.line) return document.createElement("hr");
  if (entry.title) {
    const title = document.createElement("p");
    title.className = "menu-title";
    title.textContent = entry.title;
    return title;
  }
  if (entry.field) {
    const form = document.createElement("form");
    form.className = "menu-field";
    const label = document.createElement("label");
    const words = document.createElement("span");
    words.textContent = entry.field;
    const input = document.createElement("input");
    input.value = entry.value ?? "";
    input.setAttribute("aria-label", entry.field);
    label.append(words, input);
    const button = document.createElement("button");
    button.className = "button small primary";
    button.textContent = entry.button ?? "Set";
    form.append(label, button);
    form.addEventListener("submit", event => {
      event.preventDefault();
      place.hidePopover();
      entry.run(input.value);
    });
    return form;
  }
  const button = document.createElement("button");
  button.type = "button";
  button.role = "menuitem";
  button.className = `menu-entry${entry.danger ? " is-danger" : ""}${entry.ticked ? " is-ticked" : ""}`;
  button.textContent = entry.words;
  button.title = entry.help ?? "";
  button.disabled = Boolean(entry.disabled);
  if (entry.title2) button.title = entry.title2;
  button.addEventListener("click", () => {
    place.hidePopover();
    entry.run();
  });
  return button;
}

place.addEventListener("keydown", event => {
  if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
  if (event.target.matches("input")) return;
  event.preventDefault();
  const all = [...place.querySelectorAll("button, input")];
  const next = all.indexOf(document.activeElement) + (event.key === "ArrowDown" ? 1 : -1);
  all[(next + all.length) % all.length]?.focus();
});

const sheetPlace = document.getElementById("sheet");
const body = document.getElementById("sheet-body");

// While a sheet is on its way, what is typed is meant for it and not for the page.
function holdKeys() {
  let text = "",
    gone = false;
  const hold = event => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    if (event.key === "Escape") gone = true;
    else if (event.key === "Backspace") text = text.slice(0, -1);
    else if (event.key.length === 1) text += event.key;
  };
  addEventListener("keydown", hold, true);
  document.body.classList.add("is-waiting");
  return () => {
    removeEventListener("keydown", hold, true);
    document.body.classList.remove("is-waiting");
    return gone ? null : text;
  };
}

/** Show a sheet: true once it is shown, undefined where the server has none to show, false where it could not be had.
 *  @param {Record<string, unknown> | null} sent what the server is told, where that is more than a query */
export async function sheet(name, query = {}, sent = null) {
  const asked = new URLSearchParams();
  for (const [key, value] of Object.entries(query)) for (const one of [value].flat()) asked.append(key, one);
  const letGo = holdKeys();
  let answer, typed;
  try {
    const told = sent
      ? { method: "POST", body: JSON.stringify(sent), headers: { "content-type": "application/json" } }
      : { headers: { "hx-request": "true" } };
    const response = await fetch(`${sceneUrl(`sheets/${name}`)}?${asked}`, told);
    answer = response.status === 204 ? {} : response.ok ? { page: await response.text() } : await response.json();
  } catch {
    answer = { message: "The server does not answer. Is it still running?" };
  } finally {
    typed = letGo();
  }
  if (answer.message) say(answer.message, "bad");
  if (answer.message || typed === null) return false;
  if (answer.page === undefined) return undefined;
  body.innerHTML = answer.page;
  htmx.process(body);
  sheetPlace.dataset.sheet = name;
  if (!sheetPlace.open) sheetPlace.showModal();
  const first = body.querySelector("[autofocus]");
  first?.focus();
  first?.select?.();
  if (typed && first?.matches("input[type=search], input[type=text]")) {
    first.value = typed;
    first.dispatchEvent(new Event("input", { bubbles: true }));
  }
  return true;
}

export function closeSheet() {
  if (sheetPlace.open) sheetPlace.close();
}

sheetPlace.addEventListener("close", () => body.replaceChildren());
sheetPlace.addEventListener("pointerdown", event => {
  if (event.target === sheetPlace) closeSheet();
});
document.addEventListener("click", event => {
  if (event.target.closest?.("#sheet [data-close]")) closeSheet();
});

// Lists in sheets: typing narrows them, Enter takes the first, arrows walk.
document.addEventListener("input", event => {
  const search = event.target.closest?.("[data-filter]");
  if (!search) return;
  const words = search.value.toLowerCase().split(/\s+/).filter(Boolean);
  const entries = [...search.closest("#sheet-body").querySelectorAll(search.dataset.filter)];
  const texts = entries.map(entry => (entry.dataset.words ?? entry.textContent).toLowerCase());
  const fits = texts.map(text => words.every(word => text.includes(word)));
  const shown = fits.some(Boolean);
  // Where nothing fits, what comes nearest is offered.
  const near = shown || !words.length ? [] : nearest(words, texts);
  entries.forEach((entry, k) => {
    entry.hidden = !(fits[k] && (words.length || !entry.classList.contains("minor"))) && !near.includes(k);
  });
  for (const group of document.querySelectorAll("#sheet-body [data-entries]"))
    group.hidden = !group.querySelector(".entry:not([hidden])");
  const nothing = document.querySelector("#sheet-body [data-nothing]");
  if (!nothing) return;
  nothing.hidden = shown;
  for (const [name, there] of [
    ["nearest", near.length > 0],
    ["none", near.length === 0],
  ]) {
    const told = nothing.querySelector(`[data-${name}]`);
    if (told) told.hidden = !there;
  }
});
document.addEventListener("keydown", event => {
  const inside = event.target.closest?.("#sheet-body");
  if (!inside || event.target.closest("form")) return;
  const entries = [...inside.querySelectorAll(".entry, .found")].filter(entry => !entry.closest("[hidden]"));
  const at = entries.indexOf(document.activeElement);
  // A search field would only empty itself.
  if (event.key === "Escape") {
    event.preventDefault();
    closeSheet();
  } else if (event.key === "Enter" && event.target.matches("[data-filter]")) {
    event.preventDefault();
    entries[0]?.click();
  } else if (event.key === "ArrowDown") {
    event.preventDefault();
    entries[Math.min(at + 1, entries.length - 1)]?.focus();
  } else if (event.key === "ArrowUp") {
    event.preventDefault();
    (at > 0 ? entries[at - 1] : inside.querySelector("[data-filter]"))?.focus();
  }
});
