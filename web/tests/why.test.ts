import assert from "node:assert/strict";
import { test } from "node:test";
import { whenSays } from "../src/lib/when";

const plain = (text: string | null) => text?.replace(/[\u202f\u00a0]/g, " ") ?? null;
const says = (p10: number | null, p50: number | null, p90: number | null) =>
  plain(whenSays({ needs_at: { p10, p50, p90 } }, { clock: "km", usage_now: 121_400 }));

test("what is there now is told as there now, and no time is said twice", () => {
  assert.equal(says(121_400, 121_400, 121_400), "now");
  assert.equal(says(121_400, 121_400, null), "now");
  assert.equal(says(121_400, 121_400, 145_806), "more likely than not now; nine in ten by 146 000 km");
});

test("what is to come is told by its middle, and by where most of it lies", () => {
  assert.equal(says(124_000, 138_200, 160_900), "half by 138 000 km; most between 124 000 km and 161 000 km");
  assert.equal(says(138_000, 138_200, null), "half by 138 000 km");
  assert.equal(says(null, null, null), null);
});
