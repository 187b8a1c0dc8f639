// A list of adverts on its way: read once, judged in parts, two at a time, until it is done or left.

import { useRef, useState } from "react";
import { api, type AdvertList, type AdvertsRead, type Ranked } from "../../lib/api";

/** Lines judged in one question: small enough that results come as they are made. */
const AT_ONCE = 24;

export type Listing = {
  list: AdvertList;
  read: AdvertsRead;
  judged: Ranked[];
  done: boolean;
  left: boolean;
};

export function useListing() {
  const [listing, setListing] = useState<Listing>();
  const [error, setError] = useState<Error>();
  const [busy, setBusy] = useState(false);
  const run = useRef(0);
  const start = async (list: AdvertList) => {
    const mine = ++run.current;
    const current = () => run.current === mine;
    setError(undefined);
    setBusy(true);
    try {
      const read = await api.readAdverts(list);
      if (!current()) return;
      setListing({ list, read, judged: [], done: read.open.length === 0, left: false });
      const open = [...read.open];
      const work = async () => {
        while (current()) {
          const lines = open.splice(0, AT_ONCE);
          if (lines.length === 0) return;
          const judged = await api.judgeAdverts({ list, lines });
          if (!current()) return;
          setListing((l) => l && { ...l, judged: [...l.judged, ...judged] });
        }
      };
      await Promise.all([work(), work()]);
      if (current()) setListing((l) => l && { ...l, done: true });
    } catch (e) {
      if (current()) setError(e as Error);
    } finally {
      if (current()) setBusy(false);
    }
  };
  const leave = () => {
    run.current++;
    setBusy(false);
    setListing((l) => l && { ...l, left: true });
  };
  return { listing, error, busy, start, leave };
}

export type Order = "surplus" | "a_year" | "p90" | "weights";

export type Weights = { surplus: number; a_year: number; p90: number };

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
