import { strict as assert } from "node:assert";
import { test } from "node:test";
import type { Family } from "../src/lib/api";
import {
  adjust,
  adjustedOf,
  changeAdjusted,
  described,
  ownOf,
  removeAdjusted,
} from "../src/screens/sheets/adjusts";

const base = {
  clock: "km",
  points: [
    { id: "tyres", name: "Tyres worn", part: "tyres", price: [300, 500] },
    { id: "trim", name: "Trim" },
  ],
  checks: [
    { id: "tread", name: "Tread", action: "tyre-tread", minutes: 4 },
    { id: "lamps", name: "Lamps", minutes: 2 },
  ],
  jobs: [{ id: "set", name: "A set", hours: { low: 1, likely: 2, high: 3 } }],
} as unknown as Family;

const sheet = {
  clock: "km",
  points: [{ id: "own", name: "Own", part: "belt" }],
  checks: [
    { id: "lamps", name: "Lamps" },
    { id: "given", name: "Given" },
  ],
  patterns: [{ id: "p", gives: ["checks/given"] }],
} as unknown as Family;

test("what base sheets describe, each once and by its name", () => {
  const all = described([base, base, { ...base, clock: "hours" } as Family], "km");
  assert.deepEqual(
    all.map((k) => `${k.kind}/${k.id}`),
    ["jobs/set", "checks/lamps", "checks/tyre-tread", "parts/tyres"],
  );
  assert.equal(all.at(-1)?.price, 400);
  assert.deepEqual([...ownOf(sheet)].sort(), ["checks/lamps", "parts/belt"]);
});

test("what is known better begins with what stands there, changes and goes", () => {
  const [set, , tread, tyres] = described([base], "km");
  assert.ok(set && tread && tyres);
  const known = [set, tread, tyres].reduce(adjust, sheet);
  assert.deepEqual(known.adjusts_jobs, [{ job: "set", hours: { low: 1, likely: 2, high: 3 } }]);
  assert.deepEqual(known.adjusts_checks, [{ action: "tyre-tread", minutes: 4 }]);
  assert.deepEqual(known.adjusts, [{ part: "tyres", price: 400 }]);
  const changed = changeAdjusted(known, "checks", 0, { minutes: 9 });
  assert.equal(changed.adjusts_checks?.[0]?.minutes, 9);
  assert.deepEqual(
    adjustedOf(removeAdjusted(changed, "checks", 0)).map((x) => x.kind),
    ["parts", "jobs"],
  );
  assert.equal(known.adjusts_checks?.[0]?.minutes, 4, "the sheet before is left as it was");
});
