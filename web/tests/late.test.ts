import assert from "node:assert/strict";
import { test } from "node:test";
import type { Due } from "../src/lib/api";
import { late, lateAtMost } from "../src/lib/words";

const due = (overdue: boolean, chance_done: number) => ({ overdue, chance_done }) as Due;

test("work on a part that it hardly has is not called overdue", () => {
  assert.equal(late(due(true, 0.05)), "yes");
  // One of several gearboxes that it may have.
  assert.equal(late(due(true, 0.7)), "perhaps");
  assert.equal(late(due(true, 0.97)), "no");
  assert.equal(late(due(false, 0)), "no");
});

test("what no paper shows and is as likely none is perhaps overdue", () => {
  assert.equal(lateAtMost(due(true, 0.05)), false);
  assert.equal(lateAtMost(due(false, 0.9)), false);
  assert.equal(lateAtMost(due(true, 0.5)), true);
});
