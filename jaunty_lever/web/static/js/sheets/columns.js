// @ts-check
// The sheet in which a value takes on a column of a table: each copy its row, or the cell of the row that is shown.
import { commitEdits } from "../talk/server.js";
import { closeSheet, sheet } from "../talk/menus.js";
import { wrongIn } from "../talk/notes.js";
import { fresh } from "../lib/fresh.js";

/** The columns that a value may follow. */
export const openColumns = parameter => sheet("column-of", { parameter });

document.addEventListener("click", event => {
  const button = event.target.closest?.("[data-take-column]");
  if (!button) return;
  const [table, column] = button.dataset.takeColumn.split("/");
  const parameter = button.closest("[data-column-of]").dataset.columnOf;
  commitEdits([{ kind: "follow column", table, column, parameter, takes: button.dataset.takes, id: fresh("m") }])
    .then(closeSheet)
    .catch(error => wrongIn(document.getElementById("sheet"), error.message));
});
