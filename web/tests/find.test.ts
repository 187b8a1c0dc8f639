import assert from "node:assert/strict";
import { test } from "node:test";
import { sounds } from "../src/lib/find";

const name = "Brannick BK4 1.5 turbo petrol";

test("a family is found by the beginning of its words, in any order", () => {
  for (const typed of ["bran", "BK4", "petrol brannick", "1.5", ""]) assert.ok(sounds(typed, name), typed);
  for (const typed of ["diesel", "brannick diesel", "xyz"]) assert.ok(!sounds(typed, name), typed);
});

test("a slip of a letter is forgiven", () => {
  for (const typed of ["branick", "brannich", "petrl", "brannnick"]) assert.ok(sounds(typed, name), typed);
  assert.ok(!sounds("brxxick", name));
});
