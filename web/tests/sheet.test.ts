import assert from "node:assert/strict";
import { test } from "node:test";
import type { Family, Ranked } from "../src/lib/api";
import { line, message, ranked, ratesOf } from "../src/screens/narrow/list";
import {
  addPoint,
  addSign,
  editPoint,
  freeId,
  isGiven,
  putBack,
  removePoint,
  setPrice,
  setTelling,
  step,
  type Drafting,
} from "../src/screens/sheets/draft";

const sheet = {
  format: "ticksage-family/2",
  id: "tarn",
  version: 3,
  name: "Tarn",
  kind: "engine",
  clock: "km",
  currency: "HSC",
  summary: "",
  built: {},
  sources: [{ id: "workshop", name: "Workshops" }],
  points: [
    {
      id: "pump",
      name: "Pump",
      system: "cooling",
      job: "pump-set",
      life: [{ source: "workshop", says: { form: "about", at: 100_000 } }],
    },
    {
      id: "belt",
      name: "Belt",
      system: "engine",
      job: "pump-set",
      life: [{ source: "workshop", says: { form: "about", at: 120_000 } }],
      takes_along: [{ point: "pump", chance: 0.1 }],
    },
  ],
  checks: [
    {
      id: "look",
      name: "Look",
      phase: "bonnet_cold",
      how: "",
      tells: "",
      minutes: 2,
      outcomes: [{ label: "dry" }, { label: "wet" }],
      links: [
        { point: "pump", signs: [{ outcome: 1, says: "clear" }] },
        { point: "belt", signs: [{ outcome: 1, says: "hint" }] },
      ],
    },
  ],
  jobs: [{ id: "pump-set", name: "Pump and belt", price: 500, renews: ["pump", "belt"] }],
  intervals: [{ id: "belt", name: "Belt", usage: 100_000, job: "pump-set", renews: ["belt", "pump"] }],
  patterns: [{ id: "cooling", version: 1, name: "Cooling", gives: ["points/pump", "checks/look"] }],
} as unknown as Family;

test("what is touched becomes the sheet's own, and nothing else changes", () => {
  const edited = editPoint(sheet, "pump", (p) => ({ ...p, name: "Coolant pump" }));
  assert.equal(isGiven(edited, "points/pump"), false);
  assert.equal(isGiven(edited, "checks/look"), true);
  assert.equal(edited.points?.[0]?.name, "Coolant pump");
  assert.deepEqual(edited.points?.[1], sheet.points?.[1]);
  assert.equal(sheet.points?.[0]?.name, "Pump");
});

test("a price is this point's own: another that shares the job keeps it", () => {
  const priced = setPrice(sheet, "pump", [300, 420]);
  const of = (id: string) => priced.points?.find((p) => p.id === id)?.job;
  assert.notEqual(of("pump"), of("belt"));
  assert.deepEqual(priced.jobs?.find((j) => j.id === of("pump"))?.price, [300, 420]);
  assert.equal(priced.jobs?.find((j) => j.id === "pump-set")?.price, 500);
});

test("a sign is a check; how telling it is can change; without any link it goes", () => {
  const signed = addSign(sheet, "belt", "chirps when cold", "cold_start", "hint");
  const check = signed.checks?.at(-1);
  assert.equal(check?.links?.[0]?.point, "belt");
  const id = check?.id ?? "";
  const sure = setTelling(signed, id, "belt", "sure");
  assert.equal(sure.checks?.at(-1)?.links?.[0]?.signs?.[0]?.says, "sure");
  assert.equal(
    setTelling(sure, id, "belt", undefined).checks?.some((c) => c.id === id),
    false,
  );
  // Of a check that tells of two points one link goes.
  const left = setTelling(sheet, "look", "pump", undefined).checks?.find((c) => c.id === "look");
  assert.deepEqual(
    left?.links?.map((l) => l.point),
    ["belt"],
  );
});

test("a point that is taken out is named nowhere; one of a pattern's is said to concern nobody", () => {
  const without = removePoint(sheet, "belt");
  assert.deepEqual(
    without.points?.map((p) => p.id),
    ["pump"],
  );
  assert.ok(!JSON.stringify([without.jobs, without.checks, without.points]).includes('"belt"'));
  assert.deepEqual(without.intervals?.[0]?.renews, ["pump"]);
  const nobody = removePoint(sheet, "pump");
  assert.equal(nobody.points?.length, 2);
  assert.deepEqual(nobody.points?.[0]?.share?.[0]?.says, { form: "share", share: 0 });
});

test("a new point has a name that is free, a claim, a share and a price", () => {
  const [added, id] = addPoint(sheet, "Belt", "engine");
  assert.equal(id, "belt-2");
  const point = added.points?.at(-1);
  assert.ok(point?.life.length === 1 && point.share?.length === 1);
  assert.ok(added.jobs?.some((j) => j.id === point.job && j.price === 300));
  assert.equal(freeId("Ölkühler: leckt!", []), "lk-hler-leckt");
});

test("undo and redo have no end, and an edit after undo forgets what was undone", () => {
  const next = step(sheet);
  let s: Drafting = { from: 3, past: [], now: undefined, future: [] };
  for (let n = 1; n <= 200; n++) s = next(s, { kind: "edit", sheet: { ...sheet, name: `Tarn ${n}` } });
  assert.equal(s.now?.name, "Tarn 200");
  for (let n = 0; n < 200; n++) s = next(s, { kind: "undo" });
  assert.equal(s.now?.name, "Tarn");
  assert.equal(next(s, { kind: "undo" }), s);
  s = next(next(s, { kind: "redo" }), { kind: "redo" });
  assert.equal(s.now?.name, "Tarn 2");
  s = next(s, { kind: "edit", sheet: { ...sheet, name: "Other" } });
  assert.equal(s.future.length, 0);
  assert.deepEqual(next(s, { kind: "drop" }), { from: 3, past: [], now: undefined, future: [] });
});

const advert = (n: number, surplus: number, a_year: number, p90: number) =>
  ({
    line: n,
    title: `No ${n}`,
    surplus,
    bill_a_year: a_year,
    p90,
    ask: ["Belt: when?"],
  }) as unknown as Ranked;

test("a list is ranked by one figure, or by weights of all", () => {
  const all = [advert(1, 500, 900, 3000), advert(2, 900, 1500, 5000), advert(3, -200, 600, 2000)];
  const lines = (order: Parameters<typeof ranked>[1], w = { surplus: 1, a_year: 0, p90: 0 }) =>
    ranked(all, order, w).map((r) => r.line);
  assert.deepEqual(lines("surplus"), [2, 1, 3]);
  assert.deepEqual(lines("a_year"), [3, 1, 2]);
  assert.deepEqual(lines("p90"), [3, 1, 2]);
  assert.deepEqual(lines("weights"), [2, 1, 3]);
  assert.deepEqual(lines("weights", { surplus: 0, a_year: 1, p90: 1 }), [3, 1, 2]);
});

test("the line of the market is that of least squares; without spread there is none", () => {
  const market = line([
    [0, 10],
    [10, 8],
    [20, 6],
  ]);
  assert.ok(market);
  assert.ok(Math.abs(market(5) - 9) < 1e-9);
  assert.equal(
    line([
      [5, 1],
      [5, 2],
      [5, 3],
    ]),
    undefined,
  );
  assert.match(message(advert(1, 0, 0, 0)), /1\. Belt: when\?/);
});

test("rates are taken as typed, and nothing that is none", () => {
  assert.deepEqual(ratesOf({ EUR: "1,08", GBP: " 1.2 ", USD: "", CHF: "-1", SEK: "much" }), {
    EUR: 1.08,
    GBP: 1.2,
  });
});

test("a point is put back as its pattern has it, with its job, and is the pattern's again", () => {
  const own = editPoint(sheet, "pump", (p) => ({ ...p, name: "Pump, as we know it" }));
  const point = { ...sheet.points?.[0], id: "pump", name: "Coolant pump leaks", job: "pump-new" };
  const job = { id: "pump-new", name: "Pump, put right", price: 3 };
  const pattern = { id: "cooling", version: 1, name: "Cooling", gives: ["points/pump", "jobs/pump-new"] };
  const given = { point, pattern, jobs: [job] } as unknown as Parameters<typeof putBack>[1];
  const back = putBack(own, given);
  assert.equal(back.points?.find((p) => p.id === "pump")?.name, "Coolant pump leaks");
  assert.ok(back.jobs?.some((j) => j.id === "pump-new"));
  assert.ok(isGiven(back, "points/pump") && isGiven(back, "jobs/pump-new"));
  // A job that the sheet has stays as the sheet has it; doing it twice adds nothing.
  const again = putBack(back, given);
  assert.equal(again.jobs?.filter((j) => j.id === "pump-new").length, 1);
  assert.deepEqual(
    again.patterns?.flatMap((p) => p.gives).filter((g) => g === "points/pump"),
    ["points/pump"],
  );
});
