// What changed with the builds of a family: the days at which something did, and each point as a build of some day has
// it.

import type { Family } from "../../lib/api";
import type { LifeClaim, Point, ShareClaim } from "./draft";

/** A day from which on, or after which, builds differ. */
export interface Turn {
  /** The first build after the change. */
  day: string;
  says: string[];
}

/** A point as it is on a build of some day. */
export interface Built {
  point: Point;
  life: LifeClaim[];
  share: ShareClaim[];
  /** Name of the revised part that it has. */
  revised?: string;
}

type Window = NonNullable<NonNullable<Point["applies"]>["built"]>;

const DAY_MS = 86_400_000;

/** The day after. */
export const dayAfter = (day: string) => new Date(Date.parse(day) + DAY_MS).toISOString().slice(0, 10);

const revisionsOf = (p: Point) =>
  [...(p.revision ? [p.revision] : []), ...(p.revisions ?? [])].flatMap((r) =>
    r.from ? [{ ...r, from: r.from }] : [],
  );

/** The days at which builds begin to differ, the earliest first. */
export function turns(f: Family): Turn[] {
  const found = new Map<string, string[]>();
  const add = (day: string, says: string) => {
    const known = found.get(day) ?? [];
    if (!known.includes(says)) found.set(day, [...known, says]);
  };
  const window = (w: Window | null | undefined, name: string, begins: string, ends: string) => {
    if (w?.from && w.from !== f.built?.from) add(w.from, `${name}: ${begins}`);
    if (w?.to && w.to !== f.built?.to) add(dayAfter(w.to), `${name}: ${ends}`);
  };
  for (const p of f.points ?? []) {
    for (const r of revisionsOf(p)) add(r.from, `${p.name}: ${r.name}`);
    window(p.applies?.built, p.name, "from here on", "no longer");
  }
  for (const a of f.advice ?? []) window(a.applies?.built, a.says, "from here on", "up to here");
  for (const c of f.campaigns ?? []) window(c.applies?.built, c.name, "from here on", "no longer");
  return [...found].map(([day, says]) => ({ day, says })).sort((a, b) => a.day.localeCompare(b.day));
}

const inside = (w: Window | null | undefined, day: string) =>
  !w || ((!w.from || w.from <= day) && (!w.to || day <= w.to));

/** The points that a build of this day has, as it has them; all, as first built, where no day is given. */
export function asBuilt(f: Family, day: string | null): Built[] {
  return (f.points ?? []).flatMap((point) => {
    const first = { point, life: point.life, share: point.share ?? [] };
    if (day === null) return [first];
    const own = point.applies;
    // What a fact must tell as well is kept: it is not known here.
    const barred = (own?.except ?? []).some(
      (c) => c.built && inside(c.built, day) && !c.serial && Object.keys(c.facts ?? {}).length === 0,
    );
    const any = own?.any ?? [];
    if (!inside(own?.built, day) || barred || (any.length > 0 && !any.some((c) => inside(c.built, day))))
      return [];
    const fitted = revisionsOf(point)
      .filter((r) => r.from <= day)
      .sort((a, b) => a.from.localeCompare(b.from))
      .at(-1);
    if (!fitted) return [first];
    return [
      {
        point,
        life: fitted.life?.length ? fitted.life : point.life,
        share: fitted.share?.length ? fitted.share : first.share,
        revised: fitted.name,
      },
    ];
  });
}

/** The first and last month that a slider of builds reaches, as days. */
export function stretch(f: Family): [string, string] | null {
  const days = turns(f).map((t) => t.day);
  const first = f.built?.from ?? days[0];
  const last = f.built?.to ?? days.at(-1);
  if (!first || !last || days.length === 0) return null;
  const year = 365 * DAY_MS;
  const shifted = (day: string, by: number) => new Date(Date.parse(day) + by).toISOString().slice(0, 10);
  return [f.built?.from ? first : shifted(first, -year), f.built?.to ? last : shifted(last, year)];
}
