// What is done at purchase, what is budgeted for, watched or left; and what is done together.

import { useState } from "react";
import { Link } from "react-router";
import type {
  BundleJob,
  Candidate,
  CandidateView,
  PurchasePlan,
  JobBundle,
  MaintenancePolicy,
  JobAt,
  OwnChoice,
  PlannedPoint,
  PointRef,
} from "../../lib/api";
import { usePoints } from "../../lib/hooks";
import { whatIf } from "../../lib/whatIf";
import { money, percent } from "../../lib/format";
import { policyName, whySays } from "../../lib/words";
import { waysSay } from "../../parts/Said";

const policyMeans: Record<MaintenancePolicy, string> = {
  least_cost: "renewed now where that is expected to cost less than leaving it",
  up_front: "everything overdue, likely or nearly due",
  wait_for_signs: "what is there now, and what could hurt someone",
};

const same = (a: PointRef, b: PointRef) => a.family === b.family && a.point === b.point;

/** Decides points: renewed now, left, or by the policy again. */
export function decide(stored: CandidateView, changes: { at: PointRef; now: boolean | null }[]) {
  const before: OwnChoice[] = whatIf.candidate(stored).purchase_plan?.own ?? [];
  const kept = before.filter((o) => !changes.some((c) => same(c.at, o.at)));
  const own = changes.flatMap(({ at, now }) => (now === null ? [] : [{ at, now }]));
  whatIf.ask(stored, { own: [...kept, ...own] });
}

const pointOf = (at: JobAt): PointRef | null =>
  at.kind === "point" ? { family: at.family, point: at.point } : null;

function JobRow({ j, stored }: { j: BundleJob; stored: CandidateView }) {
  const at = pointOf(j.at);
  const { part: points } = usePoints(stored);
  const result = at && points?.find((p) => same(p.at, at));
  const ways = result ? waysSay(result.ways) : "";
  return (
    <div className="grid grid-cols-[1fr_auto_5.5rem] items-center gap-x-3 py-1">
      <span className="leading-tight">
        {at ? (
          <Link
            to={`/c/${stored.id}/road/${at.family}/${at.point}`}
            className="font-semibold underline decoration-1 underline-offset-4"
          >
            {j.name}
          </Link>
        ) : (
          <span className="font-semibold">{j.name}</span>
        )}
        <span className="block text-[0.95rem] text-soft">
          {j.job !== j.name && `${j.job}; `}
          {j.at.kind === "work" ? "overdue, so far as papers show" : whySays(j.why)}
          {j.own && j.why.kind !== "own" && "; you decided so"}
          {ways && <span className="block">{ways}</span>}
        </span>
      </span>
      <span className="text-right leading-tight">
        <span className="reading text-lg">{money(j.alone - j.shared)}</span>
        {j.shared >= 0.5 && <span className="block text-[0.88rem] text-soft">alone {money(j.alone)}</span>}
      </span>
      {at ? (
        <button
          type="button"
          className="btn px-2!"
          onClick={() => decide(stored, [{ at, now: j.own ? null : false }])}
        >
          {j.own ? "Free" : "Leave"}
          <span className="sr-only"> {j.name}</span>
        </button>
      ) : (
        <Link
          to={`/c/${stored.id}/papers/work`}
          className="flex min-h-11 items-center justify-center text-center text-[0.95rem] underline underline-offset-4"
        >
          Papers<span className="sr-only"> on {j.name}</span>
        </Link>
      )}
    </div>
  );
}

function Bundle({ bundle, stored }: { bundle: JobBundle; stored: CandidateView }) {
  const [single, ...others] = bundle.jobs;
  const open = bundle.neighbours.filter((x) => !x.taken);
  if (single && others.length === 0 && open.length === 0)
    return (
      <li className="border-b border-rule" data-testid="bundle">
        <JobRow j={single} stored={stored} />
      </li>
    );
  const saved = bundle.apart - bundle.together;
  const points = bundle.jobs.flatMap((j) => pointOf(j.at) ?? []);
  const locked = bundle.jobs.every((j) => j.own || j.at.kind === "work") && points.length > 0;
  const name =
    bundle.off.length > 0
      ? `While it is apart: ${bundle.off.join(", ").toLowerCase()}`
      : `${single?.name ?? ""}, and what lies beside it`;
  return (
    <li className="my-2 border-2 border-ink bg-raised px-3 py-1" data-testid="bundle">
      <details open>
        <summary className="grid min-h-11 cursor-pointer grid-cols-[1fr_auto] items-center gap-x-4">
          <span className="sign text-[1.15rem] leading-tight font-bold">
            {name}
            <span className="block text-[0.95rem] font-normal text-soft">
              {bundle.jobs.length} job{bundle.jobs.length === 1 ? "" : "s"}
              {saved >= 0.5 && `; one by one ${money(bundle.apart)}, together ${money(saved)} less`}
            </span>
          </span>
          <span className="reading text-xl">{money(bundle.together)}</span>
        </summary>
        <ul>
          {bundle.jobs.map((j) => (
            <li key={JSON.stringify(j.at)} className="border-t border-rule">
              <JobRow j={j} stored={stored} />
            </li>
          ))}
        </ul>
        {bundle.neighbours.length > 0 && (
          <div className="border-t-2 border-ink pt-1">
            <p className="sign text-base font-semibold">
              Neighbours, and the sum that speaks for or against each
            </p>
            <ul>
              {bundle.neighbours.map((x) => (
                <li
                  key={`${x.at.family}/${x.at.point}`}
                  className="grid grid-cols-[1fr_5.5rem] items-center gap-x-3 py-1"
                >
                  <span className="leading-tight">
                    {x.name}
                    {x.taken && <b> (taken)</b>}
                    <span className="block text-[0.95rem] text-soft">
                      {money(x.alone)} less {money(x.shared)} already off, and {money(x.fresh)} to come after:{" "}
                      <b>{money(x.now)}</b> done now, against <b>{money(x.later)}</b> if left
                    </span>
                  </span>
                  {x.taken ? (
                    <span />
                  ) : (
                    <button
                      type="button"
                      className="btn px-2!"
                      onClick={() => decide(stored, [{ at: x.at, now: true }])}
                    >
                      Do it<span className="sr-only"> too: {x.name}</span>
                    </button>
                  )}
                </li>
              ))}
            </ul>
          </div>
        )}
        {points.length > 0 && (
          <button
            type="button"
            className="btn btn-quiet"
            onClick={() =>
              decide(stored, [
                ...points.map((at) => ({ at, now: locked ? null : true })),
                ...open.map((x) => ({ at: x.at, now: locked ? null : false })),
              ])
            }
          >
            {locked ? "Let the policy decide again" : "Fix it as it stands"}
          </button>
        )}
      </details>
    </li>
  );
}

function Points({
  title,
  lead,
  points,
  stored,
}: {
  title: string;
  lead: string;
  points: PlannedPoint[];
  stored: CandidateView;
}) {
  const [all, setAll] = useState(false);
  if (points.length === 0) return null;
  const shown = all ? points : points.slice(0, 6);
  return (
    <section aria-label={title}>
      <h3 className="stretch grid grid-cols-[1fr_4rem_4rem_4.4rem] items-end gap-x-3">
        <span>
          {title} <span className="font-normal text-soft">{lead}</span>
        </span>
        <span className="text-right text-sm leading-tight font-normal">if left</span>
        <span className="text-right text-sm leading-tight font-normal">renewed now</span>
      </h3>
      <ul>
        {shown.map((p) => (
          <li
            key={`${p.at.family}/${p.at.point}`}
            className="grid grid-cols-[1fr_4rem_4rem_4.4rem] items-center gap-x-3 border-b border-rule py-1"
          >
            <span className="leading-tight">
              <Link
                to={`/c/${stored.id}/road/${p.at.family}/${p.at.point}`}
                className="font-semibold underline decoration-1 underline-offset-4"
              >
                {p.name}
              </Link>
              <span className="block text-[0.95rem] text-soft">
                {percent(p.p_plan)} within your plan
                {p.action === "watch" && p.sign && `; watch for: ${p.sign}`}
                {p.own && "; you decided to leave it"}
              </span>
            </span>
            <span className="reading text-right text-lg">{money(p.leave)}</span>
            <span className="reading text-right text-lg text-soft">{money(p.renew)}</span>
            <button
              type="button"
              className="btn px-2!"
              onClick={() => decide(stored, [{ at: p.at, now: p.own ? null : true }])}
            >
              {p.own ? "Free" : "Do it"}
              <span className="sr-only">: {p.name}</span>
            </button>
          </li>
        ))}
      </ul>
      {points.length > 6 && (
        <button type="button" className="btn btn-quiet" onClick={() => setAll(!all)}>
          {all ? "Fewer" : `${points.length - 6} more`}
        </button>
      )}
    </section>
  );
}

/** What to do at purchase, later and never. */
export function WhatToDo({
  plan,
  stored,
  candidate,
}: {
  plan: PurchasePlan;
  stored: CandidateView;
  candidate: Candidate;
}) {
  const of = (action: PlannedPoint["action"]) => plan.points.filter((p) => p.action === action);
  const quiet = of("nothing");
  const together = plan.bundles.reduce((sum, b) => sum + b.together, 0);
  const own = candidate.purchase_plan?.own ?? [];
  return (
    <section aria-label="What to do" className="lg:col-span-2">
      <h2 className="text-2xl">What to do, and when</h2>
      <div role="radiogroup" aria-label="When parts are renewed" className="mt-2 grid gap-2 sm:grid-cols-3">
        {plan.policies.map((s) => (
          <button
            key={s.policy}
            type="button"
            role="radio"
            aria-checked={plan.policy === s.policy}
            className="min-h-11 border-2 border-strong bg-raised px-3 py-2 text-left aria-checked:border-[3px] aria-checked:border-sea aria-checked:bg-sunk"
            onClick={() => whatIf.ask(stored, { policy: s.policy })}
          >
            <span className="flex items-baseline justify-between gap-2">
              <span className="sign text-lg font-bold">{policyName[s.policy]}</span>
              <span className="reading text-xl">{money(s.expected)}</span>
            </span>
            <span className="block text-[0.95rem] leading-tight text-soft">{policyMeans[s.policy]}</span>
            <span className="block text-[0.95rem] leading-tight">
              {s.renewed} point{s.renewed === 1 ? "" : "s"}; {money(s.at_purchase)} at purchase
            </span>
          </button>
        ))}
      </div>
      <div className="mt-5 grid gap-x-12 gap-y-5 lg:grid-cols-2">
        <section aria-label="At purchase">
          <h3 className="stretch flex justify-between gap-3">
            <span>
              At purchase <span className="font-normal text-soft">grouped by what must come off</span>
            </span>
            <span className="reading">{money(together)}</span>
          </h3>
          {plan.bundles.length === 0 && (
            <p className="py-2">Nothing needs doing at purchase, so far as is known.</p>
          )}
          <ul>
            {plan.bundles.map((b) => (
              <Bundle key={JSON.stringify(b.jobs[0]?.at)} bundle={b} stored={stored} />
            ))}
          </ul>
          {own.length > 0 && (
            <button type="button" className="btn btn-quiet" onClick={() => whatIf.ask(stored, { own: [] })}>
              Let the policy decide all {own.length} again
            </button>
          )}
        </section>
        <div className="flex flex-col gap-5">
          <Points title="Budget" lead="more likely than not" points={of("budget")} stored={stored} />
          <Points title="Watch" lead="may come, and gives a sign" points={of("watch")} stored={stored} />
          <Points title="Hold money" lead="may come without a sign" points={of("hold")} stored={stored} />
          {quiet.length > 0 && (
            <p>Nothing to do about {quiet.length} more, each under 5 % within your plan.</p>
          )}
        </div>
      </div>
    </section>
  );
}
