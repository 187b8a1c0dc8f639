import assert from "node:assert/strict";
import { test } from "node:test";
import { bins } from "../src/charts/strip";

test("a strip in letters is chances by bins, the tallest of them as told", () => {
  const [past, plan, beyond] = bins({ top: 62, strip: "AD 72 B" });
  assert.deepEqual(
    [past, plan, beyond].map((b) => b.map((x) => Math.round(x * 1e6))),
    [[0, 600], [6200, 5200], [200]],
  );
});

test("a strip without a past is all plan", () => {
  assert.deepEqual(bins({ top: 0, strip: " AA " }), [[], [0, 0], []]);
});
