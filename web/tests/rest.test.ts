import assert from "node:assert/strict";
import { test } from "node:test";
import type { Family } from "../src/lib/api";
import { addItem, called, editItem, removeItem, usedBy } from "../src/screens/sheets/rest";

const sheet = {
  id: "tarn",
  clock: "km",
  patterns: [{ id: "engine", version: 1, name: "Engine", gives: ["checks/look", "points/belt"] }],
  sources: [],
  points: [
    {
      id: "belt",
      name: "Belt",
      job: "belt-set",
      routes: [{ name: "Again", job: "again", needs: { check: "look" } }],
    },
    { id: "rust", name: "Rust", job: "", stages: [{ name: "holes", job: "weld" }] },
  ],
  checks: [{ id: "look", name: "Look", minutes: 2, outcomes: [{ label: "good" }, { label: "bad" }] }],
  jobs: [
    { id: "belt-set", name: "Belt set", access: ["front"] },
    { id: "weld", name: "Welded" },
    { id: "spare", name: "Spare" },
  ],
  access: [{ id: "front", name: "Front off", hours: 2 }],
  intervals: [{ id: "oil", name: "Oil", years: 1, job: "spare", renews: [] }],
} as unknown as Family;

test("what a pattern gave becomes the sheet's own where it is changed", () => {
  const after = editItem(sheet, "checks", "look", { minutes: 5 });
  assert.equal(after.checks?.[0]?.minutes, 5);
  assert.deepEqual(after.patterns?.[0]?.gives, ["points/belt"]);
  assert.equal(sheet.checks?.[0]?.minutes, 2);
});

test("what something needs cannot go, and says what needs it", () => {
  assert.deepEqual(usedBy(sheet, "jobs", "belt-set"), ["Belt"]);
  assert.deepEqual(usedBy(sheet, "jobs", "weld"), ["Rust"]);
  assert.deepEqual(usedBy(sheet, "jobs", "spare"), ["Oil"]);
  assert.deepEqual(usedBy(sheet, "access", "front"), ["Belt set"]);
  assert.deepEqual(usedBy(sheet, "checks", "look"), ["Belt"]);
  assert.equal(removeItem(sheet, "jobs", "weld"), sheet);
  const without = removeItem(removeItem(sheet, "intervals", "oil"), "jobs", "spare");
  assert.deepEqual(
    without.jobs?.map((j) => j.id),
    ["belt-set", "weld"],
  );
});

test("something new of each kind has a name that is free and what its kind needs", () => {
  const [checks, look] = addItem(sheet, "checks", "Look");
  assert.equal(look, "look-2");
  assert.equal(checks.checks?.[1]?.outcomes.length, 2);
  const [advice, id] = addItem(sheet, "advice", "Trouble-free to 300 000");
  assert.equal(advice.advice?.find((a) => a.id === id)?.source, "own");
  assert.equal(advice.sources?.[0]?.id, "own");
  const [work] = addItem(
    { ...sheet, jobs: [], intervals: [] } as unknown as Family,
    "intervals",
    "Brake fluid",
  );
  assert.equal(work.intervals?.[0]?.job, work.jobs?.[0]?.id);
  assert.equal(called({ id: "x", says: "Never switch it off hot" }), "Never switch it off hot");
});
