import type { Assessment, CandidateView, PointResult, Reason } from "../lib/api";
import { clockUnit, exact, gateSays, money, percent, usage } from "../lib/format";
import { useWidth } from "../lib/hooks";
import { verdictLine } from "../parts/Milestone";
import { RoadThumb, roadOf } from "../parts/Road";
import { Tally } from "../parts/Tally";
import { scaleLinear } from "d3-scale";

function reasonSays(r: Reason, a: Assessment): string {
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
        ? `${r.name}: probably there now (${percent(r.now)}), about ${money(r.amount)} within your plan.`
        : `${r.name}: ${percent(r.chance)} within your ${plan}, about ${money(r.amount)} in expectation.`;
    case "renewed":
      return `${r.name}: the papers take it from ${percent(r.before)} to ${percent(r.after)} within your ${plan}.`;
    case "looks_sound":
      return `${r.name}: what was found takes it from ${percent(r.before)} to ${percent(r.after)}.`;
    case "quiet_points":
      return `${r.quiet} of ${r.total} failure points are under 5 % within your ${plan}.`;
    case "gate": {
      const g = a.gates[r.gate];
      return g ? `${gateSays(g).title}.` : "";
    }
    case "not_looked_at":
      return `${r.checks} check${r.checks > 1 ? "s" : ""} not done that could change your mind; the best is worth about ${money(r.amount)}.`;
  }
}

/** Asking price, worth and the going price as stones along one line of money. */
function PriceLine({ a }: { a: Assessment }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const { asking, limit, reference } = a.value;
  const marks = [
    { at: asking, name: "asked", text: exact(asking), up: true },
    { at: limit, name: "worth to you", text: money(limit), up: false },
  ];
  const low = Math.min(asking, limit, reference.price) * 0.85;
  const high = Math.max(asking, limit, reference.price) * 1.1;
  const x = scaleLinear()
    .domain([low, high])
    .range([10, Math.max(width - 10, 20)]);
  const label = `Asked ${exact(asking)}, worth to you ${money(limit)}, going price ${money(reference.price)}.`;
  const keep = (v: number) => Math.min(Math.max(x(v), 52), width - 52);
  return (
    <div ref={ref} style={{ height: 112 }}>
      {width > 60 && (
        <svg width={width} height={112} role="img" aria-label={label}>
          <line x1={0} x2={width} y1={56} y2={56} stroke="var(--ink)" strokeWidth="3" />
          <line
            x1={x(reference.price)}
            x2={x(reference.price)}
            y1={48}
            y2={64}
            stroke="var(--rule-strong)"
            strokeWidth="3"
          />
          <rect
            x={Math.min(x(asking), x(limit))}
            y={51}
            width={Math.abs(x(asking) - x(limit))}
            height={10}
            fill={limit >= asking ? "var(--sea)" : "var(--ramp-3)"}
            stroke="var(--ink)"
          />
          {Math.abs(x(reference.price) - x(limit)) > 110 && (
            <text
              x={keep(reference.price)}
              y={82}
              textAnchor="middle"
              className="sign"
              fontSize="15"
              fill="var(--ink-soft)"
            >
              going price {money(reference.price)}
            </text>
          )}
          {marks.map((m) => (
            <g key={m.name} textAnchor="middle">
              <line
                x1={x(m.at)}
                x2={x(m.at)}
                y1={m.up ? 36 : 56}
                y2={m.up ? 56 : 76}
                stroke="var(--ink)"
                strokeWidth="3"
              />
              <text x={keep(m.at)} y={m.up ? 32 : 92} className="reading" fontSize="20" fill="var(--ink)">
                {m.text}
              </text>
              <text x={keep(m.at)} y={m.up ? 13 : 108} className="sign" fontSize="15" fill="var(--ink-soft)">
                {m.name}
              </text>
            </g>
          ))}
        </svg>
      )}
    </div>
  );
}

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

const limitSays: Record<Assessment["limits"][number], string> = {
  no_room_for_bad_luck: "The limit price goes by the average future; no room is left for bad luck yet.",
  jobs_apart: "Jobs are costed one by one: doing neighbours together would cost less.",
  work_prevents_nothing:
    "Scheduled work within the plan is paid for in the bill; that it also prevents failures is not counted yet.",
};

/** What would open a gate. */
function opens(gate: Assessment["gates"][number]): string {
  if (gate.cause.kind === "campaign") return `${gate.cause.name}: proved done.`;
  if (gate.cause.kind === "odometer") return "A paper that proves what the clock hides.";
  if (gate.cause.kind === "identity") return "The VIN read from the vehicle again, and right.";
  return `${gateSays(gate).title}: proved settled.`;
}

function JobLine({ p }: { p: PointResult }) {
  return (
    <li className="grid grid-cols-[1fr_auto_4.5rem_2.8rem] items-center gap-x-3 border-b border-rule py-1">
      <span className="leading-tight">
        <b className="sign text-lg">{p.name}</b>
        <span className="block text-sm text-soft">
          {p.job}: {money(p.cost.low)}, likely {money(p.cost.likely)}, up to {money(p.cost.high)}
        </span>
      </span>
      <span className="reading text-right text-lg">{percent(p.p_plan)}</span>
      <span className="reading text-right text-lg">{money(p.expected_cost)}</span>
      <Tally grade={p.grade} />
    </li>
  );
}

function Reasons({ title, reasons, a }: { title: string; reasons: Reason[]; a: Assessment }) {
  return (
    <section>
      <h2 className="stretch">{title}</h2>
      <ol className="list-decimal pl-5 text-[1.05rem]">
        {reasons.map((r, i) => (
          <li key={i} className="py-1 pl-1">
            {reasonSays(r, a)}
          </li>
        ))}
      </ol>
    </section>
  );
}

export function Verdict({ view }: { view: CandidateView }) {
  const { assessment: a, candidate } = view;
  const { verdict, value } = a;
  const likely = a.points.filter((p) => p.expected_cost >= 15).slice(0, 10);
  const work = a.due.filter((d) => d.now >= 0.5 || d.in_plan >= 0.5);
  const basis = {
    asking: "the asking price itself, because no comparable is known",
    median: `the median of ${value.reference.count} comparables`,
    line: `a line through ${value.reference.count} comparables at this usage`,
  }[value.reference.basis];
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
            data={roadOf(a)}
            label="The road of this candidate, with the money that leaves along it."
          />
        </div>
      </section>

      {a.gates.length > 0 && (
        <section className="lg:col-span-2">
          <h2 className="stretch">Gates</h2>
          <ul>
            {a.gates.map((g, i) => {
              const says = gateSays(g);
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

      <Reasons title="Speaks for it" reasons={verdict.reasons_for} a={a} />
      <Reasons title="Speaks against it" reasons={verdict.reasons_against} a={a} />

      <section>
        <h2 className="stretch">What would change it</h2>
        {verdict.would_change.length === 0 && <p className="py-1">Nothing that is known of: it stands.</p>}
        <ul className="list-disc pl-5 text-[1.05rem]">
          {verdict.would_change.map((c, i) => {
            const gate = c.kind === "prove" ? a.gates[c.gate] : undefined;
            const check = c.kind === "check" ? a.next[c.next] : undefined;
            return (
              <li key={i} className="py-1 pl-1">
                {c.kind === "price_to" && `The price comes down to ${money(c.amount)}.`}
                {gate && opens(gate)}
                {check && `${check.name} (${check.minutes} min): worth about ${money(check.worth)}.`}
              </li>
            );
          })}
        </ul>
      </section>
      <section>
        <h2 className="stretch">When the money leaves, {a.currency}</h2>
        <p className="mb-2 text-sm text-soft">
          About {money(a.bill.mean)} in all; {money(a.bill.now)} of it, drawn black, at once: to put right
          what is there now, and for scheduled work that nothing proves done.
        </p>
        <Years a={a} />
      </section>

      <section className="lg:col-span-2">
        <h2 className="stretch flex justify-between">
          <span>What it may need</span>
          <span className="text-sm font-normal">chance within your plan · expected {a.currency}</span>
        </h2>
        <ul>
          {likely.map((p) => (
            <JobLine key={`${p.at.family}/${p.at.point}`} p={p} />
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
                    {d.overdue ? "overdue, so far as papers show" : "not due yet"}; in date with a chance of{" "}
                    {percent(d.chance_done)}
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
          {money(value.reference.price)} is {basis}; another of its age and usage would be expected to cost{" "}
          {money(a.bill.reference)} in the same plan. Local roadworthiness rules and licensed technicians take
          precedence. Do not drive it with a dangerous defect.
        </p>
        <ul className="list-disc pl-5">
          {a.limits.map((l) => (
            <li key={l}>{limitSays[l]}</li>
          ))}
          {a.approximate && (
            <li>Some findings were weighed one after another: together they have too many states.</li>
          )}
        </ul>
        <div className="no-print mt-4 flex flex-wrap gap-3">
          <a className="btn btn-main" href={`/api/candidates/${view.id}/export`} download>
            Export this candidate
          </a>
          <button type="button" className="btn" onClick={() => print()}>
            Print
          </button>
        </div>
      </section>
    </div>
  );
}
