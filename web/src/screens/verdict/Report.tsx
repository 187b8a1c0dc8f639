// The report as a customer reads it: one page first, then what stands behind it. Made for paper.

import { useState, type ReactNode } from "react";
import type { AssumptionRow, BillSpread, WholeView, Check, Finding, IssuedReport } from "../../lib/api";
import { usePhotoAt } from "../../parts/Shared";
import { verdictLine } from "../../parts/Milestone";
import { RoadThumb, roadOf } from "../../charts/Road";
import { warnings } from "../../parts/Said";
import { Tally } from "../../parts/Tally";
import { OfferLines } from "./OfferLines";
import { LimitSum } from "./Price";
import { Knowledge, PriceLine, Reasons, WouldChange } from "./parts";
import { basisSays, limitSays } from "./says";
import { clockUnit, day, exact, moment, money, percent, usage, whole } from "../../lib/format";
import { blockerSays, hazardSays, lateAtMost, phaseWord, policyName, whySays } from "../../lib/words";

function Section({
  title,
  children,
  apart = false,
}: {
  title: string;
  children: ReactNode;
  apart?: boolean;
}) {
  return (
    <section className={`mt-6 ${apart ? "report-apart" : ""}`}>
      <h2 className="mb-1 border-b-4 border-ink text-2xl">{title}</h2>
      {children}
    </section>
  );
}

const resultWord: Record<string, string> = {
  skipped: "not done",
  could_not: "could not be done",
  ask_seller: "to be asked of the seller",
};

/** The finding that holds for a check. */
function holds(view: WholeView, family: string, check: string): Finding | undefined {
  return (view.candidate.findings ?? [])
    .filter((f) => f.family === family && f.check === check && !f.undone && f.result.kind !== "acknowledged")
    .at(-1);
}

function FindingLine({
  view,
  family,
  check,
  outcome,
}: {
  view: WholeView;
  family: string;
  check: Check;
  outcome: number;
}) {
  const finding = holds(view, family, check.id);
  const photoAt = usePhotoAt(view.id);
  const photos = view.attachments.filter(
    (x) => x.family === family && x.check === check.id && x.media === "image/jpeg",
  );
  const label = check.outcomes[outcome]?.label ?? "";
  return (
    <li className="report-line border-b border-rule py-1.5">
      <div className="grid grid-cols-[1fr_auto] gap-x-4">
        <span>
          <b className="sign text-[1.05rem]">{check.name}</b>
          {finding?.note && <span className="block text-[0.95rem]">{finding.note}</span>}
        </span>
        <span className={outcome > 0 ? "font-bold" : ""}>
          {label}
          {finding?.reading != null && check.measure && (
            <span className="reading">
              {" "}
              {Math.round(finding.reading * 100) / 100} {check.measure.unit}
            </span>
          )}
        </span>
      </div>
      {photos.length > 0 && (
        <div className="mt-1 grid grid-cols-3 gap-2">
          {photos.map((p) => (
            <img
              key={p.id}
              src={photoAt(p.id)}
              alt={`${check.name}: ${p.name}`}
              className="max-h-44 w-full border border-ink object-cover"
            />
          ))}
        </div>
      )}
    </li>
  );
}

/** Lines of the bill on paper without the annex: what comes after them is one sum. */
const LINES = 12;

/** The report itself. */
export function ReportSheet({
  view,
  bill,
  names,
  table,
  issued,
  ready,
}: {
  view: WholeView;
  bill: BillSpread | undefined;
  names: string[];
  table?: AssumptionRow[] | undefined;
  /** How it was issued; none while it is a draft. */
  issued?: IssuedReport | undefined;
  ready: boolean;
}) {
  const [annex, setAnnex] = useState(false);
  const { assessment: a, candidate } = view;
  const unit = clockUnit(a.clock);
  const checks = view.checks ?? [];
  const done = checks.filter((c) => c.outcome != null);
  const amiss = done.filter((c) => (c.outcome ?? 0) > 0);
  const sound = done.filter((c) => c.outcome === 0);
  const open = checks.filter((c) => c.outcome == null);
  const hazards = [...new Set(checks.flatMap((c) => c.check.hazards ?? []))];
  const pictured = (c: (typeof sound)[number]) =>
    view.attachments.some((x) => x.family === c.family && x.check === c.check.id && x.media === "image/jpeg");
  // What is worth a line; the rest is one sum.
  const least = a.value.reference.price / 100;
  const all = a.points ?? [];
  const told = all.filter((p) => annex || p.expected_cost >= least || p.p_now >= 0.5);
  const points = annex ? told : told.slice(0, LINES);
  const others = all.filter((p) => !points.includes(p));
  const rest = others.reduce((sum, p) => sum + p.expected_cost, 0);
  const work = a.due.filter((d) => d.now >= 0.5 || d.in_plan >= 0.5);
  return (
    <div data-ready={ready} className="report mx-auto max-w-[43rem]" data-testid="report-sheet">
      <div className="no-print mb-4 flex flex-wrap items-center gap-3">
        <button type="button" className="btn btn-main" disabled={!ready} onClick={() => print()}>
          Print, or save as PDF
        </button>
        <label className="flex min-h-11 items-center gap-2">
          <input
            type="checkbox"
            className="h-6 w-6 accent-(--sea)"
            checked={annex}
            onChange={(e) => setAnnex(e.target.checked)}
          />
          with the annex: every point, every sum, the assumptions
        </label>
      </div>

      <div className="report-first">
        <p className="sign flex justify-between gap-4 border-b-2 border-ink text-base">
          <span>Tick Sage: report on a used {unit === "h" ? "engine" : "vehicle"}</span>
          <span>
            {issued ? `No ${issued.number}, ${moment(issued.issued_at)}` : `draft, ${day(a.as_of)}`}
          </span>
        </p>
        {issued && (
          <p className="text-[0.95rem]">
            Inspected at {issued.place} by {issued.inspector}
            {issued.replaces && `; takes the place of No ${issued.replaces.number}`}
            {issued.why && `: ${issued.why}`}.
          </p>
        )}
        <h1 className="mt-3 text-4xl">{candidate.title}</h1>
        <p className="text-[0.95rem]">
          {names.join(" · ")}. Built {day(candidate.built)}; {usage(a.usage_now, unit)};
          {candidate.vin && ` VIN ${candidate.vin};`}
          {candidate.plate && ` plate ${candidate.plate};`} asked {exact(candidate.asking)}{" "}
          {candidate.currency}. Plan: {candidate.plan.years} years of {usage(a.usage_a_year, unit, 100)}.
        </p>
        <div className="report-pair mt-3 grid items-center gap-x-8 gap-y-2 sm:grid-cols-2">
          <div>
            <p className="sign text-base">Verdict</p>
            <p className="sign text-5xl leading-none font-extrabold">
              {verdictLine(a.verdict.kind, a.value.limit)}
            </p>
            <p className="mt-2 flex items-center gap-3">
              <Tally grade={a.grade} word />
              <span>
                worth at most <b className="reading text-xl">{money(a.value.limit)}</b> {a.currency}
              </span>
            </p>
          </div>
          <PriceLine a={a} />
        </div>
        <div className="mt-2">
          <RoadThumb data={roadOf(a)} label="The road of this one, with the money that leaves along it" />
        </div>
        <dl className="report-figures mt-3 grid grid-cols-2 gap-x-6 gap-y-2 border-y-2 border-ink py-2 sm:grid-cols-4">
          {[
            ["open at", a.offer.open == null ? "no offer" : money(a.offer.open)],
            ["expected within the plan", money(a.bill.mean)],
            ["one future in ten beyond", money(a.bill.p90)],
            [
              "at purchase",
              bill ? money(bill.purchase_plan.bundles.reduce((sum, b) => sum + b.together, 0)) : "…",
            ],
          ].map(([name, figure]) => (
            <div key={name}>
              <dt className="sign text-base leading-tight">{name}</dt>
              <dd className="reading text-2xl">{figure}</dd>
            </div>
          ))}
        </dl>
        {a.blockers.length > 0 && (
          <p className="mt-2 border-2 border-ink px-3 py-1.5">
            <b>
              {a.blockers.length} blocker{a.blockers.length === 1 ? "" : "s"} closed:
            </b>{" "}
            {a.blockers.map((g) => blockerSays(g).title).join("; ")}.
          </p>
        )}
        <div className="report-pair mt-3 grid gap-x-8 gap-y-3 sm:grid-cols-2">
          <Reasons title="Speaks for it" reasons={a.verdict.reasons_for} a={a} id={view.id} />
          <Reasons title="Speaks against it" reasons={a.verdict.reasons_against} a={a} id={view.id} />
        </div>
        <div className="mt-3">
          <WouldChange a={a} />
        </div>
        {bill && bill.purchase_plan.bundles.length > 0 && (
          <section className="mt-3">
            <h2 className="stretch">First of all, when it is yours</h2>
            <ul className="report-columns">
              {bill.purchase_plan.bundles
                .flatMap((b) => b.jobs)
                .slice(0, 8)
                .map((j) => (
                  <li
                    key={JSON.stringify(j.at)}
                    className="report-line flex justify-between gap-3 border-b border-rule py-0.5"
                  >
                    <span>{j.name}</span>
                    <span className="reading">{money(j.alone - j.shared)}</span>
                  </li>
                ))}
            </ul>
          </section>
        )}
        <div className="mt-3">
          <Knowledge a={a} />
        </div>
        <p className="mt-2 text-[0.95rem]">
          A structured estimate from stated assumptions, made on {day(a.as_of)}; not a warranty. Local
          roadworthiness rules and licensed technicians take precedence. Do not drive with a dangerous defect.
        </p>
      </div>

      <Section title="Blockers" apart>
        {a.blockers.length === 0 && <p>None is raised.</p>}
        {warnings(a).length > 0 && (
          <p className="text-[0.95rem]">Said of this build: {warnings(a).join(" ")}</p>
        )}
        <ul>
          {a.blockers.map((g, i) => {
            const says = blockerSays(g);
            return (
              <li key={i} className="report-line mt-2 border-2 border-ink px-3 py-1.5">
                <b className="sign text-lg">
                  {g.kind === "stop" ? "Stop" : "Prove first"}: {says.title}
                </b>
                <p>{says.say}</p>
              </li>
            );
          })}
        </ul>
      </Section>

      <Section title="Findings">
        {done.length === 0 && <p>Nobody has looked at it yet.</p>}
        {amiss.length > 0 && <h3 className="mt-2 text-xl">Noted</h3>}
        <ul className="report-columns">
          {amiss.map((c) => (
            <FindingLine
              key={`${c.family}/${c.check.id}`}
              view={view}
              family={c.family}
              check={c.check}
              outcome={c.outcome ?? 0}
            />
          ))}
        </ul>
        {sound.length > 0 && <h3 className="mt-3 text-xl">Nothing amiss</h3>}
        {!annex && (
          <p className="text-[0.95rem]">
            {sound
              .filter((c) => !pictured(c))
              .map((c) => c.check.name.toLowerCase())
              .join("; ")}
          </p>
        )}
        <ul className="report-columns">
          {(annex ? sound : sound.filter(pictured)).map((c) => (
            <FindingLine
              key={`${c.family}/${c.check.id}`}
              view={view}
              family={c.family}
              check={c.check}
              outcome={0}
            />
          ))}
        </ul>
      </Section>

      <Section title={`Bill within the plan, ${a.currency}`}>
        {bill && (
          <p>
            Expect <b className="reading text-xl">{money(a.bill.mean)}</b> by “
            {policyName[bill.purchase_plan.policy].toLowerCase()}”; one future in ten goes beyond{" "}
            <b className="reading">{money(a.bill.p90)}</b>, and those come to{" "}
            <b className="reading">{money(a.bill.cvar90)}</b> on average. {money(a.bill.now)} of it leaves at
            once. By year: {a.bill.by_year.map((y, i) => `${i + 1}: ${money(y)}`).join(", ")}.
          </p>
        )}
        <table className="mt-2 w-full border-collapse text-[0.95rem]">
          <thead>
            <tr className="border-b-2 border-ink text-left">
              <th scope="col">Failure point and job</th>
              <th scope="col" className="text-right">
                now
              </th>
              <th scope="col" className="text-right">
                in plan
              </th>
              <th scope="col" className="text-right">
                low to high
              </th>
              <th scope="col" className="text-right">
                expected
              </th>
            </tr>
          </thead>
          <tbody>
            {points.map((p) => (
              <tr key={`${p.at.family}/${p.at.point}`} className="report-line border-b border-rule align-top">
                <td className="py-1 pr-2">
                  <b>{p.name}</b>: {p.job}
                </td>
                <td className="reading py-1 text-right whitespace-nowrap">{percent(p.p_now)}</td>
                <td className="reading py-1 text-right whitespace-nowrap">{percent(p.p_plan)}</td>
                <td className="reading py-1 text-right whitespace-nowrap">
                  {p.quoted
                    ? `quoted ${exact(p.cost.mean)}`
                    : `${money(p.cost.low)} to ${money(p.cost.high)}`}
                </td>
                <td className="reading py-1 text-right">{money(p.expected_cost)}</td>
              </tr>
            ))}
            {work.map((d) => (
              <tr key={`${d.family}/${d.interval}`} className="report-line border-b border-rule align-top">
                <td className="py-1 pr-2">
                  <b>{d.name}</b>: scheduled
                  {lateAtMost(d) ? ", perhaps overdue" : d.overdue ? ", overdue so far as papers show" : ""}
                </td>
                <td className="reading py-1 text-right">{percent(1 - d.chance_done)}</td>
                <td />
                <td className="reading py-1 text-right whitespace-nowrap">
                  {money(d.cost.low)} to {money(d.cost.high)}
                </td>
                <td className="reading py-1 text-right">{money(d.now + d.in_plan)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {others.length > 0 && (
          <p className="mt-1 text-[0.95rem]">
            {others.length} more points together: <b className="reading">{money(rest)}</b>.
          </p>
        )}
        {a.bill.saved >= 0.5 && (
          <p className="mt-1 text-[0.95rem]">
            Saved by doing together at purchase: <b className="reading">{money(a.bill.saved)}</b>.
          </p>
        )}
      </Section>

      {annex && bill && bill.purchase_plan.bundles.length > 0 && (
        <Section title="At purchase">
          <p>
            By “{policyName[bill.purchase_plan.policy].toLowerCase()}”; jobs that share what must come off are
            done together.
          </p>
          <ul>
            {bill.purchase_plan.bundles.map((b) => (
              <li key={JSON.stringify(b.jobs[0]?.at)} className="report-line border-b border-rule py-1">
                {b.jobs.map((j) => (
                  <span key={JSON.stringify(j.at)} className="grid grid-cols-[1fr_auto] gap-4">
                    <span>
                      <b>{j.name}</b>:{" "}
                      {j.at.kind === "work" ? "overdue, so far as papers show" : whySays(j.why)}
                    </span>
                    <span className="reading">{money(j.alone - j.shared)}</span>
                  </span>
                ))}
                {b.apart - b.together >= 0.5 && (
                  <span className="block text-[0.95rem]">
                    With {b.off.join(" and ").toLowerCase()} off once: {money(b.apart - b.together)} less than
                    one by one.
                  </span>
                )}
              </li>
            ))}
          </ul>
        </Section>
      )}

      <Section title="What to offer">
        <OfferLines view={view} bare brief={!annex} />
        {annex && (
          <div className="mt-4">
            <LimitSum view={view} />
          </div>
        )}
      </Section>

      <Section title="What was not checked">
        {open.length === 0 && <p>Every check that concerns it was done.</p>}
        {!annex && open.length > 0 && (
          <p className="text-[0.95rem]">{open.map((c) => c.check.name.toLowerCase()).join("; ")}.</p>
        )}
        <ul className="report-columns">
          {(annex ? open : []).map((c) => {
            const said = holds(view, c.family, c.check.id);
            return (
              <li key={`${c.family}/${c.check.id}`} className="report-line py-0.5 text-[0.95rem]">
                {c.check.name} <span className="text-soft">({phaseWord[c.check.phase]?.toLowerCase()})</span>
                {said && `: ${resultWord[said.result.kind] ?? ""}`}
                {said?.note && `. ${said.note}`}
              </li>
            );
          })}
        </ul>
      </Section>

      <Section title="Assumptions and cautions">
        <p>
          Computed by {a.engine} under {a.assumptions}. The going price of {money(a.value.reference.price)} is{" "}
          {basisSays(a)}; another of its age and usage would be expected to cost {money(a.bill.reference)} in
          the same plan. Chances come from claims of people who know the family, from papers and from
          findings; none is a promise.
        </p>
        <ul className="mt-1 list-disc pl-5">
          {a.limits.map((l) => (
            <li key={l}>{limitSays[l]}</li>
          ))}
          {a.approximate && (
            <li>Some findings were weighed one after another: together they have too many states.</li>
          )}
          {hazards.length > 0 && <li>{hazards.map((h) => hazardSays[h]).join(" ")}</li>}
          <li>
            Local roadworthiness rules and licensed technicians take precedence over anything said here.
          </li>
        </ul>
        {issued && (
          <p className="mt-2 text-[0.95rem]">
            Fingerprint <span className="reading break-all">{issued.fingerprint}</span>: “ticksage verify”
            confirms with it that nothing was changed since.
          </p>
        )}
        {annex && table && (
          <>
            <h3 className="mt-3 text-xl">The table of assumptions</h3>
            <ul className="report-columns text-[0.85rem]">
              {table.map((r) => (
                <li key={r.key} className="report-line py-0.5">
                  <b className="reading">{r.value >= 1000 ? whole(r.value) : r.value}</b> {r.reason}
                </li>
              ))}
            </ul>
          </>
        )}
      </Section>
    </div>
  );
}
