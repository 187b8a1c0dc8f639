// A sheet being edited: every change makes a new sheet, so that undo and redo have no end; kept on this device until it
// is published or dropped.

import type { Family, GivenPoint } from "../../lib/api";

export type Point = NonNullable<Family["points"]>[number];
export type Check = NonNullable<Family["checks"]>[number];
export type LifeClaim = Point["life"][number];
export type ShareClaim = NonNullable<Point["share"]>[number];
export type Telling = "hint" | "clear" | "sure" | "is";

/** What is given by a pattern becomes the sheet's own where somebody touches it. */
export function owned(sheet: Family, key: string): Family {
  const patterns = (sheet.patterns ?? [])
    .map((p) => ({ ...p, gives: p.gives.filter((g) => g !== key) }))
    .filter((p) => p.gives.length > 0);
  return { ...sheet, patterns };
}

export const isGiven = (sheet: Family, key: string) =>
  (sheet.patterns ?? []).some((p) => p.gives.includes(key));

/** A short name that is free. */
export function freeId(name: string, taken: string[]): string {
  const id =
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-+|-+$/g, "")
      .slice(0, 32) || "point";
  if (!taken.includes(id)) return id;
  for (let n = 2; ; n++) if (!taken.includes(`${id}-${n}`)) return `${id}-${n}`;
}

/** A point as its pattern has it again, with the jobs that it names where the sheet has them no longer. */
export function putBack(sheet: Family, given: GivenPoint): Family {
  const { point, pattern, jobs } = given;
  const there = (sheet.jobs ?? []).map((j) => j.id);
  const missing = jobs.filter((j) => !there.includes(j.id));
  const gives = [`points/${point.id}`, ...missing.map((j) => `jobs/${j.id}`)];
  const known = (sheet.patterns ?? []).some((p) => p.id === pattern.id);
  const patterns = known ? (sheet.patterns ?? []) : [...(sheet.patterns ?? []), { ...pattern, gives: [] }];
  return {
    ...sheet,
    points: (sheet.points ?? []).map((p) => (p.id === point.id ? (point as Point) : p)),
    jobs: [...(sheet.jobs ?? []), ...missing],
    patterns: patterns.map((p) =>
      p.id === pattern.id ? { ...p, gives: [...p.gives.filter((g) => !gives.includes(g)), ...gives] } : p,
    ),
  };
}

export function editPoint(sheet: Family, id: string, change: (p: Point) => Point): Family {
  return {
    ...owned(sheet, `points/${id}`),
    points: (sheet.points ?? []).map((p) => (p.id === id ? change(p) : p)),
  };
}

/** Who said what has no source yet: this yard itself. */
export const OWN = "own";

export function withOwnSource(sheet: Family): Family {
  const sources = sheet.sources ?? [];
  return sources.some((s) => s.id === OWN)
    ? sheet
    : { ...sheet, sources: [...sources, { id: OWN, name: "Own experience" }] };
}

/** What the job costs, as one price or two; the job becomes this point's own where others share it. */
export function setPrice(sheet: Family, id: string, price: number | [number, number]): Family {
  const point = (sheet.points ?? []).find((p) => p.id === id);
  if (!point) return sheet;
  const jobs = sheet.jobs ?? [];
  const job = `${id.slice(0, 34)}-done`;
  const made = { id: job, name: `${point.name}, put right`.slice(0, 80), price };
  const others = jobs.filter((j) => j.id !== job);
  return {
    ...editPoint(sheet, id, (p) => ({ ...p, job, price: null })),
    jobs: [...others, made as (typeof jobs)[number]],
  };
}

/** A sign: what one looks for, when one meets it, and how telling it is. */
export function addSign(
  sheet: Family,
  id: string,
  label: string,
  phase: Check["phase"],
  says: Telling,
): Family {
  const point = (sheet.points ?? []).find((p) => p.id === id);
  if (!point) return sheet;
  const checks = sheet.checks ?? [];
  const check = {
    id: freeId(
      `${id}-${label}`,
      checks.map((c) => c.id),
    ),
    name: `${point.name}: ${label}?`.slice(0, 80),
    phase,
    how: `Look and listen for it: ${label}.`,
    tells: "",
    minutes: 2,
    outcomes: [{ label: "no" }, { label: label.slice(0, 60) }],
    links: [{ point: id, signs: [{ outcome: 1, says }] }],
  };
  return { ...sheet, checks: [...checks, check as unknown as Check] };
}

/** How telling the signs of a check are for a point; none takes the point off that check. */
export function setTelling(sheet: Family, check: string, point: string, says: Telling | undefined): Family {
  const checks = (sheet.checks ?? []).map((c) => {
    if (c.id !== check) return c;
    const links = (c.links ?? []).flatMap((l) => {
      if (l.point !== point) return [l];
      if (says === undefined) return [];
      const worse = c.outcomes.map((_, i) => i).slice(1);
      const said = l.signs ?? [];
      const before = said.length > 0 ? said : worse.map((outcome) => ({ outcome, says }));
      return [{ point, signs: before.map((s) => ({ ...s, says })) }];
    });
    // What else it may come from was counted beside the chances that words now stand for.
    return { ...c, links: links as typeof c.links, leak: [] };
  });
  // A check of the sheet's own that tells of nothing any more is gone.
  const kept = checks.filter(
    (c) => c.id !== check || (c.links ?? []).length > 0 || (c.care_sign ?? null) !== null,
  );
  return { ...owned(sheet, `checks/${check}`), checks: kept };
}

export function addPoint(sheet: Family, name: string, system: Point["system"]): [Family, string] {
  const points = sheet.points ?? [];
  const id = freeId(
    name,
    points.map((p) => p.id),
  );
  const end = sheet.clock === "km" ? 150_000 : 3_000;
  const point = {
    id,
    name: name.slice(0, 80),
    system,
    shows: "",
    why: "",
    mechanism: "wear",
    lived_with: "months",
    job: "",
    life: [{ source: OWN, clock: "usage", says: { form: "about", at: end } }],
    share: [{ source: OWN, says: { form: "word", word: "occasional" } }],
  };
  const with_point = withOwnSource({ ...sheet, points: [...points, point as unknown as Point] });
  return [setPrice(with_point, id, 300), id];
}

/** Takes a point out, with all that names it. What a pattern gave is said to concern nobody instead. */
export function removePoint(sheet: Family, id: string): Family {
  if (isGiven(sheet, `points/${id}`)) {
    return editPoint(withOwnSource(sheet), id, (p) => ({
      ...p,
      share: [{ source: OWN, weight: 1, says: { form: "share", share: 0 } }],
    }));
  }
  const drop = <T extends { renews?: string[] }>(x: T): T =>
    x.renews ? { ...x, renews: x.renews.filter((r) => r !== id) } : x;
  return {
    ...sheet,
    points: (sheet.points ?? [])
      .filter((p) => p.id !== id)
      .map((p) => (p.takes_along ? { ...p, takes_along: p.takes_along.filter((t) => t.point !== id) } : p))
      .map((p) => (p.wears ? { ...p, wears: p.wears.filter((w) => w.point !== id) } : p)),
    checks: (sheet.checks ?? []).flatMap((c) => {
      if (!(c.links ?? []).some((l) => l.point === id)) return [c];
      const links = (c.links ?? []).filter((l) => l.point !== id);
      return links.length === 0 && (c.care_sign ?? null) === null && (c.leak ?? []).length === 0
        ? []
        : [{ ...c, links }];
    }),
    jobs: (sheet.jobs ?? []).map(drop),
    intervals: (sheet.intervals ?? []).map(drop),
    care_rules: (sheet.care_rules ?? []).map((r) =>
      r.points ? { ...r, points: r.points.filter((x) => x !== id) } : r,
    ),
    ...(sheet.supply && {
      supply: sheet.supply.map((s) => (s.points ? { ...s, points: s.points.filter((x) => x !== id) } : s)),
    }),
    campaigns: (sheet.campaigns ?? []).map((c) =>
      c.revises ? { ...c, revises: c.revises.filter((x) => x !== id) } : c,
    ),
    upgrades: (sheet.upgrades ?? []).map((u) => ({
      ...u,
      ...(u.cures && { cures: u.cures.filter((x) => x !== id) }),
    })),
    ...(sheet.alterations && {
      alterations: sheet.alterations
        .map((x) => ({
          ...x,
          shortens: Object.fromEntries(Object.entries(x.shortens).filter(([p]) => p !== id)),
        }))
        .filter((x) => Object.keys(x.shortens).length > 0),
    }),
    advice: (sheet.advice ?? []).filter((a) => a.proved !== id),
  };
}

export type Drafting = {
  /** The version that is edited. */
  from: number;
  past: Family[];
  now: Family | undefined;
  future: Family[];
};

export type Step =
  | { kind: "edit"; sheet: Family }
  | { kind: "undo" }
  | { kind: "redo" }
  | { kind: "drop" }
  | { kind: "load"; state: Drafting };

/** `now` is none while nothing was changed; then the stored sheet is shown. */
export function step(base: Family) {
  return (s: Drafting, action: Step): Drafting => {
    switch (action.kind) {
      case "edit":
        return {
          from: s.now ? s.from : base.version,
          past: [...s.past, s.now ?? base],
          now: action.sheet,
          future: [],
        };
      case "undo": {
        const before = s.past.at(-1);
        if (!before || !s.now) return s;
        const past = s.past.slice(0, -1);
        return { ...s, past, now: before, future: [s.now, ...s.future] };
      }
      case "redo": {
        const [next, ...future] = s.future;
        if (!next) return s;
        return { ...s, past: [...s.past, s.now ?? base], now: next, future };
      }
      case "drop":
        return { from: base.version, past: [], now: undefined, future: [] };
      case "load":
        return action.state;
    }
  };
}
