// When a point needs doing, in words.

import type { Assessment, PointResult } from "./api";
import { clockUnit, usage } from "./format";

/** When it needs doing, given that it ever does. */
export function whenSays(
  { needs_at }: Pick<PointResult, "needs_at">,
  a: Pick<Assessment, "clock" | "usage_now">,
) {
  const at = (v: number | null | undefined) =>
    v == null ? null : usage(v, clockUnit(a.clock), a.clock === "km" ? 1000 : 10);
  const [early, half, late] = [needs_at.p10, needs_at.p50, needs_at.p90].map(at);
  if (needs_at.p50 == null || !half) return null;
  const isNow = needs_at.p50 <= a.usage_now;
  // A time said twice says nothing.
  if (isNow) return late && late !== half ? `more likely than not now; nine in ten by ${late}` : "now";
  return `half by ${half}` + (early && late && early !== late ? `; most between ${early} and ${late}` : "");
}
