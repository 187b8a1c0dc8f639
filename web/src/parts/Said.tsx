// What a sheet says beyond figures: ways of putting a fault right, what it takes along, advice, rules of care.

import { Link } from "react-router";
import type {
  Advised,
  Assessment,
  Calendar,
  CandidateView,
  PointRef,
  PointResult,
  RoadPoint,
  Rule,
  UpgradeResult,
  UsageUnit,
  Way,
} from "../lib/api";
import { capital, clockUnit, day, exact, money, signed, usage } from "../lib/format";
import { whatIf } from "../lib/whatIf";

const counted = [
  "seldom",
  "one",
  "two",
  "three",
  "four",
  "five",
  "six",
  "seven",
  "eight",
  "nine",
  "nearly always",
];

const inTen = (chance: number) => {
  const n = Math.round(chance * 10);
  return n % 10 === 0 ? (counted[n] ?? "") : `in ${counted[n]} of ten`;
};

const barredSays = (w: Way, chosen: boolean): string => {
  switch (w.barred?.kind) {
    case "variant":
      return "not on this variant, so far as is known";
    case "not_checked":
      return `only after the check “${w.barred.check}”`;
    case "too_bad":
      return `no longer possible: see “${w.barred.check}”`;
    case "no_parts":
      return "the parts are no longer to be had";
    default:
      return chosen ? "not taken: you chose another" : "dearer over your plan";
  }
};

/** The ways that are taken, as one sentence: what is tried first, and what follows where that is not all. */
export function waysSay(ways: Way[]): string {
  const taken = ways.filter((w) => w.done > 0);
  if (taken.length < 2) return "";
  return taken
    .map((w, i) => {
      const last = i === taken.length - 1;
      return `${i === 0 ? w.name : `else ${w.name.toLowerCase()}`}, ${money(w.cost.mean)}${last ? "" : `: ${inTen(w.suffices)} that is all`}`;
    })
    .join("; ");
}

/** What putting a point right is and costs, in a few words. */
export function repairSays(p: PointResult, range = false): string {
  const ways = waysSay(p.ways);
  if (ways) return ways;
  // A price without a job of its own bears the point's name.
  const job = p.job === p.name ? "Putting it right" : p.job;
  if (p.quoted) return `${job}: quoted ${exact(p.cost.mean)} by ${p.quoted.by}`;
  return range
    ? `${job}: ${money(p.cost.low)}, likely ${money(p.cost.likely)}, up to ${money(p.cost.high)}`
    : `${job}: about ${money(p.cost.mean)}`;
}

/** Takes one way of putting a point right, or leaves it to the cheapest again. */
function chooseWay(stored: CandidateView, at: PointRef, way: string | null) {
  const before = whatIf.candidate(stored).purchase_plan?.ways ?? [];
  const kept = before.filter((w) => w.at.family !== at.family || w.at.point !== at.point);
  whatIf.ask(stored, { ways: way === null ? kept : [...kept, { at, way }] });
}

/** Whether a person may take this way: what a check must tell first they may decide without it. */
const mayChoose = (w: Way) => !w.barred || w.barred.kind === "not_checked";

/** Every way of putting a fault right, and why some are not taken. */
function Ways({ ways, at, stored }: { ways: Way[]; at: PointRef; stored?: CandidateView | undefined }) {
  const chosen = ways.some((w) => w.chosen);
  return (
    <ol>
      {ways.map((w) => (
        <li
          key={w.name}
          className="grid grid-cols-[1fr_auto_auto] items-center gap-x-4 border-b border-rule py-1"
        >
          <span className="leading-tight">
            <b className="sign text-[1.05rem]">{w.name}</b>
            <span className="block text-[0.95rem] text-soft">
              {w.chosen && "chosen by you; "}
              {w.done > 0
                ? w.suffices < 1
                  ? `tried first; ${inTen(w.suffices)} that is all`
                  : w.done < 1
                    ? `needed ${inTen(w.done)}`
                    : w.chosen
                      ? "taken"
                      : "the cheapest over your plan"
                : barredSays(w, chosen)}
              {w.lasts !== 1 && `; lasts about ${w.lasts.toFixed(1)} times as long as the first part`}
            </span>
          </span>
          <span className="reading text-lg">{money(w.cost.mean)}</span>
          {stored && mayChoose(w) && (
            <button
              type="button"
              className="btn px-2!"
              aria-pressed={w.chosen ?? false}
              onClick={() => chooseWay(stored, at, w.chosen ? null : w.name)}
            >
              {w.chosen ? "Free" : "Choose"}
              <span className="sr-only"> {w.name}</span>
            </button>
          )}
        </li>
      ))}
    </ol>
  );
}

/** How a fault grows: what each stage costs, and how likely it is in it where it is there. */
function Stages({ stages, unit }: { stages: NonNullable<PointResult["stages"]>; unit: UsageUnit }) {
  return (
    <ol data-testid="stages">
      {stages.map((s) => (
        <li key={s.name} className="grid grid-cols-[1fr_auto] items-center gap-x-4 border-b border-rule py-1">
          <span className="leading-tight">
            <b className="sign text-[1.05rem]">{s.name}</b>
            <span className="block text-[0.95rem] text-soft">
              {capital(inTen(s.chance))} where it is there; lasts about {usage(s.tolerable, unit, 1000)}
            </span>
          </span>
          <span className="reading text-lg">{money(s.cost)}</span>
        </li>
      ))}
    </ol>
  );
}

/** What a failure that nobody catches may turn into, and the damage that may be done already. */
export function PuttingRight({
  p,
  stored,
  currency,
  clock,
}: {
  p: PointResult;
  /** Where a way may be chosen. */
  stored?: CandidateView;
  currency: string;
  clock: Assessment["clock"];
}) {
  if (
    p.ways.length === 0 &&
    p.along.length === 0 &&
    !p.done_already &&
    (p.stages ?? []).length === 0 &&
    !p.paid_for &&
    (p.disputed ?? []).length === 0
  )
    return null;
  return (
    <section data-testid="putting-right">
      <h2 className="stretch">Putting it right</h2>
      {p.ways.length > 0 && <Ways ways={p.ways} at={p.at} stored={stored} />}
      {(p.stages ?? []).length > 0 && <Stages stages={p.stages ?? []} unit={clockUnit(clock)} />}
      {p.along.length > 0 && (
        <ul className="mt-1">
          {p.along.map((t) => (
            <li key={t.name} className="leading-snug">
              Not caught in time it {t.instead ? "turns into" : "takes along"} <b>{t.name.toLowerCase()}</b>{" "}
              {inTen(t.chance)}: {money(t.cost)} {currency} more.
            </li>
          ))}
        </ul>
      )}
      {p.done_already && (
        <p className="mt-1 leading-snug">
          Where it is there it has done its damage already {inTen(p.done_already.chance)}:{" "}
          <b>{p.done_already.job.toLowerCase()}</b>, {money(p.done_already.cost)} {currency}.
        </p>
      )}
      {p.paid_for && (
        <p className="mt-1 leading-snug">
          <b>{p.paid_for.by}</b> pays for the job{" "}
          {p.paid_for.whole
            ? "all through your plan"
            : `until ${usage(p.paid_for.until, clockUnit(clock), 100)}`}
          {p.paid_for.accepted < 1 && `, ${inTen(p.paid_for.accepted)}`}
          {p.paid_for.proof && `; show ${p.paid_for.proof.replace(/\.$/, "")}`}.
        </p>
      )}
      {(p.disputed ?? []).length > 0 && (
        <p className="mt-1 leading-snug">
          They disagree on the cause:{" "}
          {(p.disputed ?? []).map((d) => `${d.name}: ${d.says.replace(/\.$/, "")}`).join("; ")}.
        </p>
      )}
    </section>
  );
}

const adviceWord: Record<Advised["kind"], string> = {
  avoid: "Leave it",
  only_if: "Only with proof",
  prefer: "One to look for",
  praise: "To its credit",
};

/** What the sheets advise on this variant. */
export function AdvisedList({ a, id }: { a: Assessment; id?: string }) {
  if (a.advised.length === 0) return null;
  return (
    <section data-testid="advised" className="mt-6">
      <h2 className="stretch">What is said of this build</h2>
      <ul>
        {a.advised.map((x) => (
          <li
            key={`${x.family}/${x.says}`}
            className="grid gap-x-4 border-b border-rule py-1.5 leading-snug sm:grid-cols-[9rem_1fr]"
          >
            <b className={`sign text-[1.05rem] ${x.kind === "avoid" ? "text-caution" : ""}`}>
              {adviceWord[x.kind]}
            </b>
            <span>
              {capital(x.says.replace(/\.$/, ""))}.
              <span className="block text-[0.95rem] text-soft">
                {x.source}, on the {x.family}
                {x.for_whom && `; for ${x.for_whom}`}
                {x.identify.length > 0 && "; whether it concerns this one is not known yet"}
                {x.proof && (
                  <>
                    {"; "}
                    {id ? (
                      <Link
                        className="underline underline-offset-4"
                        to={`/c/${id}/road/${x.proof.at.family}/${x.proof.at.point}`}
                      >
                        {x.proof.name}
                      </Link>
                    ) : (
                      x.proof.name
                    )}
                    {x.proof.given ? ": proved renewed" : ": no proof yet, ask for it"}
                  </>
                )}
              </span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What the sheets warn of, a sentence each: for paper. */
export function warnings(a: Assessment): string[] {
  const hard = a.advised.filter((x) => x.kind === "avoid" || x.kind === "only_if");
  return hard.map((x) => {
    const proof = x.proof ? (x.proof.given ? ", proved" : ", not proved") : "";
    return `${capital(x.says.replace(/\.$/, ""))} (${x.source.toLowerCase()}${proof}).`;
  });
}

/** How to treat it after purchase. */
export function Rules({ plan, clock }: { plan: Calendar; clock: Assessment["clock"] }) {
  const { rules, reminders } = plan;
  if (rules.length === 0) return null;
  const first = (r: Rule) => reminders.find((x) => x.rule === r.id);
  const every = (r: Rule) =>
    [
      r.every_usage != null && usage(r.every_usage, clockUnit(clock), 100),
      r.every_years != null && (r.every_years === 1 ? "year" : `${r.every_years} years`),
    ]
      .filter(Boolean)
      .join(" or ");
  return (
    <section data-testid="rules" className="mt-6">
      <h2 className="stretch">How to treat it</h2>
      <p className="text-[0.95rem] text-soft">The lives above suppose it.</p>
      <ul>
        {rules.map((r) => (
          <li key={r.id} className="border-b border-rule py-1.5 leading-snug">
            <b className="sign text-[1.05rem]">{capital(r.says.replace(/\.$/, ""))}</b>
            {every(r) && `, every ${every(r)}`}
            {first(r) && `, first on ${day(first(r)?.date ?? "")}`}.
            <span className="block text-[0.95rem] text-soft">
              {[
                r.why.replace(/\.$/, ""),
                r.points.length > 0 && `bears on ${r.points.join(", ").toLowerCase()}`,
              ]
                .filter(Boolean)
                .join("; ")}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** A tune as the sheets see it: the power against what standard parts bear, and what does not last as long. */
export function TunedList({ a }: { a: Assessment }) {
  const list = a.tuned ?? [];
  if (list.length === 0) return null;
  return (
    <section data-testid="tuned" className="mt-6">
      <h2 className="stretch">More power than its maker gave it</h2>
      <ul>
        {list.map((t) => (
          <li key={`${t.family}/${t.name}`} className="border-b border-rule py-1.5 leading-snug">
            <b className="sign text-[1.05rem]">{t.name}</b>:{" "}
            {t.power_kw == null ? "nobody measured what it gives" : `${Math.round(t.power_kw)} kW`};{" "}
            {Math.round(t.standard_kw)} kW from its maker, and its standard parts bear{" "}
            {Math.round(t.limit_kw)}
            {t.beyond === "yes" && <b className="text-caution">: it gives more than they bear</b>}.
            {t.points.length > 0 && (
              <span className="block">
                While it is tuned these come sooner:{" "}
                {t.points
                  .map((p) => `${p.name}, at ${Math.round(100 * p.lasts)} % of its usual life`)
                  .join("; ")}
                .
              </span>
            )}
            <span className="block text-[0.95rem] text-soft">
              {t.caution && `${capital(t.caution.replace(/\.$/, ""))}. `}
              {t.source}, on the {t.family}. A tune that is not on its papers may end its approval and its
              insurance: ask the insurer and the local rules.
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What may be fitted to cure a point or to make it last: what it costs, and what it saves within the plan. */
export function Upgrades({ list, currency }: { list: UpgradeResult[]; currency: string }) {
  if (list.length === 0) return null;
  return (
    <section data-testid="upgrades">
      <h2 className="stretch">Better than the works fitted</h2>
      <p className="text-[0.95rem] text-soft">None of it is in the bill.</p>
      <ul>
        {list.map((u) => {
          const left = u.saves - u.cost;
          return (
            <li
              key={`${u.family}/${u.name}`}
              className="grid grid-cols-[1fr_auto] gap-x-4 border-b border-rule py-1.5 leading-snug"
            >
              <span>
                <b className="sign text-[1.05rem]">{u.name}</b>,{" "}
                {u.points.map((p) => p.name.toLowerCase()).join(", ")}: costs {money(u.cost)}, saves about{" "}
                {money(u.saves)} within your plan.
                {u.caution && (
                  <span className="block text-[0.95rem] text-soft">
                    {u.caution.replace(/\.$/, "")}. Ask first whether it is allowed where you drive.
                  </span>
                )}
                {u.identify.length > 0 && (
                  <span className="block text-[0.95rem] text-soft">
                    Whether it fits this one is not known yet.
                  </span>
                )}
              </span>
              <span className="text-right">
                <span className="reading text-lg">{signed(left)}</span>
                <span className="block text-[0.88rem] text-soft">
                  {left >= 0 ? "pays" : "does not pay"}, {currency}
                </span>
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

/** The damage that a fault of one of these points may have done already, for the moment it is found. */
export function alreadySays(points: Pick<RoadPoint, "name" | "done_already">[]): string {
  const done = points.filter((p) => p.done_already);
  return done
    .map(
      (p) =>
        `${p.name}: where it is there, ${(p.done_already?.job ?? "").toLowerCase()} is needed as well ${inTen(p.done_already?.chance ?? 0)}; look for it`,
    )
    .join(". ");
}
