import { useQuery } from "@tanstack/react-query";
import { scaleLinear } from "d3-scale";
import { area } from "d3-shape";
import { useState } from "react";
import { Link } from "react-router";
import { api, type BillSpread } from "../../lib/api";
import { useAnswer, useWidth } from "../../lib/hooks";
import {
  enough,
  whatIf,
  withoutReserve,
  type Appetite,
  type Labour,
  type Parts,
  type WhatIf,
} from "../../lib/whatIf";
import { WhatToDo } from "./PurchasePlan";
import { Supply } from "./Supply";
import { Upgrades } from "../../parts/Said";
import { money, whole } from "../../lib/format";
import { labourWord } from "../../lib/words";
import { FootAxis, SideAxis } from "../../charts/Axes";

/** A chance as futures out of ten, or of a hundred near the ends. */
function futures(chance: number): string {
  if (chance > 0.995) return "nearly every future";
  if (chance < 0.005) return "hardly any future";
  const tenths = Math.round(chance * 10);
  if (chance > 0.95 || chance < 0.05) return `${Math.round(chance * 100)} of 100 futures`;
  return `${tenths} of 10 futures`;
}

const HEIGHT = 250;
const LEFT = 46;
const FOOT = 44;
const TOP = 34;

/** How likely the bill is to go beyond an amount; the reserve stands on it. */
function Curve({ spread, reserve }: { spread: BillSpread; reserve: number }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const end = Math.max(spread.exceed.at(-1)?.amount ?? 1, reserve * 1.05, 1);
  const x = scaleLinear([0, end], [LEFT, Math.max(width - 12, LEFT + 1)]);
  const y = scaleLinear([0, 1], [HEIGHT - FOOT, TOP]);
  const shape = area<{ amount: number; chance: number }>()
    .x((d) => x(d.amount))
    .y0(y(0))
    .y1((d) => y(d.chance));
  const marks = [
    { at: spread.p10, beyond: 0.9 },
    { at: spread.p50, beyond: 0.5 },
    { at: spread.p90, beyond: 0.1 },
  ];
  const keep = (at: number) => Math.min(width - 44, Math.max(LEFT + 30, x(at)));
  return (
    <div ref={ref}>
      {width > 0 && (
        <svg
          width={width}
          height={HEIGHT}
          role="img"
          aria-label={`Chance that the bill goes beyond an amount: 9 of 10 futures beyond ${money(spread.p10)}, half beyond ${money(spread.p50)}, 1 of 10 beyond ${money(spread.p90)}`}
        >
          <SideAxis
            ticks={[0.25, 0.5, 0.75, 1]}
            y={y}
            say={(p) => `${Math.round(p * 100)} %`}
            from={LEFT}
            to={width - 12}
          />
          <path d={shape(spread.exceed) ?? ""} fill="var(--past)" stroke="var(--ink)" strokeWidth="2" />
          <line x1={LEFT} x2={width - 12} y1={y(0)} y2={y(0)} stroke="var(--ink)" strokeWidth="3" />
          <FootAxis
            ticks={x.ticks(width < 500 ? 4 : 8).filter((t) => x(t) < width - 26)}
            x={x}
            say={whole}
            at={HEIGHT - FOOT + 18}
          />
          {marks.map((m) => (
            <path
              key={m.beyond}
              d={`M${x(m.at)} ${y(m.beyond) - 7}l7 7l-7 7l-7-7z`}
              fill="var(--ink)"
              stroke="var(--paper)"
              strokeWidth="2"
            />
          ))}
          {reserve > 0 && (
            <g>
              <line
                x1={x(reserve)}
                x2={x(reserve)}
                y1={TOP - 8}
                y2={y(0)}
                stroke="var(--sea)"
                strokeWidth="4"
              />
              <text
                x={keep(reserve)}
                y={TOP - 14}
                textAnchor="middle"
                className="reading"
                fontSize="18"
                fill="var(--sea)"
              >
                {whole(reserve)} put by
              </text>
            </g>
          )}
          <text
            x={width - 12}
            y={HEIGHT - 6}
            textAnchor="end"
            className="sign"
            fontSize="14"
            fill="var(--ink-soft)"
          >
            bill within your plan goes beyond this
          </text>
        </svg>
      )}
      <p className="sign flex items-center gap-2 text-base leading-tight">
        <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true" className="shrink-0">
          <path d="M8 1l7 7l-7 7l-7-7z" fill="var(--ink)" />
        </svg>
        9 of 10 futures go beyond {money(spread.p10)}, half beyond {money(spread.p50)}, 1 of 10 beyond{" "}
        {money(spread.p90)}.
      </p>
    </div>
  );
}

/** Each year of the plan: what it costs on average, and in the dearer of ten futures. */
function Years({ spread, means }: { spread: BillSpread; means: readonly number[] }) {
  const years = spread.years.map((y, i) => ({ p90: y.p90, mean: means[i] ?? y.mean }));
  const top = Math.max(...years.map((y) => y.p90), 1);
  return (
    <ol className="grid auto-cols-fr grid-flow-col gap-2" aria-label="Money by year of the plan">
      {years.map((y, i) => (
        <li key={i} className="flex min-w-0 flex-col justify-end text-center">
          <span className="reading text-lg leading-tight">{money(y.mean)}</span>
          <span className="text-[0.88rem] leading-tight text-soft">or {money(y.p90)}</span>
          <svg width="100%" height="96" viewBox="0 0 10 96" preserveAspectRatio="none" aria-hidden="true">
            <rect
              x="1"
              width="8"
              y={96 - (y.p90 / top) * 92}
              height={(y.p90 / top) * 92}
              fill="var(--past)"
            />
            <rect
              x="1"
              width="8"
              y={96 - (y.mean / top) * 92}
              height={(y.mean / top) * 92}
              fill="var(--sea)"
            />
          </svg>
          <span className="sign border-t-2 border-ink text-base">year {i + 1}</span>
        </li>
      ))}
    </ol>
  );
}

/** What the mean is made of, along one bar. */
function Split({ spread }: { spread: BillSpread }) {
  const parts = [
    { name: "parts", at: spread.split.parts, fill: "var(--sea)" },
    { name: "hours of the jobs", at: spread.split.labour, fill: "var(--ink)" },
    { name: "hours to get at them", at: spread.split.access, fill: "url(#split-access)" },
    { name: "recovery and larger damage", at: spread.split.mishaps, fill: "var(--past)" },
  ];
  const all = parts.reduce((sum, p) => sum + p.at, 0) || 1;
  let from = 0;
  return (
    <figure className="mt-4" aria-label="What the money goes into">
      <h2 className="stretch mb-2">What the money goes into</h2>
      <svg width="100%" height="26" aria-hidden="true">
        <defs>
          <pattern
            id="split-access"
            width="8"
            height="8"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <rect width="8" height="8" fill="var(--raised)" />
            <line x1="0" x2="0" y1="0" y2="8" stroke="var(--ink)" strokeWidth="6" />
          </pattern>
        </defs>
        {parts.map((p) => {
          const x = (from / all) * 100;
          from += p.at;
          return (
            <rect
              key={p.name}
              x={`${x}%`}
              width={`${(p.at / all) * 100}%`}
              y="1"
              height="24"
              fill={p.fill}
              stroke="var(--ink)"
            />
          );
        })}
      </svg>
      <figcaption className="flex flex-wrap gap-x-6 gap-y-1">
        {parts.map((p) => (
          <span key={p.name} className="flex items-center gap-2">
            <svg width="18" height="18" aria-hidden="true">
              <rect x="1" y="1" width="16" height="16" fill={p.fill} stroke="var(--ink)" />
            </svg>
            {p.name} <b className="reading">{money(p.at)}</b>
          </span>
        ))}
      </figcaption>
    </figure>
  );
}

function Range({
  label,
  value,
  shown,
  min,
  max,
  step,
  onChange,
}: {
  label: string;
  value: number;
  shown: string;
  min: number;
  max: number;
  step: number;
  onChange: (value: number) => void;
}) {
  return (
    <label className="block">
      <span className="flex justify-between gap-3">
        <span className="sign text-base font-semibold">{label}</span>
        <span className="reading text-lg leading-tight">{shown}</span>
      </span>
      <input
        type="range"
        className="road-range"
        aria-valuetext={shown}
        min={min}
        max={max}
        step={step}
        value={value}
        onChange={(e) => onChange(Number(e.target.value))}
      />
    </label>
  );
}

/** What an hour costs of those who do the work; empty for the table's figure. */
function RateField({
  labour,
  rate,
  currency,
  onChange,
}: {
  labour: Labour;
  rate: number | undefined;
  currency: string;
  onChange: (rate: number | null) => void;
}) {
  const [text, setText] = useState(rate === undefined ? "" : String(rate));
  const table = useQuery({ queryKey: ["assumptions"], queryFn: api.assumptions, staleTime: Infinity });
  const usual = table.data?.find((r) => r.key === `rate_${labour === "self" ? "own" : labour}`)?.value;
  const typed = Number(text.replace(",", "."));
  const bad = text.trim() !== "" && (!Number.isFinite(typed) || typed < 0 || typed > 10_000);
  const keep = () => {
    if (bad) return;
    const next = text.trim() === "" ? null : Math.round(typed * 100) / 100;
    if (next !== (rate ?? null)) onChange(next);
  };
  return (
    <label className="col-span-2 block">
      <span className="sign text-base font-semibold">
        An hour of {labour === "self" ? "your own" : labourWord[labour]}, {currency}
      </span>
      <input
        className="field reading"
        inputMode="decimal"
        placeholder={usual === undefined ? "" : `${usual} by the table`}
        aria-invalid={bad}
        aria-describedby={bad ? "rate-bad" : undefined}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => e.key === "Enter" && keep()}
      />
      {bad && (
        <span id="rate-bad" className="text-caution">
          An amount from 0 to 10 000, as 45 or 45.50
        </span>
      )}
    </label>
  );
}

/** What it will cost within the plan, and how far that may go. */
export function BillScreen({ tried }: { tried: WhatIf }) {
  const { stored, view } = tried;
  const candidate = whatIf.candidate(stored);
  // What is put by changes no figure of the bill: it is read off the curve.
  const asked = { ...candidate, buyer: withoutReserve(candidate.buyer) };
  const answer = useAnswer("bill", JSON.stringify(asked), () => api.billSpread(asked));
  const [largest] = useState(() => Math.max(2 * view.assessment.bill.mean, candidate.asking / 2, 1000));
  const spread = answer.data;
  const reserve = candidate.buyer?.reserve ?? 0;
  const unit = candidate.plan.usage_a_year.unit;
  const top = unit === "h" ? 1000 : 40_000;
  const ask = (patch: Parameters<typeof whatIf.ask>[1]) => whatIf.ask(stored, patch);
  const choice = "field";
  const labour = candidate.buyer?.labour ?? "independent";
  return (
    <div className="grid gap-x-10 gap-y-6 lg:grid-cols-[1fr_24rem]">
      <div className="min-w-0">
        <h1 className="text-3xl">What it will cost you</h1>
        {answer.error && (
          <p role="alert" className="mt-2 border-l-8 border-caution bg-caution-bg px-3 py-2 text-caution">
            {answer.error.message}
          </p>
        )}
        {!spread && !answer.error && (
          <p role="status" className="mt-2">
            Working out the futures.
          </p>
        )}
        {spread && (
          <>
            <p className="max-w-prose text-[1.1rem]" data-testid="bill-words">
              Expect <b className="reading text-2xl">{money(view.assessment.bill.mean)}</b>{" "}
              {candidate.currency} within your plan; in 8 of 10 futures between{" "}
              <b className="reading">{money(spread.p10)}</b> and{" "}
              <b className="reading">{money(spread.p90)}</b>. The dearest tenth comes to{" "}
              <b className="reading">{money(spread.cvar90)}</b> on average.
              {reserve > 0 && (
                <>
                  {" "}
                  Your <b className="reading">{whole(reserve)}</b> is enough in{" "}
                  <b className="sign">{futures(enough(spread, reserve))}</b>.
                </>
              )}
            </p>
            <section aria-label="How far it may go" className="mt-3">
              <h2 className="stretch">How far it may go</h2>
              <Curve spread={spread} reserve={reserve} />
            </section>
            <section aria-label="Year by year" className="mt-4">
              <h2 className="stretch mb-2">Year by year, on average, and in the dearer of ten futures</h2>
              <Years spread={spread} means={view.assessment.bill.by_year} />
            </section>
            <Split spread={spread} />
          </>
        )}
      </div>
      <aside className="flex flex-col gap-4" aria-label="Your plan">
        <section className="border-2 border-ink bg-raised p-3">
          <h2 className="mb-1 text-xl">Try it out</h2>
          <Range
            label="Put by for it"
            value={Math.min(reserve, largest)}
            shown={reserve > 0 ? whole(reserve) : "nothing"}
            min={0}
            max={Math.ceil(largest / 100) * 100}
            step={100}
            onChange={(v) => ask({ reserve: v })}
          />
          <Range
            label="Years you keep it"
            value={candidate.plan.years}
            shown={String(candidate.plan.years)}
            min={1}
            max={12}
            step={1}
            onChange={(v) => ask({ years: v })}
          />
          <Range
            label={unit === "h" ? "Hours a year" : unit === "mi" ? "Miles a year" : "Kilometres a year"}
            value={Math.min(candidate.plan.usage_a_year.value, top)}
            shown={whole(candidate.plan.usage_a_year.value)}
            min={top / 40}
            max={top}
            step={top / 40}
            onChange={(v) => ask({ ayear: v })}
          />
          <div role="radiogroup" aria-label="Room for bad luck" className="mt-1 grid grid-cols-3 gap-1">
            {(["bold", "even", "careful"] as const).map((a: Appetite) => (
              <button
                key={a}
                type="button"
                role="radio"
                aria-checked={(candidate.buyer?.appetite ?? "even") === a}
                className="btn px-1! aria-checked:border-sea aria-checked:bg-sea aria-checked:text-on-sea"
                onClick={() => ask({ appetite: a })}
              >
                {a}
              </button>
            ))}
          </div>
          <p className="text-[0.95rem] leading-tight text-soft">
            {view.assessment.value.risk_margin >= 0
              ? `Your appetite for risk holds back ${money(view.assessment.value.risk_margin)} of the limit price for bad luck, beyond what the market allows.`
              : `Your appetite for risk adds ${money(-view.assessment.value.risk_margin)} to the limit price: you hold back less for bad luck than the market.`}
          </p>
          <div className="mt-2 grid grid-cols-2 gap-2">
            <label className="block">
              <span className="sign text-base font-semibold">Work by</span>
              <select
                className={choice}
                value={candidate.buyer?.labour ?? "independent"}
                onChange={(e) => ask({ labour: e.target.value as Labour })}
              >
                {Object.entries(labourWord).map(([id, word]) => (
                  <option key={id} value={id}>
                    {word}
                  </option>
                ))}
              </select>
            </label>
            <label className="block">
              <span className="sign text-base font-semibold">Parts</span>
              <select
                className={choice}
                value={candidate.buyer?.parts ?? "equivalent"}
                onChange={(e) => ask({ parts: e.target.value as Parts })}
              >
                <option value="original">original</option>
                <option value="equivalent">equivalent</option>
                <option value="used">used</option>
              </select>
            </label>
            <RateField
              key={`${labour}/${candidate.buyer?.rates?.[labour] ?? ""}`}
              labour={labour}
              rate={candidate.buyer?.rates?.[labour]}
              currency={candidate.currency}
              onChange={(rate) => {
                const others = Object.entries(candidate.buyer?.rates ?? {}).filter(([who]) => who !== labour);
                ask({ rates: Object.fromEntries(rate === null ? others : [...others, [labour, rate]]) });
              }}
            />
          </div>
        </section>
        {spread && spread.dear.length > 0 && (
          <section aria-label="What makes the dearest tenth dear">
            <h2 className="stretch">What makes the dearest tenth dear</h2>
            <ul>
              {spread.dear.map((d) => (
                <li key={`${d.at.family}/${d.at.point}`} className="border-b border-rule">
                  <Link
                    to={`/c/${stored.id}/road/${d.at.family}/${d.at.point}`}
                    className="flex min-h-11 items-center justify-between gap-3 leading-tight"
                  >
                    <span className="underline decoration-1 underline-offset-4">{d.name}</span>
                    <span className="reading whitespace-nowrap">+{money(d.beyond)}</span>
                  </Link>
                </li>
              ))}
            </ul>
          </section>
        )}
        <Upgrades list={view.assessment.upgrades} currency={candidate.currency} />
        <Supply list={view.assessment.supply} />
      </aside>
      {spread && (
        <>
          <WhatToDo plan={spread.purchase_plan} stored={stored} candidate={candidate} />
          <p className="max-w-prose lg:col-span-2 text-[0.95rem] text-soft">
            An estimate from {whole(spread.draws)} futures on stated assumptions, each with its own luck and
            its own history of care; not a warranty. Scheduled work counts at its mean. Doing what lies close
            together at one later visit would save about {money(spread.mean - spread.grouped)} more. Figures
            are rounded to two places, so that sums may look a little off. The limit price goes by this bill.
          </p>
        </>
      )}
    </div>
  );
}
