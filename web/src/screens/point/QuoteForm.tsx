import { useState } from "react";
import type { CandidateView, PointResult } from "../../lib/api";
import { day, exact, numberOf, readBack, today } from "../../lib/format";
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
  return (
    <section aria-label="A workshop’s quote" className="mt-3">
      {last && (
        <p>
          Quoted {exact(last.amount)} {view.candidate.currency} by {last.by}, {day(last.date)}
          {last.note && `: ${last.note}`}.{" "}
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
