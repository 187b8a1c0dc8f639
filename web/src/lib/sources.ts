// What the sources say of one failure point.

import type { PointResult } from "./api";

/** From this chance on a ratio between sources says something: below it they agree that it is rare. */
const RARE = 0.05;

/** Whether the sources disagree: by a fifth, or one says more than twice what another does. */
export function disagree(chances: number[]): boolean {
  if (chances.length < 2) return false;
  const [least, most] = [Math.min(...chances), Math.max(...chances)];
  return most - least >= 0.2 || (most >= RARE && most > 2 * least);
}

/** The same of a point. */
export function disputed(p: PointResult): boolean {
  return disagree(p.sources.map((s) => s.chance));
}
