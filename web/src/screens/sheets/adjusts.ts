// What a sheet knows better of a part, a check or a job that base sheets describe.

import type { Family } from "../../lib/api";
import { OWN, withOwnSource, type LifeClaim, type ShareClaim } from "./draft";

type PartAdjusted = NonNullable<Family["adjusts"]>[number];
type CheckAdjusted = NonNullable<Family["adjusts_checks"]>[number];
type JobAdjusted = NonNullable<Family["adjusts_jobs"]>[number];

/** The three kinds, each with the field that names what is known better. */
export const kinds = {
  parts: { list: "adjusts", named: "part", title: "Part" },
  checks: { list: "adjusts_checks", named: "action", title: "Check" },
  jobs: { list: "adjusts_jobs", named: "job", title: "Job" },
} as const;
export type Kind = keyof typeof kinds;

/** Something that base sheets describe, and what they say of it. */
export interface Known {
  kind: Kind;
  id: string;
  name: string;
  how?: string;
  minutes?: number;
  price?: number;
  hours?: { low: number; likely: number; high: number };
}

const middle = (p: unknown): number | undefined =>
  typeof p === "number" ? p : Array.isArray(p) ? (Number(p[0]) + Number(p[1])) / 2 : undefined;

/** Everything that base sheets of the same clock describe, each once, in the order of its name. */
export function described(bases: Family[], clock: Family["clock"]): Known[] {
  const out = new Map<string, Known>();
  const add = (k: Known) => out.has(`${k.kind}/${k.id}`) || out.set(`${k.kind}/${k.id}`, k);
  for (const base of bases.filter((b) => b.clock === clock)) {
    for (const p of base.points ?? [])
      if (p.part) add({ kind: "parts", id: p.part, name: p.name, price: middle(p.price) });
    for (const c of base.checks ?? [])
      add({ kind: "checks", id: c.action ?? c.id, name: c.name, how: c.how, minutes: c.minutes });
    for (const j of base.jobs ?? [])
      add({ kind: "jobs", id: j.id, name: j.name, price: middle(j.price), hours: j.hours ?? undefined });
  }
  return [...out.values()].sort((a, b) => a.name.localeCompare(b.name));
}

/** What a sheet says of its own, so that nothing is known better of it. */
export function ownOf(sheet: Family): Set<string> {
  const given = new Set((sheet.patterns ?? []).flatMap((p) => p.gives));
  const own = (list: string, id: string) => !given.has(`${list}/${id}`);
  return new Set([
    ...(sheet.points ?? []).flatMap((p) => (p.part && own("points", p.id) ? [`parts/${p.part}`] : [])),
    ...(sheet.checks ?? []).filter((c) => own("checks", c.id)).map((c) => `checks/${c.action ?? c.id}`),
    ...(sheet.jobs ?? []).filter((j) => own("jobs", j.id)).map((j) => `jobs/${j.id}`),
  ]);
}

export type Adjusted =
  | { kind: "parts"; at: number; id: string; item: PartAdjusted }
  | { kind: "checks"; at: number; id: string; item: CheckAdjusted }
  | { kind: "jobs"; at: number; id: string; item: JobAdjusted };

export const adjustedOf = (sheet: Family): Adjusted[] => [
  ...(sheet.adjusts ?? []).map((item, at) => ({ kind: "parts" as const, at, id: item.part, item })),
  ...(sheet.adjusts_checks ?? []).map((item, at) => ({ kind: "checks" as const, at, id: item.action, item })),
  ...(sheet.adjusts_jobs ?? []).map((item, at) => ({ kind: "jobs" as const, at, id: item.job, item })),
];

const listOf = (sheet: Family, kind: Kind) => (sheet[kinds[kind].list] ?? []) as object[];

export function changeAdjusted(sheet: Family, kind: Kind, at: number, change: object): Family {
  const items = listOf(sheet, kind).map((x, i) => (i === at ? { ...x, ...change } : x));
  return { ...sheet, [kinds[kind].list]: items };
}

export function removeAdjusted(sheet: Family, kind: Kind, at: number): Family {
  return { ...sheet, [kinds[kind].list]: listOf(sheet, kind).filter((_, i) => i !== at) };
}

/** Begins with what the base sheet says, where it says it in one figure. */
export function adjust(sheet: Family, of: Known): Family {
  const said =
    of.kind === "checks"
      ? { minutes: of.minutes ?? 5 }
      : of.kind === "jobs" && of.hours && of.price === undefined
        ? { hours: of.hours }
        : of.price === undefined
          ? {}
          : { price: of.price };
  const item = { [kinds[of.kind].named]: of.id, ...said };
  return { ...sheet, [kinds[of.kind].list]: [...listOf(sheet, of.kind), item] };
}

/** A claim of this yard's own, to be corrected. */
export function claimed(sheet: Family, at: number, of: "life" | "share"): Family {
  const item = sheet.adjusts?.[at];
  if (!item) return sheet;
  const life: LifeClaim = { source: OWN, says: { form: "about", at: sheet.clock === "km" ? 150_000 : 3000 } };
  const share: ShareClaim = { source: OWN, says: { form: "word", word: "common" } };
  const claims = of === "life" ? [...(item.life ?? []), life] : [...(item.share ?? []), share];
  return changeAdjusted(withOwnSource(sheet), "parts", at, { [of]: claims });
}
