import { Link } from "react-router";
import type { Assessment, PointResult, RoadPoint, WhyKind } from "../lib/api";
import { rampStep } from "../charts/axis";
import { whenSays } from "../lib/when";
import { OnItsWay } from "./OnItsWay";
import { Tally } from "./Tally";
import { clockUnit, money, percent, usage } from "../lib/format";

const stepWord: Record<WhyKind, string> = {
  at_build: "the family, from new",
  survived: "it got this far",
  use: "how it is used",
  papers: "what is on paper",
  findings: "what was found",
  worn_by: "what else wears it",
};

/** From family to this vehicle: one column for each kind of evidence. */
export function Waterfall({ point }: { point: PointResult }) {
  const tall = 34;
  return (
    <ol
      className={`grid gap-1.5 sm:gap-3 ${point.why.length > 5 ? "grid-cols-6" : "grid-cols-5"}`}
      aria-label="How the chance came about"
    >
      {point.why.map((w, i) => {
        const before = point.why[i - 1]?.chance;
        const still = before !== undefined && Math.abs(before - w.chance) < 0.005;
        return (
          <li key={w.kind} className="flex flex-col">
            <span className="reading text-lg leading-none">{still ? "same" : percent(w.chance)}</span>
            <svg
              width="100%"
              height={tall + 2}
              aria-hidden="true"
              preserveAspectRatio="none"
              viewBox={`0 0 10 ${tall + 2}`}
            >
              <rect
                x="0"
                y={tall - w.chance * tall}
                width="10"
                height={Math.max(w.chance * tall, 1)}
                fill={still ? "var(--past)" : `var(--ramp-${rampStep(w.chance)})`}
              />
              <line x1="0" x2="10" y1={tall + 0.5} y2={tall + 0.5} stroke="var(--ink)" strokeWidth="1.5" />
            </svg>
            <span className="text-[0.85rem] leading-tight">{stepWord[w.kind]}</span>
          </li>
        );
      })}
    </ol>
  );
}

/** Why a point stands where it does, in words and numbers. */
export function Why({
  line,
  point,
  away,
  assessment,
  id,
}: {
  line: RoadPoint;
  /** All that stands behind the line, once it is there. */
  point: PointResult | undefined;
  /** It is not on this device, and cannot come now. */
  away: boolean;
  assessment: Assessment;
  id: string;
}) {
  const unit = clockUnit(assessment.clock);
  return (
    <div className="grid gap-x-7 gap-y-3 lg:grid-cols-[14rem_25rem_1fr]">
      <div>
        <h3 className="text-xl leading-tight">
          Why {percent(line.p_plan)} for {line.name.toLowerCase()}
        </h3>
        <p className="text-[0.95rem] leading-snug">
          within your {usage(assessment.horizon, unit, 100)}; {percent(line.p_now)} now
        </p>
        <p className="flex items-center gap-3">
          <Tally grade={line.grade} word />
          <Link
            to={`/c/${id}/road/${line.at.family}/${line.at.point}`}
            className="sign inline-flex min-h-11 items-center font-semibold text-sea underline underline-offset-4"
          >
            Who claims what
          </Link>
        </p>
      </div>
      {point ? (
        <Behind point={point} assessment={assessment} />
      ) : (
        <OnItsWay what="The steps behind it" away={away} className="text-soft lg:col-span-2" />
      )}
    </div>
  );
}

/** The steps of the why, and what the job is. */
function Behind({ point, assessment }: { point: PointResult; assessment: Assessment }) {
  const when = whenSays(point, assessment);
  const spread = point.sources.length > 1 ? point.sources : [];
  return (
    <>
      <Waterfall point={point} />
      <dl className="grid grid-cols-[auto_1fr] content-start gap-x-3 gap-y-0.5 text-[0.9rem] leading-tight">
        <dt className="sign font-semibold">The job</dt>
        <dd>
          {point.job}: {money(point.cost.low)} to {money(point.cost.high)}
          {point.worst_cost > point.cost.mean * 1.05 && `; ${money(point.worst_cost)} if it goes unnoticed`}
        </dd>
        {when && (
          <>
            <dt className="sign font-semibold">If it comes</dt>
            <dd>{when}</dd>
          </>
        )}
        {spread.length > 0 && (
          <>
            <dt className="sign font-semibold">By source</dt>
            <dd>{spread.map((s) => `${s.name} ${percent(s.chance)}`).join("; ")}</dd>
          </>
        )}
        {point.sign && (
          <>
            <dt className="sign font-semibold">Watch for</dt>
            <dd>{point.sign}</dd>
          </>
        )}
        {point.identify.length > 0 && (
          <>
            <dt className="sign font-semibold">Identify</dt>
            <dd>
              it may not concern this variant: settle “
              {point.identify.join(", ").replace("serial", "serial number")}” in the advert
            </dd>
          </>
        )}
      </dl>
    </>
  );
}
