// Numbers in words and out of them: the scripts' half of the table of cases.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import {
  figure,
  hexOf,
  spoken,
  turningWords,
  typedNumber,
  typedStep,
  withUnit,
} from "../../jaunty_lever/web/static/js/lib/figures.js";

const cases = JSON.parse(readFileSync(new URL("figures.json", import.meta.url)));

test("numbers are shown as the server shows them", () => {
  for (const [value, digits, words] of cases.shown) assert.equal(figure(value, digits), words, `${value}`);
});

test("plain numbers and ratios are read as the server reads them", () => {
  for (const [text, value] of cases.typed) {
    const read = typedNumber(text);
    if (value === null) assert.ok(Number.isNaN(read), text);
    else assert.equal(read, value, text);
  }
});

test("units stand behind numbers", () => {
  assert.equal(withUnit([1.5, -2], "px"), "1.5, −2 px");
  assert.equal(withUnit([90], "°"), "90°");
  assert.equal(spoken([12.345, 3.333], "Hz"), "12.3, 3.33 /s");
  assert.equal(hexOf([1, 0.5, 0, 1]), "#ff8000");
  assert.equal(turningWords(-12.34), "12.3 turns a minute, backwards");
  assert.equal(turningWords(0.001), "");
});

test("what is typed to act on what is there is read as the server reads it", () => {
  for (const [text, step] of cases.steps) assert.deepEqual(typedStep(text), step, text);
});
