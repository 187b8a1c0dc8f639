// A list of adverts ranked, its market drawn as a line, and what to write to a seller.

import type { Ranked } from "../../lib/api";
import { onClock, whole } from "../../lib/format";

export type Order = "surplus" | "a_year" | "p90" | "blow" | "weights";

export type Weights = { surplus: number; a_year: number; p90: number };

/** The unit that a list is drawn in: that of all of them, or kilometres where some count miles and some kilometres. */
export function unitOf(all: Ranked[]): Ranked["usage"]["unit"] {
  const [first] = all;
  return first && all.every((r) => r.usage.unit === first.usage.unit) ? first.usage.unit : "km";
}

/** How far one has run, in the unit that its list is drawn in. */
export const runIn =
  (unit: Ranked["usage"]["unit"]) =>
  (r: Ranked): number =>
    unit === "km" ? onClock(r.usage) : r.usage.value;

/** A mark on the foot of the drawing; the last of them says what is counted. */
export function foot(x: number, unit: string, last: boolean): string {
  const far = unit === "km" || unit === "mi";
  const figure = far && x > 0 ? `${+(x / 1000).toFixed(1)}k` : whole(x);
  return last ? `${figure} ${unit}` : figure;
}

/** Values on one scale: how many spreads from the middle. */
function spread(values: number[]): (x: number) => number {
  const sorted = [...values].sort((a, b) => a - b);
  const at = (q: number) => sorted[Math.min(sorted.length - 1, Math.floor(q * sorted.length))] ?? 0;
  const middle = at(0.5);
  const width = Math.max(1e-9, at(0.75) - at(0.25));
  return (x) => (x - middle) / width;
}

export function ranked(all: Ranked[], order: Order, weights: Weights): Ranked[] {
  const by: Record<Exclude<Order, "weights">, (r: Ranked) => number> = {
    surplus: (r) => r.surplus,
    a_year: (r) => -r.bill_a_year,
    p90: (r) => -r.p90,
    blow: (r) => -r.blow,
  };
  let score = order === "weights" ? by.surplus : by[order];
  if (order === "weights") {
    const [s, y, p] = [
      spread(all.map((r) => r.surplus)),
      spread(all.map((r) => -r.bill_a_year)),
      spread(all.map((r) => -r.p90)),
    ];
    score = (r) =>
      weights.surplus * s(r.surplus) + weights.a_year * y(-r.bill_a_year) + weights.p90 * p(-r.p90);
  }
  return [...all].sort((a, b) => score(b) - score(a) || a.line - b.line);
}

/** A line through points: least squares; none where they do not spread. */
export function line(points: [number, number][]): ((x: number) => number) | undefined {
  const n = points.length;
  if (n < 3) return undefined;
  const mx = points.reduce((s, p) => s + p[0], 0) / n;
  const my = points.reduce((s, p) => s + p[1], 0) / n;
  const sxx = points.reduce((s, p) => s + (p[0] - mx) ** 2, 0);
  if (sxx < 1e-9) return undefined;
  const slope = points.reduce((s, p) => s + (p[0] - mx) * (p[1] - my), 0) / sxx;
  return (x) => my + slope * (x - mx);
}

/** What to write to a seller. */
export function message(r: Ranked): string {
  return [
    `About your advert “${r.title}”:`,
    ...r.ask.map((a, i) => `${i + 1}. ${a}`),
    "Could it be started from cold when I come?",
  ].join("\n");
}

/** Rates as typed, those that are numbers above nothing. */
export function ratesOf(typed: Record<string, string>): Record<string, number> {
  const read = Object.entries(typed).map(
    ([code, text]) => [code, Number(text.trim().replace(",", "."))] as const,
  );
  return Object.fromEntries(read.filter(([, rate]) => Number.isFinite(rate) && rate > 0));
}
