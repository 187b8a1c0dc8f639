import { Link } from "react-router";
import type { Assessment, CandidateView, PointResult, RoadPoint } from "../../lib/api";
import { usePoints } from "../../lib/hooks";
import { verdictLine } from "../../parts/Milestone";
import { RoadThumb, roadOf } from "../../charts/Road";
import { AdvisedList, TunedList, repairSays } from "../../parts/Said";
import { Tally } from "../../parts/Tally";
import { After } from "./After";
import { OfferLines } from "./OfferLines";
import { Links } from "./Links";
import { LimitSum, Price } from "./Price";
import { Report } from "./Issue";
import { Deciding, Knowledge, PriceLine, Reasons, WouldChange } from "./parts";
import { basisSays, limitSays } from "./says";
import { money, percent } from "../../lib/format";
import { blockerSays, lateAtMost } from "../../lib/words";

function Years({ a }: { a: Assessment }) {
  const top = Math.max(...a.bill.by_year, 1);
  return (
    <ol className="grid auto-cols-fr grid-flow-col gap-2" aria-label="Money by year of the plan">
      {a.bill.by_year.map((y, i) => {
        const now = i === 0 ? a.bill.now : 0;
        return (
          <li key={i} className="flex flex-col justify-end text-center">
            <span className="reading text-lg">{money(y)}</span>
            <svg width="100%" height="72" viewBox="0 0 10 72" preserveAspectRatio="none" aria-hidden="true">
              <rect x="0" y={72 - (y / top) * 70} width="10" height={(y / top) * 70} fill="var(--sea)" />
              <rect x="0" y={72 - (now / top) * 70} width="10" height={(now / top) * 70} fill="var(--ink)" />
            </svg>
            <span className="sign border-t-2 border-ink text-base">year {i + 1}</span>
          </li>
        );
      })}
    </ol>
  );
}

function JobLine({ p, point, id }: { p: RoadPoint; point: PointResult | undefined; id: string }) {
  return (
    <li className="grid grid-cols-[1fr_auto_4.5rem_2.8rem] items-center gap-x-3 border-b border-rule py-1">
      <span className="leading-tight">
        <Link
          to={`/c/${id}/road/${p.at.family}/${p.at.point}`}
          className="sign text-lg font-bold underline decoration-1 underline-offset-4"
        >
          {p.name}
        </Link>
        <span className="block min-h-[1.4em] text-sm text-soft">{point && repairSays(point, true)}</span>
      </span>
      <span className="reading text-right text-lg">{percent(p.p_plan)}</span>
      <span className="reading text-right text-lg">{money(p.expected_cost)}</span>
      <Tally grade={p.grade} />
    </li>
  );
}

/** What leaves the application. */
function Exports({ view }: { view: CandidateView }) {
  const files = [
    { to: "archive.zip", name: "All of it, photos too" },
    { to: "export", name: "Candidate and sheets" },
    { to: "bill.csv", name: "Bill as a table" },
    { to: "findings.csv", name: "Findings as a table" },
    { to: "calendar.ics", name: "Calendar" },
  ];
  return (
    <div className="no-print mt-4 flex flex-wrap gap-3">
      <Link className="btn btn-main" to={`/c/${view.id}/verdict/report`}>
        The report
      </Link>
      {files.map((f) => (
        <a key={f.to} className="btn" href={`/api/candidates/${view.id}/${f.to}`} download>
          {f.name}
        </a>
      ))}
    </div>
  );
}

const pages = [
  { part: undefined, name: "Decision" },
  { part: "price", name: "What it is worth" },
  { part: "report", name: "Report" },
  { part: "after", name: "After" },
] as const;

export function Verdict({ view, part }: { view: CandidateView; part?: string | undefined }) {
  return (
    <>
      <nav
        aria-label="Parts of the verdict"
        className="no-print mb-4 flex flex-wrap gap-x-1 border-b-2 border-rule"
      >
        {pages.map((p) => (
          <Link
            key={p.name}
            to={`/c/${view.id}/verdict${p.part ? `/${p.part}` : ""}`}
            aria-current={part === p.part ? "page" : undefined}
            className="sign flex min-h-11 items-center border-b-4 border-transparent px-2 text-base sm:px-3 sm:text-[1.1rem] font-semibold aria-[current=page]:border-sea"
          >
            {p.name}
          </Link>
        ))}
      </nav>
      {part === "price" ? (
        <Price view={view} />
      ) : part === "report" ? (
        <Report view={view} />
      ) : part === "after" ? (
        <After view={view} />
      ) : (
        <Decision view={view} />
      )}
    </>
  );
}

function Decision({ view }: { view: CandidateView }) {
  const { assessment: a, candidate } = view;
  const { verdict, value } = a;
  const { part: points } = usePoints(view);
  const likely = view.road.points.filter((p) => p.expected_cost >= 15).slice(0, 10);
  const work = a.due.filter((d) => d.now >= 0.5 || d.in_plan >= 0.5);
  return (
    <div className="grid gap-x-12 gap-y-6 lg:grid-cols-[1fr_1fr]">
      <section className="lg:col-span-2">
        <p className="sign text-lg text-soft">
          {candidate.title}, as of {a.as_of}
        </p>
        <div className="grid items-center gap-x-12 gap-y-2 lg:grid-cols-2">
          <div>
            <h1 className="text-5xl" data-testid="verdict">
              {verdictLine(verdict.kind, value.limit)}
            </h1>
            <p className="mt-1 flex items-center gap-3">
              <Tally grade={a.grade} word />
              <span>
                {a.checks_done} of {a.checks_total} checks done
              </span>
            </p>
          </div>
          <PriceLine a={a} />
        </div>
        <div className="mt-2">
          <RoadThumb
            data={roadOf(a, view.road.points)}
            label="The road of this candidate, with the money that leaves along it."
          />
        </div>
      </section>

      {a.blockers.length > 0 && (
        <section className="lg:col-span-2">
          <h2 className="stretch">Blockers</h2>
          <ul>
            {a.blockers.map((g, i) => {
              const says = blockerSays(g);
              return (
                <li key={i} className="mt-2 border-l-8 border-caution bg-caution-bg px-4 py-2 text-caution">
                  <b className="sign text-xl">
                    {g.kind === "stop" ? "Stop" : "Prove first"}: {says.title}
                  </b>
                  <p>{says.say}</p>
                </li>
              );
            })}
          </ul>
        </section>
      )}

      <Deciding a={a} id={view.id} />
      <Reasons title="Speaks for it" reasons={verdict.reasons_for} a={a} id={view.id} />
      <Reasons title="Speaks against it" reasons={verdict.reasons_against} a={a} id={view.id} />

      <WouldChange a={a} />
      <Knowledge a={a} />
      {(a.advised.length > 0 || (a.tuned ?? []).length > 0) && (
        <div className="lg:col-span-2">
          <AdvisedList a={a} id={view.id} />
          <TunedList a={a} />
        </div>
      )}
      <OfferLines view={view} />
      <div className="flex flex-col gap-6">
        <LimitSum view={view} />
        <section>
          <h2 className="stretch">When the money leaves, {a.currency}</h2>
          <p className="mb-2 text-sm text-soft">
            About {money(a.bill.mean)} in all; {money(a.bill.now)} of it, drawn black, at once: to put right
            what is there now, and for scheduled work that nothing proves done.
          </p>
          <Years a={a} />
        </section>
      </div>

      <section className="lg:col-span-2">
        <h2 className="stretch flex justify-between">
          <span>What it may need</span>
          <span className="text-sm font-normal">chance within your plan · expected {a.currency}</span>
        </h2>
        <ul>
          {likely.map((p) => (
            <JobLine
              key={`${p.at.family}/${p.at.point}`}
              p={p}
              point={points?.find((x) => x.at.family === p.at.family && x.at.point === p.at.point)}
              id={view.id}
            />
          ))}
        </ul>
      </section>

      {work.length > 0 && (
        <section className="lg:col-span-2">
          <h2 className="stretch flex justify-between">
            <span>Scheduled work</span>
            <span className="text-sm font-normal">at once · within your plan, {a.currency}</span>
          </h2>
          <ul>
            {work.map((d) => (
              <li
                key={`${d.family}/${d.interval}`}
                className="grid grid-cols-[1fr_4.5rem_4.5rem] items-center gap-x-3 border-b border-rule py-1"
              >
                <span className="leading-tight">
                  <b className="sign text-lg">{d.name}</b>
                  <span className="block text-sm text-soft">
                    {lateAtMost(d)
                      ? "perhaps overdue; nothing is due"
                      : d.overdue
                        ? "overdue, so far as papers show; in date"
                        : "not due yet; in date"}{" "}
                    with a chance of {percent(d.chance_done)}
                  </span>
                </span>
                <span className="reading text-right text-lg">{money(d.now)}</span>
                <span className="reading text-right text-lg">{money(d.in_plan)}</span>
              </li>
            ))}
          </ul>
        </section>
      )}

      <section className="lg:col-span-2">
        <h2 className="stretch">How far to trust it</h2>
        <p className="max-w-4xl py-1">
          An estimate from stated assumptions ({a.assumptions}), not a warranty. The going price of{" "}
          {money(value.reference.price)} is {basisSays(a)}; another of its age and usage would be expected to
          cost {money(a.bill.reference)} in the same plan. Local roadworthiness rules and licensed technicians
          take precedence. Do not drive it with a dangerous defect.
        </p>
        <ul className="list-disc pl-5">
          {a.limits.map((l) => (
            <li key={l}>{limitSays[l]}</li>
          ))}
          {a.approximate && (
            <li>Some findings were weighed one after another: together they have too many states.</li>
          )}
        </ul>
        <Exports view={view} />
        <Links view={view} />
      </section>
    </div>
  );
}
