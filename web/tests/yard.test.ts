import assert from "node:assert/strict";
import { test } from "node:test";
import type { Summary, YardEntry } from "../src/lib/api";
import { found } from "../src/screens/yard/finding";

const entry = (title: string, asking: number, limit: number, more: Partial<Summary> = {}): YardEntry => ({
  id: title,
  version: 1,
  title,
  faults: [],
  summary: { title, asking, limit, built: 2016, families: ["Ferryman"], verdict: "buy", ...more } as Summary,
});

const broken: YardEntry = { id: "x", version: 1, title: "Broken van", faults: [], summary: null };
const yard = [
  entry("Blue van", 8200, 8700, { verdict: "not_yet" }),
  entry("Quay bus", 6800, 4800, { verdict: "negotiate", families: ["Tarn T22"] }),
  entry("Amber van", 9000, 12_000, { built: 2018 }),
  broken,
];
const titles = (text: string, shown: Parameters<typeof found>[2], order: Parameters<typeof found>[3]) =>
  found(yard, text, shown, order).map((e) => e.title);

test("a yard is searched by every word of name, family and year", () => {
  assert.deepEqual(titles("", "all", "entered"), ["Broken van", "Blue van", "Quay bus", "Amber van"]);
  assert.deepEqual(titles("van", "all", "entered"), ["Broken van", "Blue van", "Amber van"]);
  assert.deepEqual(titles(" VAN  2018 ", "all", "entered"), ["Amber van"]);
  assert.deepEqual(titles("t22", "all", "entered"), ["Quay bus"]);
  assert.deepEqual(titles("nothing", "all", "entered"), []);
});

test("it is put in order, what cannot be judged first", () => {
  assert.deepEqual(titles("", "all", "surplus"), ["Broken van", "Amber van", "Blue van", "Quay bus"]);
  assert.deepEqual(titles("", "all", "price"), ["Broken van", "Quay bus", "Blue van", "Amber van"]);
  assert.deepEqual(titles("", "all", "name"), ["Broken van", "Amber van", "Blue van", "Quay bus"]);
});

test("it shows one verdict, or what has ended, and hides nothing that is wrong", () => {
  assert.deepEqual(titles("", "negotiate", "entered"), ["Broken van", "Quay bus"]);
  const sold = entry("Sold", 1, 1, { ending: { kind: "passed_over", date: "2026-01-01", why: "rust" } });
  const shown = (kind: Parameters<typeof found>[2]) =>
    found([...yard, sold], "", kind, "entered").map((e) => e.title);
  assert.deepEqual(shown("ended"), ["Broken van", "Sold"]);
  assert.ok(!shown("buy").includes("Sold"));
});
