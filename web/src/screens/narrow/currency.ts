// The currency that a list is in where nobody has said: that of the sheets.

import type { FamilyHead } from "../../lib/api";

const NONE = "XXX";

export function currencyOf(set: string | undefined, families: FamilyHead[] | undefined): string {
  if (set) return set;
  const counts = new Map<string, number>();
  for (const f of families ?? [])
    if (f.currency !== NONE) counts.set(f.currency, (counts.get(f.currency) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0] ?? "EUR";
}
