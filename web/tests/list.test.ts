import assert from "node:assert/strict";
import { test } from "node:test";
import type { Ranked } from "../src/lib/api";
import { onClock } from "../src/lib/format";
import { foot, runIn, unitOf } from "../src/screens/narrow/list";

const run = (value: number, unit: "km" | "mi" | "h") => ({ usage: { value, unit } }) as Ranked;

test("a list is drawn in its own unit, and in kilometres where it mixes miles with them", () => {
  const miles = [run(60_000, "mi"), run(90_000, "mi")];
  assert.equal(unitOf(miles), "mi");
  assert.deepEqual(miles.map(runIn("mi")), [60_000, 90_000]);
  const mixed = [...miles, run(120_000, "km")];
  assert.equal(unitOf(mixed), "km");
  // The international mile of 1959: 1 609.344 m.
  assert.deepEqual(mixed.map(runIn(unitOf(mixed))).map(Math.round), [96_561, 144_841, 120_000]);
  assert.equal(unitOf([run(1450, "h")]), "h");
  assert.equal(unitOf([]), "km");
  assert.equal(onClock({ value: 3200, unit: "h" }), 3200);
});

test("marks on the foot of the drawing tell small ranges apart, and the last says what is counted", () => {
  assert.deepEqual(
    [0, 2500, 5000].map((x) => foot(x, "mi", x === 5000)),
    ["0", "2.5k", "5k mi"],
  );
  assert.equal(foot(200_000, "km", true), "200k km");
  assert.equal(foot(12, "years", true), "12 years");
  assert.match(foot(4000, "h", true), /^4.000 h$/);
});
