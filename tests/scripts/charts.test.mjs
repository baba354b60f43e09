// The arithmetic of drawn curves.
import assert from "node:assert/strict";
import { test } from "node:test";
import { lanes, line, reach } from "../../jaunty_lever/web/static/js/lib/charts.js";

const channel = (...rows) => ({ rows: rows.length, width: rows[0].length, data: Float32Array.from(rows.flat()) });
const BOX = { x: 0, y: 0, width: 100, height: 80 };

// A context that keeps what it is told.
function paper() {
  const points = [];
  return {
    points,
    beginPath() {},
    stroke() {},
    moveTo: (x, y) => points.push([x, y]),
    lineTo: (x, y) => points.push([x, y]),
  };
}

test("the reach of a component is taken over all channels that are there", () => {
  assert.deepEqual(reach([channel([1, 10], [5, -10]), null, channel([-2, 0])], 0), [-2, 5]);
  assert.deepEqual(reach([channel([1, 10], [5, -10])], 1), [-10, 10]);
  assert.deepEqual(reach([undefined], 0), [0, 1]);
});

test("lanes lie one under the other, with the same scale", () => {
  const made = lanes([channel([0, 0], [10, 100])], 2, BOX);
  assert.equal(made.length, 2);
  assert.equal(made[0].range[1] - made[0].range[0], made[1].range[1] - made[1].range[0]);
  assert.ok(made[1].box.y >= made[0].box.y + made[0].box.height);
  assert.ok(made[0].range[0] < 0 && made[0].range[1] > 10);
});

test("a curve denser than its pixels keeps its peaks", () => {
  const rows = Array.from({ length: 5000 }, (_, k) => [k === 2501 ? 50 : 0]);
  const context = paper();
  line(context, channel(...rows), 0, BOX, [0, 50]);
  assert.equal(Math.min(...context.points.map(([, y]) => y)), 0);
  assert.equal(context.points.length, 200);
});

test("what never changes is one straight line", () => {
  const context = paper();
  line(context, channel([20]), 0, BOX, [0, 40]);
  assert.deepEqual(context.points, [
    [0, 40],
    [100, 40],
  ]);
});
