import assert from "node:assert/strict";
import { test } from "node:test";
import type { Due } from "../src/lib/api";
import { late, lateAtMost } from "../src/lib/words";

const due = (overdue: boolean, chance_done: number, said = 0) =>
  ({ overdue, chance_done, said: Array.from({ length: said }) }) as Due;

test("work on a part that it hardly has is not called overdue", () => {
  assert.equal(late(due(true, 0.05)), "yes");
  // Most likely done without a paper: overdue as far as papers show.
  assert.equal(late(due(true, 0.65)), "yes");
  // One of several gearboxes that it may have.
  assert.equal(late(due(true, 0.85)), "perhaps");
  assert.equal(late(due(true, 0.97)), "no");
  assert.equal(late(due(false, 0)), "no");
});

test("what is only said leaves it overdue as far as papers show, however likely it is", () => {
  assert.equal(late(due(true, 0.82, 1)), "yes");
  assert.equal(lateAtMost(due(true, 0.82, 1)), false);
  assert.equal(lateAtMost(due(true, 0.82)), true);
  assert.equal(lateAtMost(due(true, 0.97)), true);
  assert.equal(lateAtMost(due(false, 0.97)), false);
});
