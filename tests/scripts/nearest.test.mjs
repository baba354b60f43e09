// What comes nearest to words that are mistyped.
import assert from "node:assert/strict";
import { test } from "node:test";

import { apart, nearest } from "../../jaunty_lever/web/static/js/lib/nearest.js";

test("letters added, left out, changed and swapped count one each", () => {
  for (const [one, other, steps] of [
    ["", "", 0],
    ["wave", "wave", 0],
    ["wave", "wav", 1],
    ["wigle", "wiggle", 1],
    ["shaek", "shake", 1],
    ["wave", "save", 1],
    ["abc", "", 3],
  ]) {
    assert.equal(apart(one, other), steps);
    assert.equal(apart(other, one), steps);
  }
});

test("what is mistyped finds what was meant, and letters at random find nothing", () => {
  const texts = ["wiggle shake jitter", "wave swing sway", "limit clamp", "hold steps stop motion"];
  assert.deepEqual(nearest(["wigle"], texts), [0]);
  assert.deepEqual(nearest(["shaek"], texts), [0]);
  assert.deepEqual(nearest(["clmap"], texts), [2]);
  assert.deepEqual(nearest(["stpo", "moton"], texts), [3]);
  assert.deepEqual(nearest(["qqqqqq"], texts), []);
  assert.deepEqual(nearest(["x"], texts), []);
});
