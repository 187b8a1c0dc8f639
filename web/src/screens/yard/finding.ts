// Which candidates of a long yard are shown, and in which order.

import type { JudgedEntry, VerdictKind, YardEntry } from "../../lib/api";

export type Order = "entered" | "surplus" | "price" | "name";

export const orders: Record<Order, string> = {
  entered: "as entered",
  surplus: "worth most above the price",
  price: "lowest price",
  name: "name",
};

export type Shown = "all" | VerdictKind | "ended";

export const shownWords: Record<Shown, string> = {
  all: "all",
  buy: "good as asked",
  negotiate: "good for less",
  not_yet: "undecided",
  walk_away: "to leave",
  ended: "bought or passed over",
};

const isJudged = (e: YardEntry): e is JudgedEntry => e.summary != null;

const words = (e: YardEntry) =>
  [e.title, ...(e.summary?.families ?? []), String(e.summary?.built ?? "")].join(" ").toLowerCase();

/** Whether an entry is of the kind that is asked for; one that cannot be judged is always shown. */
function is(e: YardEntry, shown: Shown): boolean {
  if (shown === "all" || !e.summary) return true;
  if (shown === "ended") return e.summary.ending != null;
  return e.summary.ending == null && e.summary.verdict === shown;
}

const by: Record<Order, (x: JudgedEntry, y: JudgedEntry) => number> = {
  entered: () => 0,
  surplus: (x, y) => y.summary.limit - y.summary.asking - (x.summary.limit - x.summary.asking),
  price: (x, y) => x.summary.asking - y.summary.asking,
  name: (x, y) => x.title.localeCompare(y.title),
};

/** Every word typed stands somewhere in what an entry is called; those that cannot be judged come first. */
export function found(yard: YardEntry[], text: string, shown: Shown, order: Order): YardEntry[] {
  const typed = text.toLowerCase().split(/\s+/).filter(Boolean);
  const kept = yard.filter((e) => is(e, shown) && typed.every((w) => words(e).includes(w)));
  return [...kept.filter((e) => !isJudged(e)), ...kept.filter(isJudged).sort(by[order])];
}
