// What it is worth: adverts of others, the line through them, and how the limit price comes about.

import { useMutation, useQuery } from "@tanstack/react-query";
import { scaleLinear } from "d3-scale";
import { useState } from "react";
import { Link } from "react-router";
import { api, Refusal, type CandidateView, type Comparable } from "../../lib/api";
import { clockUnit, exact, money, usage, whole } from "../../lib/format";
import { useFreshView, useWidth } from "../../lib/hooks";
import { FaultList } from "../../parts/FaultList";
import { FileButton } from "../../parts/FileButton";
import { numberOf } from "../papers/common";
import { basisSays } from "./says";

const KM_A_MILE = 1.609344;
const HEIGHT = 300;
const LEFT = 62;
const FOOT = 46;

/** Adverts by usage and price, the line through them, and the candidate on it. */
function Cloud({ view }: { view: CandidateView }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const { assessment: a, candidate } = view;
  const { reference } = a.value;
  const unit = clockUnit(a.clock);
  const list = (candidate.comparables ?? []).map((c) => ({
    ...c,
    at: c.usage.unit === "mi" ? c.usage.value * KM_A_MILE : c.usage.value,
  }));
  const at = [...list.map((c) => c.at), a.usage_now];
  const prices = [...list.map((c) => c.price), a.value.asking, reference.price, Math.max(a.value.limit, 0)];
  const pad = (Math.max(...at) - Math.min(...at)) * 0.08 || Math.max(...at) * 0.2 || 1;
  const x = scaleLinear([Math.max(0, Math.min(...at) - pad), Math.max(...at) + pad], [LEFT, width - 14]);
  const y = scaleLinear([Math.min(...prices) * 0.9, Math.max(...prices) * 1.06], [HEIGHT - FOOT, 14]).nice(5);
  const [from = 0, to = 1] = x.domain();
  const line = reference.line;
  const used = (c: Comparable) =>
    reference.basis !== "asking" && (c.example ?? "typical") === reference.example;
  const here = x(a.usage_now);
  const side = here > width / 2 ? -1 : 1;
  return (
    <div ref={ref} style={{ minHeight: HEIGHT + 24 }}>
      {width > 100 && (
        <svg
          width={width}
          height={HEIGHT}
          role="img"
          aria-label={`${list.length} comparables by usage and price; going price ${money(reference.price)} at ${usage(a.usage_now, unit, 100)}, asked ${exact(a.value.asking)}, worth to you ${money(a.value.limit)}`}
        >
          {y.ticks(5).map((t) => (
            <g key={t}>
              <line x1={LEFT} x2={width - 14} y1={y(t)} y2={y(t)} stroke="var(--rule)" />
              <text
                x={LEFT - 8}
                y={y(t) + 5}
                textAnchor="end"
                className="sign"
                fontSize="14"
                fill="var(--ink-soft)"
              >
                {whole(t)}
              </text>
            </g>
          ))}
          <line
            x1={LEFT}
            x2={width - 14}
            y1={HEIGHT - FOOT}
            y2={HEIGHT - FOOT}
            stroke="var(--ink)"
            strokeWidth="3"
          />
          {x.ticks(width < 500 ? 3 : 6).map((t) => (
            <text
              key={t}
              x={x(t)}
              y={HEIGHT - FOOT + 19}
              textAnchor="middle"
              className="sign"
              fontSize="14"
              fill="var(--ink-soft)"
            >
              {usage(t, unit)}
            </text>
          ))}
          {line ? (
            <line
              x1={x(from)}
              x2={x(to)}
              y1={y(line.at_zero + line.slope * from)}
              y2={y(line.at_zero + line.slope * to)}
              stroke="var(--sea)"
              strokeWidth="3"
              strokeDasharray={reference.outside ? "9 6" : undefined}
            />
          ) : (
            <line
              x1={LEFT}
              x2={width - 14}
              y1={y(reference.price)}
              y2={y(reference.price)}
              stroke="var(--sea)"
              strokeWidth="2"
              strokeDasharray="3 5"
            />
          )}
          {list.map((c, i) => (
            <path
              key={i}
              d={`M${x(c.at)} ${y(c.price) - 7}l7 7l-7 7l-7-7z`}
              fill={used(c) ? "var(--ink)" : "var(--paper)"}
              stroke="var(--ink)"
              strokeWidth="1.6"
            />
          ))}
          <line x1={here} x2={here} y1={14} y2={HEIGHT - FOOT} stroke="var(--sea)" strokeWidth="2" />
          <rect
            x={here - 6}
            y={y(reference.price) - 6}
            width="12"
            height="12"
            fill="var(--paper)"
            stroke="var(--sea)"
            strokeWidth="3"
          />
          {[
            { at: a.value.asking, text: `asked ${exact(a.value.asking)}` },
            { at: a.value.limit, text: `worth to you ${money(a.value.limit)}` },
          ].map((m, i, both) => {
            const other = both[1 - i]?.at ?? 0;
            const near = Math.abs(y(m.at) - y(other)) < 20;
            const lift = near ? (m.at >= other ? -10 : 10) : 0;
            return (
              <g key={m.text}>
                <line
                  x1={here - 9}
                  x2={here + 9}
                  y1={y(m.at)}
                  y2={y(m.at)}
                  stroke="var(--ink)"
                  strokeWidth={i === 0 ? 5 : 3}
                />
                <text
                  x={here + side * 14}
                  y={y(m.at) + 6 + lift}
                  textAnchor={side > 0 ? "start" : "end"}
                  className="reading"
                  fontSize="17"
                  fill="var(--ink)"
                  stroke="var(--paper)"
                  strokeWidth="4"
                  paintOrder="stroke"
                >
                  {m.text}
                </text>
              </g>
            );
          })}
        </svg>
      )}
      <p className="sign text-base leading-tight text-soft">
        Filled: used for the going price, the open square at its own usage. Hollow: the other kind of example.
      </p>
    </div>
  );
}

/** The sum that gives the limit price, each figure leading to where it comes from. */
export function LimitSum({ view }: { view: CandidateView }) {
  const { assessment: a, candidate } = view;
  const { reference } = a.value;
  const table = useQuery({ queryKey: ["assumptions"], queryFn: api.assumptions, staleTime: Infinity });
  const appetite = candidate.buyer?.appetite ?? "even";
  const row = table.data?.find((r) => r.key === `room_${appetite}`);
  const line = (label: React.ReactNode, amount: string, strong = false) => (
    <tr className={strong ? "border-t-2 border-ink" : "border-b border-rule"}>
      <th
        scope="row"
        className={`py-1.5 pr-3 text-left ${strong ? "sign text-[1.1rem] font-bold" : "font-normal"}`}
      >
        {label}
      </th>
      <td className={`reading py-1.5 text-right whitespace-nowrap ${strong ? "text-xl" : "text-lg"}`}>
        {amount}
      </td>
    </tr>
  );
  return (
    <section aria-label="How the limit price comes about">
      <h2 className="stretch">How the limit price comes about</h2>
      <table className="w-full border-collapse" data-testid="limit-sum">
        <tbody>
          {line(<>Going price: {basisSays(a)}</>, money(reference.price))}
          {line(
            <>
              Less what it is{" "}
              <Link className="underline underline-offset-4" to={`/c/${view.id}/bill`}>
                expected to cost
              </Link>{" "}
              within your plan
            </>,
            `−${money(a.bill.mean)}`,
          )}
          {line(
            <>
              Back what another of its age and usage would: nothing on paper, ordinary care, nobody looked
              {reference.example === "well_sorted" && "; everything put right"}
            </>,
            `+${money(a.bill.reference)}`,
          )}
          {line(
            <>
              Less room for bad luck: {Math.round((row?.value ?? 0) * 100)} % ({appetite}) of the{" "}
              {money(a.value.bad_luck)} by which the dearest tenth of futures lies above the average
              {row && (
                <span className="block text-[0.95rem] text-soft">
                  {row.reason} (
                  {row.ground === "published"
                    ? "published"
                    : row.ground === "judgement"
                      ? "our judgement"
                      : "common practice"}
                  )
                </span>
              )}
            </>,
            `−${money(a.value.room)}`,
          )}
          {line("Worth to you, at most", money(a.value.limit), true)}
        </tbody>
      </table>
      <p className="mt-1 text-[0.95rem] text-soft">
        The{" "}
        <Link className="underline underline-offset-4" to={`/c/${view.id}/road`}>
          road ahead
        </Link>{" "}
        opens each failure point down to its claims, papers and findings. Figures are rounded to two places.
      </p>
    </section>
  );
}

interface Draft {
  price: string;
  usage: string;
  example: "typical" | "well_sorted";
}

const empty: Draft = { price: "", usage: "", example: "typical" };

/** Adverts of others, typed or pasted, and whom else they serve. */
function Comparables({ view }: { view: CandidateView }) {
  const fresh = useFreshView();
  const { candidate, assessment: a } = view;
  const list = candidate.comparables ?? [];
  const unit = candidate.usage.unit;
  const [draft, setDraft] = useState(empty);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [csv, setCsv] = useState("");
  const [undo, setUndo] = useState<Comparable[] | null>(null);
  const yard = useQuery({ queryKey: ["yard"], queryFn: api.yard });
  // Whoever shares the set goes on sharing it.
  const [chosen, setServes] = useState<string[] | null>(null);
  const serves = chosen ?? view.shares_comparables;
  const others = (yard.data ?? []).filter(
    (e) => e.id !== view.id && e.summary.currency === candidate.currency && e.summary.strip.clock === a.clock,
  );
  const save = useMutation({
    mutationFn: ({ next, also }: { next: Comparable[]; also: string[] }) =>
      api.setComparables(view.id, view.version, next, also),
    onSuccess: (stored) => {
      setUndo(list);
      setTrouble(null);
      fresh(stored);
    },
  });
  const read = useMutation({ mutationFn: (text: string) => api.readComparables(view.id, text) });
  const add = () => {
    const price = numberOf(draft.price);
    const at = numberOf(draft.usage);
    if (price === null || price <= 0) setTrouble("Price: an amount above 0, as 4200");
    else if (at === null) setTrouble(`Usage: a number in ${unit}, as 120500`);
    else {
      save.mutate({
        next: [...list, { price, usage: { value: at, unit }, example: draft.example }],
        also: view.shares_comparables,
      });
      setDraft({ ...empty, example: draft.example });
    }
  };
  const error = save.error ?? read.error;
  return (
    <section aria-label="Comparables">
      <h2 className="stretch">
        Adverts of others like it{" "}
        <span className="font-normal text-soft">
          {list.length} so far
          {view.shares_comparables.length > 0 &&
            `; shared with ${view.shares_comparables.length} other candidate${view.shares_comparables.length === 1 ? "" : "s"}`}
        </span>
      </h2>
      {list.length < 3 && (
        <p className="mt-2 border-l-8 border-caution bg-caution-bg px-3 py-2 text-caution">
          {list.length === 0
            ? "No comparable yet: the asking price stands for the going price, so the limit cannot say whether it is dear. Three adverts of the same family give a line."
            : "One or two give a median; three or more give a line that allows for usage."}
        </p>
      )}
      {a.value.reference.rising && (
        <p className="mt-2 border-l-8 border-caution bg-caution-bg px-3 py-2 text-caution">
          The line through them rises: dearer the farther it went. That is chance or a slip of typing; their
          median is used instead.
        </p>
      )}
      {a.value.reference.outside && (
        <p className="mt-2 border-l-8 border-caution bg-caution-bg px-3 py-2 text-caution">
          Its usage lies beyond all of them: the line is drawn out past what is known.
        </p>
      )}
      <form
        className="mt-3 grid grid-cols-2 items-end gap-3 sm:grid-cols-[1fr_1fr_11rem_auto]"
        onSubmit={(e) => {
          e.preventDefault();
          add();
        }}
      >
        <label className="block">
          <span className="sign text-base font-semibold">Price, {candidate.currency}</span>
          <input
            className="field reading"
            inputMode="decimal"
            value={draft.price}
            onChange={(e) => setDraft({ ...draft, price: e.target.value })}
          />
        </label>
        <label className="block">
          <span className="sign text-base font-semibold">Usage, {unit}</span>
          <input
            className="field reading"
            inputMode="decimal"
            value={draft.usage}
            onChange={(e) => setDraft({ ...draft, usage: e.target.value })}
          />
        </label>
        <label className="block">
          <span className="sign text-base font-semibold">Example</span>
          <select
            className="field"
            value={draft.example}
            onChange={(e) => setDraft({ ...draft, example: e.target.value as Draft["example"] })}
          >
            <option value="typical">typical</option>
            <option value="well_sorted">well-sorted</option>
          </select>
        </label>
        <button type="submit" className="btn btn-main" disabled={save.isPending}>
          Add
        </button>
      </form>
      {trouble && (
        <p role="alert" className="mt-1 font-semibold text-caution">
          {trouble}
        </p>
      )}
      {error && (
        <div role="alert" className="mt-2 border-l-8 border-caution bg-caution-bg px-3 py-2 text-caution">
          <p className="font-semibold">{error.message}</p>
          {error instanceof Refusal && <FaultList faults={error.faults} />}
        </div>
      )}
      <ul className="mt-3" aria-label="Comparables">
        {list.map((c, i) => (
          <li
            key={i}
            className="grid grid-cols-[5rem_1fr_6.5rem_auto] items-center gap-x-3 border-b border-rule"
          >
            <span className="reading text-right text-lg">{exact(c.price)}</span>
            <span className="reading">{usage(c.usage.value, c.usage.unit)}</span>
            <span className="text-soft">{c.example === "well_sorted" ? "well-sorted" : "typical"}</span>
            <button
              type="button"
              className="btn btn-quiet"
              disabled={save.isPending}
              onClick={() =>
                save.mutate({ next: list.filter((_, k) => k !== i), also: view.shares_comparables })
              }
            >
              Take out
              <span className="sr-only">
                {" "}
                {exact(c.price)} at {usage(c.usage.value, c.usage.unit)}
              </span>
            </button>
          </li>
        ))}
      </ul>
      {undo && (
        <button
          type="button"
          className="btn btn-quiet"
          disabled={save.isPending}
          onClick={() => save.mutate({ next: undo, also: view.shares_comparables })}
        >
          Undo the last change
        </button>
      )}
      <details className="mt-3 border-t-2 border-ink pt-2">
        <summary className="sign flex min-h-11 cursor-pointer items-center text-[1.1rem] font-semibold underline underline-offset-4">
          A table of adverts
        </summary>
        <p className="text-[0.95rem]">
          First line the heading, such as <code className="bg-sunk px-1">price;km;example</code>; comma,
          semicolon or tab between. All lines are added, or none.
        </p>
        <textarea
          className="field mt-1 text-[0.95rem]!"
          rows={5}
          aria-label="Table of adverts"
          value={csv}
          onChange={(e) => {
            setCsv(e.target.value);
            read.reset();
          }}
        />
        <div className="mt-2 flex flex-wrap gap-3">
          <button
            type="button"
            className="btn"
            disabled={csv.trim() === "" || read.isPending}
            onClick={() => read.mutate(csv)}
          >
            Read it
          </button>
          <FileButton
            label="File of adverts"
            accept=".csv,.tsv,.txt,text/csv"
            onChoose={([f]) =>
              void f?.text().then((text) => {
                setCsv(text);
                read.mutate(text);
              })
            }
          >
            Choose a file
          </FileButton>
        </div>
        {read.data && (
          <div role="status" className="mt-2" data-testid="comparables-report">
            <p className="sign text-lg font-semibold">
              {read.data.lines} lines: {read.data.comparables.length} to add, {read.data.duplicates} here
              already, {read.data.faults.length} to mend.
            </p>
            <ul className="max-h-56 overflow-y-auto">
              {read.data.faults.map((f, i) => (
                <li key={i} className="border-l-8 border-caution bg-caution-bg px-2 py-1 text-caution">
                  <b className="sign">
                    line {f.line}
                    {f.column && `, ${f.column}`}:
                  </b>{" "}
                  {f.message}
                </li>
              ))}
            </ul>
            {read.data.comparables.length > 0 && (
              <button
                type="button"
                className="btn btn-main mt-2"
                disabled={save.isPending}
                onClick={() => {
                  save.mutate({
                    next: [...list, ...(read.data?.comparables ?? [])],
                    also: view.shares_comparables,
                  });
                  setCsv("");
                  read.reset();
                }}
              >
                Add {read.data.comparables.length}
              </button>
            )}
          </div>
        )}
      </details>
      {others.length > 0 && (
        <details className="border-t-2 border-ink pt-2">
          <summary className="sign flex min-h-11 cursor-pointer items-center text-[1.1rem] font-semibold underline underline-offset-4">
            Let them serve other candidates
          </summary>
          <p className="text-[0.95rem]">
            The set above takes the place of theirs, and goes on being one set: what is added here is added
            there.
          </p>
          <ul>
            {others.map((o) => (
              <li key={o.id}>
                <label className="flex min-h-11 items-center gap-3">
                  <input
                    type="checkbox"
                    className="h-6 w-6 accent-(--sea)"
                    checked={serves.includes(o.id)}
                    onChange={(e) =>
                      setServes(e.target.checked ? [...serves, o.id] : serves.filter((s) => s !== o.id))
                    }
                  />
                  <span>
                    {o.summary.title} <span className="text-soft">{o.summary.families.join(" · ")}</span>
                  </span>
                </label>
              </li>
            ))}
          </ul>
          <button
            type="button"
            className="btn"
            disabled={serves.length === 0 || save.isPending}
            onClick={() => save.mutate({ next: list, also: serves }, { onSuccess: () => setServes(null) })}
          >
            Give it to {serves.length === 0 ? "those chosen" : serves.length}
          </button>
        </details>
      )}
    </section>
  );
}

export function Price({ view }: { view: CandidateView }) {
  return (
    <div className="grid gap-x-12 gap-y-6 lg:grid-cols-[1fr_1fr]">
      <div className="min-w-0">
        <h1 className="text-3xl">What it is worth</h1>
        <Cloud view={view} />
        <LimitSum view={view} />
      </div>
      <Comparables view={view} />
    </div>
  );
}
