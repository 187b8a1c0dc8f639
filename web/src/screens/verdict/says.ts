// The decision in sentences, built from its numbers.

import type { Assessment, OfferLine, Reason, RoadPoint, WholeView } from "../../lib/api";
import { clockUnit, day, money, percent, usage } from "../../lib/format";
import { blockerSays, evidenceWord, provenanceWord } from "../../lib/words";

export function reasonSays(r: Reason, a: Assessment): string {
  const plan = usage(a.horizon, clockUnit(a.clock), 100);
  switch (r.kind) {
    case "price_below_limit":
      return `It is offered ${money(r.amount)} below what it is worth to you.`;
    case "price_above_limit":
      return `It is offered ${money(r.amount)} above what it is worth to you.`;
    case "bill_below_reference":
      return `Expect ${money(r.amount)} less to spend than on another of its age and usage.`;
    case "bill_above_reference":
      return `Expect ${money(r.amount)} more to spend than on another of its age and usage.`;
    case "fault_likely":
      return r.now > 0.5
        ? `${r.name}: probably there now (${percent(r.now)}). About ${money(r.amount)} within your plan.`
        : `${r.name}: ${percent(r.chance)} within your ${plan}, about ${money(r.amount)} in expectation.`;
    case "renewed":
      return `${r.name}: renewed, on paper. ${money(r.amount)} less to expect.`;
    case "looks_sound":
      return `${r.name}: looks sound. ${money(r.amount)} less to expect.`;
    case "not_asked":
      return `Nobody has asked for the history report: ${money(r.amount)} held back for what it may say.`;
    case "marked":
      return `${marksSay(a)}: ${money(r.amount)} off the going price.`;
    case "blocker": {
      const g = a.blockers[r.blocker];
      return g ? `${blockerSays(g).title}.` : "";
    }
    case "not_looked_at":
      return `${r.checks} check${r.checks > 1 ? "s" : ""} not done that could change your mind; the best is worth about ${money(r.amount)}.`;
  }
}

/** What is marked on it, in words. */
export function marksSay(a: Assessment): string {
  const words = a.value.marks.map((m) => m.name ?? (m.item ? provenanceWord[m.item] : "") ?? "");
  const say = words.join(", ");
  return say.charAt(0).toUpperCase() + say.slice(1);
}

/** What clears a blocker. */
export function clears(blocker: Assessment["blockers"][number]): string {
  if (blocker.cause.kind === "campaign") return `${blocker.cause.name}: proved done.`;
  if (blocker.cause.kind === "odometer") return "A paper that proves what the clock hides.";
  if (blocker.cause.kind === "danger") return `${blocker.cause.name}: looked at, or put right.`;
  if (blocker.cause.kind === "identity") return "The VIN read from the vehicle again, and right.";
  return `${blockerSays(blocker).title}: proved settled.`;
}

/** Where the going price comes from. */
export function basisSays(a: Assessment): string {
  const r = a.value.reference;
  const kind = r.example === "well_sorted" ? "well-sorted" : "typical";
  if (r.basis === "asking") return "the asking price itself, because no comparable is known";
  if (r.basis === "surface") return `what ${r.count} ${kind} comparables say of this usage and age`;
  if (r.basis === "median")
    return `the median of ${r.count} ${kind} comparable${r.count === 1 ? "" : "s"}${r.rising ? ", because a line through them would rise" : ""}`;
  return `a line through ${r.count} ${kind} comparables at this usage`;
}

/** A line of the argument: what it is about, and what stands behind it. */
export function lineSays(
  l: OfferLine,
  { assessment: a, road }: WholeView,
): { title: string; behind: string[] } {
  const unit = clockUnit(a.clock);
  const behind = l.evidence.map((e) => {
    switch (e.kind) {
      case "finding": {
        const reading = e.reading == null ? "" : ` (${e.reading} ${e.unit})`;
        return `Found: ${e.name}: ${e.outcome.toLowerCase()}${reading}${e.note ? `. ${e.note}` : ""}`;
      }
      case "said":
        return `Only ${evidenceWord[e.evidence] ?? e.evidence} at ${usage(e.usage, unit, 100)} says it was done`;
      case "no_paper":
        return "No paper says that it was ever done";
      case "due":
        return `Due at ${usage(e.usage, unit, 100)} or on ${day(e.date)}`;
      case "unseen":
        return "By age, usage and papers; look at it before you argue it";
    }
  });
  switch (l.about.kind) {
    case "going_price":
      return {
        title: l.amount >= 0 ? "Asked above the going price" : "Asked below the going price",
        behind: [`Going price ${money(l.about.price)}: ${basisSays(a)}`],
      };
    case "fault": {
      const { at } = l.about;
      const points: Pick<RoadPoint, "at" | "quoted">[] = road?.points ?? a.points ?? [];
      const quoted = points.find((p) => p.at.family === at.family && p.at.point === at.point)?.quoted;
      return {
        title: `${l.about.name}: ${l.about.job}`,
        behind: [
          ...(quoted ? [`Quoted by ${quoted.by}, ${day(quoted.date)}`] : []),
          `${percent(l.about.chance)} that it is there`,
          ...behind,
        ],
      };
    }
    case "overdue":
      return { title: `${l.about.name}: overdue`, behind };
    case "rest":
      return l.amount >= 0
        ? {
            title: "What else it is likely to need",
            behind: ["Beyond what another of its age and usage would, over your plan"],
          }
        : {
            title: "Less what the going price allows for already",
            behind: ["Another of its age and usage would need part of this too"],
          };
    case "risk_margin":
      return {
        title: l.amount >= 0 ? "Room for bad luck" : "Less bad luck than others have",
        behind: ["By your appetite for risk, beyond what the market allows"],
      };
    case "marked":
      return { title: `${marksSay(a)}: a lower going price`, behind: ["Take it off before anything else"] };
    case "not_asked":
      return {
        title: "What nobody has asked of the history report",
        behind: ["Held back for what it may say; ask, and it goes or is known"],
      };
    case "bound":
      return l.about.bound === "scrap"
        ? { title: "Never less than its scrap", behind: [] }
        : { title: "Never more than the best of its kind costs", behind: [] };
  }
}

export const limitSays: Record<Assessment["limits"][number], string> = {
  later_visits_apart:
    "Jobs after the day of purchase are counted one by one; doing neighbours together then would cost a little less.",
};
