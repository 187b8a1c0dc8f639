import assert from "node:assert/strict";
import { test } from "node:test";
import type { Family } from "../src/lib/api";
import { hits, thingsOf } from "../src/lib/things";
import { asBuilt, stretch, turns } from "../src/screens/sheets/builds";

const claim = (at: number) => [{ source: "workshop", says: { form: "about", at } }];
const sheet = {
  id: "tarn",
  name: "Tarn engine",
  built: { from: "2012-01-01", to: "2021-12-31" },
  points: [
    {
      id: "belt",
      name: "Timing belt",
      life: claim(90_000),
      revision: { name: "laminated belt", from: "2018-03-01", life: claim(160_000) },
      revisions: [{ name: "wider belt", from: "2020-01-01", life: claim(200_000) }],
    },
    { id: "pump", name: "Coolant pump", life: claim(120_000), applies: { built: { to: "2015-06-30" } } },
    {
      id: "flap",
      name: "Intake flap",
      life: claim(150_000),
      applies: { any: [{ built: { from: "2016-01-01" } }], except: [{ built: { from: "2019-01-01" } }] },
    },
  ],
  checks: [{ id: "rattle", name: "Cold rattle", links: [{ point: "belt" }] }],
} as unknown as Family;

test("a family's builds differ from the days at which something changed", () => {
  assert.deepEqual(
    turns(sheet).map((t) => [t.day, t.says]),
    [
      ["2015-07-01", ["Coolant pump: no longer"]],
      ["2018-03-01", ["Timing belt: laminated belt"]],
      ["2020-01-01", ["Timing belt: wider belt"]],
    ],
  );
  assert.deepEqual(stretch(sheet), ["2012-01-01", "2021-12-31"]);
  assert.equal(stretch({ ...sheet, points: [] }), null);
});

test("a build of a day has its own part and the points that concern it", () => {
  const of = (day: string | null) => asBuilt(sheet, day).map((b) => [b.point.id, b.revised]);
  assert.deepEqual(of("2014-01-01"), [
    ["belt", undefined],
    ["pump", undefined],
  ]);
  assert.deepEqual(of("2018-03-01"), [
    ["belt", "laminated belt"],
    ["flap", undefined],
  ]);
  assert.deepEqual(of("2020-06-01"), [["belt", "wider belt"]]);
  assert.equal(of(null).length, 3);
  assert.equal(asBuilt(sheet, "2020-06-01")[0]?.life, sheet.points?.[0]?.revisions?.[0]?.life);
});

test("anything is found by part of its name, with a slip of a letter", () => {
  const all = thingsOf(sheet);
  const named = (typed: string) => hits(typed, all, 5).map((t) => `${t.where}: ${t.name}`);
  assert.deepEqual(named("coolnt"), ["failure point, Tarn engine: Coolant pump"]);
  assert.deepEqual(named("rattle"), ["check, Tarn engine: Cold rattle"]);
  assert.equal(hits("rattle", all, 5)[0]?.to, "/sheets/tarn?point=belt");
  assert.equal(named("tarn")[0], "sheet: Tarn engine");
  assert.deepEqual(named(" "), []);
});
