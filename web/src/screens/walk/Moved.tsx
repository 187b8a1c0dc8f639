import { useMemo, useState } from "react";
import type { CandidateView } from "../../lib/api";
import { money, percent } from "../../lib/format";

interface Moved {
  name: string;
  before: number;
  after: number;
}

/** What an entry moved: the view before it is remembered until the next entry. */
export function useMoved(view: CandidateView) {
  const [before, setBefore] = useState<CandidateView | null>(null);
  const moved: Moved[] = useMemo(() => {
    if (!before || before.road === view.road) return [];
    const old = new Map(before.road.points.map((p) => [`${p.at.family}/${p.at.point}`, p.p_plan]));
    return view.road.points
      .map((p) => ({
        name: p.name,
        before: old.get(`${p.at.family}/${p.at.point}`) ?? p.p_plan,
        after: p.p_plan,
      }))
      .filter((m) => Math.abs(m.before - m.after) >= 0.01)
      .sort((a, b) => Math.abs(b.before - b.after) - Math.abs(a.before - a.after))
      .slice(0, 3);
  }, [before, view.road]);
  return { before, moved, remember: () => setBefore(view) };
}

/** What the last entry moved; its room is kept so that nothing jumps. */
export function WhatMoved({
  view,
  before,
  moved,
}: {
  view: CandidateView;
  before: CandidateView | null;
  moved: Moved[];
}) {
  const bill = view.assessment.bill.mean;
  return (
    <div aria-live="polite" className="min-h-40">
      {!before ? (
        <p className="border-l-8 border-rule pl-3 text-soft">
          Tap an outcome, or press its number: what it moved is shown here, and the verdict moves with it.
        </p>
      ) : (
        <>
          <h2 className="text-xl">What that moved</h2>
          <ul>
            {moved.length === 0 && <li className="border-b border-rule py-1">No chance by as much as 1 %</li>}
            {moved.map((m) => (
              <li key={m.name} className="flex justify-between gap-3 border-b border-rule py-1">
                <span>{m.name}</span>
                <span className="reading whitespace-nowrap">
                  {percent(m.before)} → {percent(m.after)}
                </span>
              </li>
            ))}
            <li className="flex justify-between gap-3 py-1">
              <span>Bill within your plan</span>
              <span className="reading whitespace-nowrap">
                {money(before.assessment.bill.mean)} → {money(bill)}
              </span>
            </li>
          </ul>
        </>
      )}
    </div>
  );
}
