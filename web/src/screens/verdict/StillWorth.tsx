import { useState } from "react";
import type { CandidateView } from "../../lib/api";
import { clockUnit, money, numberOf, readBack, usage } from "../../lib/format";
import { useEdit } from "../../lib/hooks";
import { Field } from "../../parts/Field";
import { useShared } from "../../parts/Shared";
import { Trouble } from "../../parts/Trouble";

/** What it should still fetch at the end of the plan: by the line through the adverts, or as the buyer says. */
export function StillWorth({ view }: { view: CandidateView }) {
  const edit = useEdit(view);
  const shared = useShared();
  const { assessment: a, candidate } = view;
  const said = candidate.value_at_end ?? null;
  const [typed, setTyped] = useState(said === null ? "" : String(said));
  const n = numberOf(typed);
  const worth = a.still_worth;
  return (
    <section aria-label="At the end of the plan" className="mt-6">
      <h2 className="stretch">At the end of the plan</h2>
      <p>
        {worth
          ? `After ${a.plan_years} years and ${usage(a.horizon, clockUnit(a.clock))} more, with the work of the bill done, it should still fetch ${money(worth.at_end)}, ${worth.basis === "entered" ? "as you say" : "by the line through the adverts"}.`
          : "What it will still fetch is not known: three adverts of others with different usage draw a line, or say it here."}
      </p>
      {!shared && (
        <form
          className="mt-2 flex flex-wrap items-end gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            if (typed.trim() === "") edit.mutate((c) => ({ ...c, value_at_end: null }));
            else if (n !== null) edit.mutate((c) => ({ ...c, value_at_end: Math.round(n * 100) / 100 }));
          }}
        >
          <Field
            label={`What it should fetch, ${candidate.currency}`}
            hint={readBack(typed) ?? "empty: by the adverts"}
            error={typed.trim() !== "" && n === null ? "This is not an amount." : undefined}
          >
            <input
              className="field"
              inputMode="decimal"
              value={typed}
              onChange={(e) => setTyped(e.target.value)}
            />
          </Field>
          <button
            type="submit"
            className="btn mb-6"
            disabled={edit.isPending || (typed.trim() !== "" && n === null)}
          >
            Take it in
          </button>
        </form>
      )}
      <Trouble error={edit.error} />
    </section>
  );
}
