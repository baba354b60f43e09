// @ts-check
// The page of tables: a sheet that is edited in place, by keys as by pointing; what follows it; rows shown on the
// stage.
import { hearOthers } from "./links.js";
import { root, scene } from "../talk/scene.js";
import { say, wrongIn } from "../talk/notes.js";

const whole = document.getElementById("tables-whole");
const sheet = /** @type {HTMLDialogElement} */ (document.getElementById("sheet"));
const api = `/api/projects/${scene.project}`;
const main = () => /** @type {HTMLElement | null} */ (whole.querySelector("[data-table]"));
const tableId = () => main()?.dataset.table;

// Colours beside their cells: styles come from scripts alone.
function tint() {
  for (const one of /** @type {NodeListOf<HTMLElement>} */ (whole.querySelectorAll("[data-colour]")))
    one.style.backgroundColor = one.dataset.colour;
}

async function told(response) {
  const body = await response.json().catch(() => ({ message: `The server answered ${response.status}.` }));
  if (!response.ok) throw new Error(body.message ?? body.problems?.join(" ") ?? "That did not work.");
  return body;
}

async function post(url, body) {
  let response;
  try {
    response = await fetch(
      url,
      body instanceof FormData
        ? { method: "POST", body }
        : { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify(body) },
    );
  } catch {
    throw new Error("The server cannot be reached. Nothing was changed; start the server, then do it again.");
  }
  return told(response);
}

// What a field for files is for.
const fileOf = field =>
  [
    field.dataset.bringIn ?? "pictures",
    field.dataset.into ?? "",
    field.closest("th[data-column]")?.dataset.column ?? "",
  ].join(" ");

// The page anew, at the table and the rows it shows, with the cell chosen that was.
async function again(table = tableId(), cell = chosen()) {
  const first = table === tableId() ? main()?.dataset.first : undefined;
  const query = new URLSearchParams({ ...(table ? { table } : {}), ...(first ? { from: first } : {}) });
  const scroll = whole.querySelector(".table-scroll");
  const at = [scroll?.scrollTop ?? 0, scroll?.scrollLeft ?? 0];
  const response = await fetch(`tables/sheet?${query}`);
  const text = await response.text();
  // Whoever is just choosing a file does so for a field that stays.
  const files = new Map([...whole.querySelectorAll("input[type=file]")].map(field => [fileOf(field), field]));
  whole.innerHTML = text;
  for (const field of whole.querySelectorAll("input[type=file]")) {
    const before = files.get(fileOf(field));
    if (before) field.replaceWith(before);
  }
  tint();
  history.replaceState(null, "", `tables?${query}`);
  const place = whole.querySelector(".table-scroll");
  if (place) [place.scrollTop, place.scrollLeft] = at;
  if (cell) cellAt(...cell)?.focus();
}

async function edit(edits, cell = chosen()) {
  try {
    const done = await post(`${api}/edits`, { edits, by: scene.tab });
    await again(tableId(), cell);
    return done;
  } catch (error) {
    say(error.message, "bad");
    return null;
  }
}

async function editAndSay(edits) {
  const done = await edit(edits);
  if (done) say(`${done.label}.`, "plain", { words: "Undo", run: () => step("undo") });
  return done;
}

// Deletes at once what nothing follows; else a sheet says first what does, and what becomes of it.
async function remove(one) {
  let response;
  try {
    response = await fetch("sheets/deleting", {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ edits: [one] }),
    });
    if (response.status === 204) return editAndSay([one]);
    if (!response.ok) await told(response);
    document.getElementById("sheet-body").innerHTML = await response.text();
  } catch (error) {
    return say(response ? error.message : "The server cannot be reached. Nothing was deleted.", "bad");
  }
  sheet.dataset.deletes = JSON.stringify(one);
  sheet.showModal();
}

// Cells: chosen by pointing and by keys, written in place.
const cellAt = (row, place) =>
  /** @type {HTMLElement | null} */ (whole.querySelector(`tr[data-row="${row}"] td[data-place="${place}"]`));
const where = cell => [Number(cell.closest("tr").dataset.row), Number(cell.dataset.place)];
const columnOf = place => /** @type {HTMLElement} */ (whole.querySelectorAll("th[data-column]")[place]).dataset.column;

function chosen() {
  const cell = /** @type {HTMLElement | null} */ (document.activeElement?.closest?.("td[data-place]"));
  return cell ? where(cell) : null;
}

function write(cell, start = null) {
  if (cell.querySelector("textarea")) return;
  const [row, place] = where(cell);
  const before = cell.querySelector("span").textContent;
  const field = document.createElement("textarea");
  field.value = start ?? before;
  field.rows = Math.min(6, field.value.split("\n").length);
  field.setAttribute("aria-label", `Row ${row + 1}`);
  cell.classList.add("is-written");
  cell.append(field);
  field.focus();
  if (start === null) field.select();
  let over = false;
  const end = (keep, next) => {
    if (over) return;
    over = true;
    const value = field.value;
    field.remove();
    cell.classList.remove("is-written");
    if (keep && value !== before) {
      cell.querySelector("span").textContent = value;
      edit([{ kind: "set cells", table: tableId(), row, column: columnOf(place), cells: [[value]] }], next);
    } else if (next) (cellAt(...next) ?? cell).focus();
  };
  field.addEventListener("keydown", event => {
    event.stopPropagation();
    if (event.key === "Escape") end(false, [row, place]);
    else if (event.key === "Tab") {
      event.preventDefault();
      end(true, [row, place + (event.shiftKey ? -1 : 1)]);
    } else if (event.key === "Enter" && !event.altKey) {
      event.preventDefault();
      end(true, [row + (event.shiftKey ? -1 : 1), place]);
    } else if (event.key === "Enter") {
      event.preventDefault();
      field.setRangeText("\n", field.selectionStart, field.selectionEnd, "end");
      field.rows = Math.min(6, field.rows + 1);
    }
  });
  field.addEventListener("blur", () => end(true, null));
}

const MOVES = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] };

whole.addEventListener("keydown", event => {
  const cell = /** @type {HTMLElement | null} */ (/** @type {HTMLElement} */ (event.target).closest("td[data-place]"));
  if (!cell || event.ctrlKey || event.metaKey) return;
  const [row, place] = where(cell);
  if (MOVES[event.key]) {
    event.preventDefault();
    cellAt(row + MOVES[event.key][0], place + MOVES[event.key][1])?.focus();
  } else if (event.key === "Enter" || event.key === "F2") {
    event.preventDefault();
    write(cell);
  } else if (event.key === "Delete" || event.key === "Backspace") {
    event.preventDefault();
    edit([{ kind: "set cells", table: tableId(), row, column: columnOf(place), cells: [[""]] }]);
  } else if (event.key.length === 1 && !event.altKey) {
    event.preventDefault();
    write(cell, event.key);
  }
});

whole.addEventListener("dblclick", event => {
  const cell = /** @type {HTMLElement} */ (event.target).closest("td[data-place]");
  if (cell) write(cell);
});

// Cells from another sheet: lines, and tabs between them.
whole.addEventListener("paste", event => {
  const cell = /** @type {HTMLElement | null} */ (/** @type {HTMLElement} */ (event.target).closest("td[data-place]"));
  if (!cell || cell.querySelector("textarea")) return;
  event.preventDefault();
  const cells = event.clipboardData
    .getData("text/plain")
    .replace(/\r\n?/g, "\n")
    .replace(/\n$/, "")
    .split("\n")
    .map(line => line.split("\t"));
  const [row, place] = where(cell);
  edit([{ kind: "set cells", table: tableId(), row, column: columnOf(place), cells }]);
});

whole.addEventListener("copy", event => {
  const cell = /** @type {HTMLElement | null} */ (/** @type {HTMLElement} */ (event.target).closest("td[data-place]"));
  if (!cell || cell.querySelector("textarea")) return;
  event.preventDefault();
  event.clipboardData.setData("text/plain", cell.querySelector("span").textContent);
});

async function bringIn(file, into) {
  const form = new FormData();
  form.append("file", file);
  form.append("by", scene.tab);
  if (into) form.append("table", into);
  say(`Reading ${file.name} …`);
  try {
    const done = await post(`${api}/tables`, form);
    await again(done.table, null);
    say([`${done.label}.`, ...done.remarks.map(one => `${one}.`)].join(" "));
  } catch (error) {
    say(`${file.name}: ${error.message}`, "bad");
  }
}

// Pictures for a column: those that cells name, and others for cells that are empty.
async function bringPictures(files, column) {
  const form = new FormData();
  for (const file of files) form.append("files", file);
  form.append("by", scene.tab);
  say(files.length === 1 ? `Reading ${files[0].name} …` : `Reading ${files.length} pictures …`);
  try {
    const done = await post(`${api}/tables/${tableId()}/columns/${column}/pictures`, form);
    await again();
    say([`${done.label}.`, ...done.problems].join(" "), done.problems.length ? "bad" : "plain");
  } catch (error) {
    say(error.message, "bad");
  }
}

document.addEventListener("change", event => {
  const target = /** @type {HTMLInputElement} */ (event.target);
  const column = /** @type {HTMLElement | null} */ (target.closest("th[data-column]"))?.dataset.column;
  if (target.dataset.go !== undefined) location.href = target.value;
  else if (target.dataset.bringIn !== undefined && target.files.length) {
    bringIn(target.files[0], target.dataset.into);
    target.value = "";
  } else if (target.dataset.bringPictures !== undefined && target.files.length) {
    bringPictures([...target.files], column);
    target.value = "";
  } else if (target.dataset.renameTable !== undefined)
    edit([{ kind: "rename table", table: tableId(), name: target.value.trim() || "Table" }]);
  else if (target.dataset.renameColumn !== undefined)
    edit([{ kind: "change column", table: tableId(), column, name: target.value.trim() || "Column" }]);
  else if (target.dataset.columnKind !== undefined) {
    const reads = target.value.replace(",", "");
    edit([{ kind: "change column", table: tableId(), column, reads, comma: target.value.endsWith(",") }]);
  }
});

// A file dropped anywhere on the page comes in.
document.addEventListener("dragover", event => event.preventDefault());
document.addEventListener("drop", event => {
  event.preventDefault();
  const [file] = event.dataTransfer.files;
  if (file) bringIn(file, null);
});

async function chooseFollower(column, name, kind) {
  const response = await fetch(`tables/offered?kind=${kind}`);
  document.getElementById("sheet-body").innerHTML = await response.text();
  sheet.querySelector("[data-follow-name]").textContent = name;
  sheet.dataset.column = column;
  sheet.showModal();
}

sheet.addEventListener("input", event => {
  const filter = /** @type {HTMLInputElement} */ (event.target).closest("[data-filter]");
  if (!filter) return;
  const words = /** @type {HTMLInputElement} */ (filter).value.toLowerCase().split(/\s+/).filter(Boolean);
  for (const one of /** @type {NodeListOf<HTMLElement>} */ (sheet.querySelectorAll("[data-follow-this]"))) {
    const text = one.dataset.words.toLowerCase();
    one.parentElement.hidden = !words.every(word => text.includes(word));
  }
  for (const group of /** @type {NodeListOf<HTMLElement>} */ (sheet.querySelectorAll("[data-group]")))
    group.hidden = !group.querySelector("li:not([hidden])");
});

async function step(direction) {
  try {
    const done = await post(`${api}/${direction}`, { by: scene.tab });
    await again();
    say(done.label ? `${direction === "undo" ? "Undone" : "Done again"}: ${done.label}.` : `Nothing to ${direction}.`);
  } catch (error) {
    say(error.message, "bad");
  }
}

document.addEventListener("click", async event => {
  const target = /** @type {HTMLElement} */ (event.target);
  const button = /** @type {HTMLElement | null} */ (
    target.closest(
      "[data-edit], [data-show], [data-let-go], [data-follow], " +
        "[data-follow-this], [data-delete], [data-delete-now], [data-step], [data-close]",
    )
  );
  if (!button) {
    const cell = /** @type {HTMLElement | null} */ (target.closest("td[data-place]"));
    if (cell && !target.closest("textarea")) cell.focus();
    return;
  }
  const { edit: plain, show, letGo, follow, followThis, step: direction } = button.dataset;
  if (direction) await step(direction);
  else if (button.dataset.close !== undefined) sheet.close();
  else if (plain) {
    const done = await editAndSay(JSON.parse(plain));
    if (done && /"add table"/.test(plain))
      await again(
        /** @type {HTMLAnchorElement} */ (whole.querySelector(".tables-list li:last-child a")).href.split("table=")[1],
        null,
      );
  } else if (show !== undefined) await edit([{ kind: "show row", table: tableId(), row: Number(show) }]);
  else if (letGo)
    await edit([{ kind: "let go of column", table: tableId(), scene: button.dataset.in, parameter: letGo }]);
  else if (button.dataset.delete) await remove(JSON.parse(button.dataset.delete));
  else if (button.dataset.deleteNow !== undefined) {
    sheet.close();
    await editAndSay([JSON.parse(sheet.dataset.deletes)]);
  } else if (follow) await chooseFollower(follow, button.dataset.name, button.dataset.kind);
  else if (followThis) {
    try {
      const done = await post(`${api}/edits`, {
        edits: [
          {
            kind: "follow column",
            table: tableId(),
            column: sheet.dataset.column,
            scene: scene.id,
            parameter: followThis,
            takes: button.dataset.takes,
          },
        ],
        by: scene.tab,
      });
      sheet.close();
      await again();
      say(`${done.label}.`);
    } catch (error) {
      wrongIn(sheet, error.message);
    }
  }
});

document.addEventListener("keydown", event => {
  if (/** @type {HTMLElement} */ (event.target).closest("input, textarea, select, dialog")) return;
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
    event.preventDefault();
    step(event.shiftKey ? "redo" : "undo");
  }
});

// Others' changes, and those of other tabs of one's own.
hearOthers(() => {
  if (!whole.querySelector("textarea") && !sheet.open) again();
});

tint();
root.dataset.ready = "";
