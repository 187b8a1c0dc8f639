import assert from "node:assert/strict";
import { test } from "node:test";
import type { Point } from "../src/screens/sheets/draft";
import { kept, newRoute, newStage, spanOf, without, withoutStage } from "../src/screens/sheets/follows";

const sheet = { jobs: [{ id: "chain", name: "Chain and guides" }] } as never;
const point = { id: "chain", name: "Chain", job: "chain", life: [] } as unknown as Point;

test("the first further way keeps what the point had as one of two", () => {
  const two = newRoute(sheet, point);
  const routes = two.routes ?? [];
  assert.deepEqual(
    routes.map((r) => r.job ?? r.price),
    ["chain", [200, 300]],
  );
  assert.equal(two.job, "");
  assert.equal(newRoute(sheet, { ...point, routes }).routes?.length, 3);
  // The last that is left is the point's own again.
  assert.deepEqual(without({ ...point, routes }, 1), { routes: [], job: "chain" });
  assert.deepEqual(without({ ...point, routes }, 0), { routes: [], price: [200, 300] });
  const priced = newRoute(sheet, { ...point, job: "", price: 240 } as Point);
  assert.deepEqual(priced.routes?.[0]?.price, [240, 240]);
});

test("stages begin as two, each dearer than the one before, and one alone is none", () => {
  const stages = newStage(point);
  assert.equal(stages.length, 2);
  assert.equal(stages[0]?.price, undefined);
  const three = newStage({ ...point, stages });
  const [second] = spanOf(three[1]?.price);
  const [third] = spanOf(three[2]?.price);
  assert.ok((third ?? 0) > (second ?? 0));
  assert.deepEqual(withoutStage({ ...point, stages }, 0), []);
  assert.equal(withoutStage({ ...point, stages: three }, 2).length, 2);
});

test("an item is changed or taken out where it stands", () => {
  assert.deepEqual(kept([1, 2, 3], 1, 9), [1, 9, 3]);
  assert.deepEqual(kept([1, 2, 3], 1, undefined), [1, 3]);
  assert.deepEqual(spanOf(120), [120, 120]);
  assert.deepEqual(spanOf([100, 150]), [100, 150]);
  assert.deepEqual(spanOf(null), [undefined, undefined]);
});
