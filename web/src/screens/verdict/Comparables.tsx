// What it is worth: adverts of others, the line through them, and how the limit price comes about.

import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ApiError, isJudged, type CandidateView, type Comparable } from "../../lib/api";
import { Figure } from "../../parts/Figure";
import { useFreshView } from "../../lib/hooks";
import { FaultList } from "../../parts/FaultList";
import { FileButton } from "../../parts/FileButton";
import { exact, numberOf, usage } from "../../lib/format";

interface Draft {
  price: string;
  usage: string;
  example: "typical" | "well_sorted";
}

const empty: Draft = { price: "", usage: "", example: "typical" };

/** Adverts of others, typed or pasted, and whom else they serve. */
export function Comparables({ view }: { view: CandidateView }) {
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
  const others = (yard.data ?? [])
    .filter(isJudged)
    .filter(
      (e) =>
        e.id !== view.id && e.summary.currency === candidate.currency && e.summary.strip.clock === a.clock,
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
          <Figure text={draft.price} onType={(price) => setDraft({ ...draft, price })} />
        </label>
        <label className="block">
          <span className="sign text-base font-semibold">Usage, {unit}</span>
          <Figure text={draft.usage} onType={(typed) => setDraft({ ...draft, usage: typed })} />
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
          {error instanceof ApiError && <FaultList faults={error.faults} />}
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
