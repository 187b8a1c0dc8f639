// What can be found by its name from anywhere: sheets, their points and checks, candidates, screens.

import type { Family } from "./api";
import { sounds } from "./find";

export interface Thing {
  name: string;
  /** What it is and where, in a few words. */
  where: string;
  to: string;
}

/** A sheet with its points and checks. */
export function thingsOf(f: Family): Thing[] {
  const at = (point: string) => `/sheets/${f.id}?point=${encodeURIComponent(point)}`;
  const checks = (f.checks ?? []).map((c) => {
    const first = c.links?.[0]?.point;
    return { name: c.name, where: `check, ${f.name}`, to: first ? at(first) : `/sheets/${f.id}` };
  });
  return [
    { name: f.name, where: "sheet", to: `/sheets/${f.id}` },
    ...(f.points ?? []).map((p) => ({ name: p.name, where: `failure point, ${f.name}`, to: at(p.id) })),
    ...checks,
  ];
}

/** Those whose name sounds like what was typed: names that begin so first, then the shorter. */
export function hits(typed: string, things: Thing[], most: number): Thing[] {
  const wanted = typed.trim().toLowerCase();
  if (wanted === "") return [];
  const rank = (t: Thing) => (t.name.toLowerCase().startsWith(wanted) ? 0 : 1);
  const found = things.filter((t) => sounds(wanted, `${t.name} ${t.where}`));
  const named = found.filter((t) => sounds(wanted, t.name));
  return (named.length > 0 ? named : found)
    .sort((a, b) => rank(a) - rank(b) || a.name.length - b.name.length || a.name.localeCompare(b.name))
    .slice(0, most);
}
