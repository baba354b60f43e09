// Where keys land: the scripts' half of the table of cases.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { landing } from "../../jaunty_lever/web/static/js/lib/keys.js";

const cases = JSON.parse(readFileSync(new URL("keys.json", import.meta.url)));

test("keys land where the server puts them", () => {
  for (const {
    key: [frame, values],
    way,
    to,
  } of cases)
    assert.deepEqual(landing({ frame, values }, way), { frame: to[0], values: to[1] });
});
