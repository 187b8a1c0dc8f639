import assert from "node:assert/strict";
import { test } from "node:test";
import numbers from "./numbers.json";
import {
  capital,
  day,
  exact,
  money,
  numberOf,
  percent,
  readBack,
  signed,
  span,
  usage,
} from "../src/lib/format";

const plain = (text: string) => text.replace(/[\u202f\u00a0]/g, " ").replace(/\u2212/g, "-");

test("estimated money has two figures and no false precision", () => {
  assert.deepEqual(
    [0, 0.4, 7.4, 47, 123, 1_251, 12_499, 99_600, -1_251].map((x) => plain(money(x))),
    ["0", "0", "7", "47", "120", "1 300", "12 000", "100 000", "-1 300"],
  );
  assert.deepEqual(
    [12, -12, 0.2].map((x) => plain(signed(x))),
    ["+12", "-12", "0"],
  );
});

test("money as entered keeps its cents, and carries them", () => {
  assert.deepEqual(
    [6800, 6800.5, 0.05, 1.999, 0.29, 1_234_567.1, -1.5, -0.001].map((x) => plain(exact(x))),
    ["6 800", "6 800.50", "0.05", "2", "0.29", "1 234 567.10", "-1.50", "0"],
  );
});

test("a chance is a whole percent, and never certain", () => {
  assert.deepEqual(
    [0, 0.009, 0.01, 0.345, 0.99, 0.991, 1].map((x) => plain(percent(x))),
    ["< 1 %", "< 1 %", "1 %", "35 %", "99 %", "> 99 %", "> 99 %"],
  );
});

test("a day is no more exact than it is known", () => {
  assert.equal(plain(day("2026-03-05")), "5 Mar 2026");
  assert.equal(plain(day("2026-03-05", "month")), "Mar 2026");
  assert.equal(day("2026-03-05", "year"), "2026");
});

test("usage and time are rounded to what matters", () => {
  assert.equal(plain(usage(121_437, "km", 100)), "121 400 km");
  assert.equal(plain(usage(999.6, "h")), "1 000 h");
  assert.deepEqual(
    [1 / 12, 0.5, 2, 2.5].map((y) => plain(span(y))),
    ["1 month", "6 months", "2 years", "2.5 years"],
  );
  assert.equal(capital("ask cold"), "Ask cold");
});

test("a number is read as people type it, by the same rule as in the core", () => {
  assert.ok(numbers.cases.length > 20);
  for (const { typed, means } of numbers.cases) assert.equal(numberOf(typed), means, typed);
  assert.deepEqual(
    ["4.500", "4500", "3,5", "x", "1,250,000.50"].map((t) => readBack(t)?.replace(/[\u202f\u00a0]/g, " ")),
    ["read as 4 500", undefined, "read as 3.50", undefined, "read as 1 250 000.50"],
  );
});
