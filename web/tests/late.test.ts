import assert from "node:assert/strict";
import { test } from "node:test";
import type { Due } from "../src/lib/api";
import { late, lateOnly } from "../src/lib/words";

const due = (overdue: boolean, chance_done: number, said = 0) =>
  ({ overdue, chance_done, said: Array.from({ length: said }) }) as Due;

test("work on a part that it hardly has is not called overdue", () => {
  assert.equal(late(due(true, 0.05)), "yes");
  // One of several gearboxes that it may have.
  assert.equal(late(due(true, 0.7)), "perhaps");
  assert.equal(late(due(true, 0.97)), "no");
  assert.equal(late(due(false, 0)), "no");
});

test("what makes overdue work none is told where it is as likely", () => {
  assert.equal(lateOnly(due(true, 0.05)), "");
  assert.equal(lateOnly(due(false, 0.9)), "");
  assert.equal(lateOnly(due(true, 0.7)), "if it has this at all");
  assert.equal(lateOnly(due(true, 0.7, 1)), "unless what is said is true");
});
