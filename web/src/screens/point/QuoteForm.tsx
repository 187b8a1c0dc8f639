import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type CandidateView, type PointResult } from "../../lib/api";
import { ago, day, exact, numberOf, readBack, today } from "../../lib/format";
import { useEdit } from "../../lib/hooks";
import { Field } from "../../parts/Field";
import { Trouble } from "../../parts/Trouble";

/** A workshop's own price for the job of a point: it takes the place of the sheet's estimate everywhere. */
export function QuoteForm({ view, point }: { view: CandidateView; point: PointResult }) {
  const edit = useEdit(view);
  const [open, setOpen] = useState(false);
  const [amount, setAmount] = useState("");
  const [by, setBy] = useState("");
  const [date, setDate] = useState(view.candidate.as_of < today() ? view.candidate.as_of : today());
  const [note, setNote] = useState("");
  const { family } = point.at;
  const mine = (view.candidate.quotes ?? []).filter((q) => q.family === family && q.job === point.job_id);
  const others = (view.candidate.quotes ?? []).filter((q) => !mine.includes(q));
  const n = numberOf(amount);
  const keep = () => {
    if (n === null || by.trim() === "") return;
    const quote = { family, job: point.job_id, amount: Math.round(n * 100) / 100, date, by: by.trim(), note };
    edit.mutate((c) => ({ ...c, quotes: [...others, ...mine, quote] }), { onSuccess: () => setOpen(false) });
  };
  const last = mine.at(-1);
  const yard = useQuery({
    queryKey: ["quotes", family, point.job_id, view.candidate.currency],
    queryFn: () => api.quotes(family, point.job_id, view.candidate.currency),
  });
  // What was quoted for another of the family, and is no later than the day of judgement.
  const lent = (yard.data ?? []).filter(
    (q) =>
      q.candidate !== view.id &&
      q.quote.date <= view.candidate.as_of &&
      !mine.some((m) => m.by === q.quote.by && m.date === q.quote.date),
  );
  return (
    <section aria-label="A workshop’s quote" className="mt-3">
      {last && (
        <p>
          Quoted {exact(last.amount)} {view.candidate.currency} by {last.by}, {day(last.date)} (
          {ago(last.date, view.candidate.as_of)}){last.note && `: ${last.note}`}.{" "}
          <button
            type="button"
            className="underline underline-offset-4"
            disabled={edit.isPending}
            onClick={() => edit.mutate((c) => ({ ...c, quotes: [...others, ...mine.slice(0, -1)] }))}
          >
            Take it out
          </button>
        </p>
      )}
      {lent.slice(0, 3).map((q) => (
        <p key={`${q.candidate}/${q.quote.date}/${q.quote.by}`} className="mt-1">
          {q.quote.by} quoted {exact(q.quote.amount)} {view.candidate.currency} for “{q.title}”,{" "}
          {ago(q.quote.date, view.candidate.as_of)}.{" "}
          <button
            type="button"
            className="underline underline-offset-4"
            disabled={edit.isPending}
            onClick={() =>
              edit.mutate((c) => ({
                ...c,
                quotes: [...others, ...mine, { ...q.quote, note: q.quote.note || `Quoted for “${q.title}”` }],
              }))
            }
          >
            Use it here
          </button>
        </p>
      ))}
      {!open && (
        <button type="button" className="btn" onClick={() => setOpen(true)}>
          {last ? "Another quote" : "A workshop quoted"}
        </button>
      )}
      {open && (
        <form
          className="grid max-w-xl gap-3 sm:grid-cols-2"
          onSubmit={(e) => {
            e.preventDefault();
            keep();
          }}
        >
          <Field
            label={`All in, ${view.candidate.currency}`}
            hint={readBack(amount)}
            error={amount !== "" && n === null ? "This is not an amount." : undefined}
          >
            <input
              className="field"
              inputMode="decimal"
              required
              value={amount}
              onChange={(e) => setAmount(e.target.value)}
            />
          </Field>
          <Field label="By whom">
            <input
              className="field"
              required
              maxLength={200}
              value={by}
              onChange={(e) => setBy(e.target.value)}
            />
          </Field>
          <Field label="Dated">
            <input
              className="field"
              type="date"
              required
              max={view.candidate.as_of}
              value={date}
              onChange={(e) => setDate(e.target.value)}
            />
          </Field>
          <Field label="Its number, or what it says">
            <input
              className="field"
              maxLength={1000}
              value={note}
              onChange={(e) => setNote(e.target.value)}
            />
          </Field>
          <div className="flex gap-3 sm:col-span-2">
            <button type="submit" className="btn btn-main" disabled={edit.isPending || n === null}>
              Take it in
            </button>
            <button type="button" className="btn" onClick={() => setOpen(false)}>
              Leave it
            </button>
          </div>
        </form>
      )}
      <Trouble error={edit.error} />
    </section>
  );
}
