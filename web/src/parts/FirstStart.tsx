// What this yard counts in: asked once, before the first real candidate.

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type YardSettings } from "../lib/api";
import { numberOf, readBack } from "../lib/format";
import { Field } from "./Field";
import { Trouble } from "./Trouble";

const rateNames = {
  independent: "An independent workshop",
  dealer: "A dealer",
  specialist: "A specialist",
  self: "Your own hour",
} as const;

type Rate = keyof typeof rateNames;

/** What this yard counts in; undefined while it is asked for, null before it was told. */
export function useSettings() {
  return useQuery({ queryKey: ["settings"], queryFn: api.settings, staleTime: 60_000 });
}

/** Asks for currency, hourly rates and unit. */
export function FirstStart({ known, onDone }: { known: YardSettings | null; onDone: () => void }) {
  const client = useQueryClient();
  const [currency, setCurrency] = useState(known?.currency ?? "");
  const [unit, setUnit] = useState<YardSettings["unit"]>(known?.unit ?? "km");
  const [rates, setRates] = useState<Record<Rate, string>>(() => {
    const of = (r: Rate) => {
      const told = known?.rates?.[r];
      return told == null ? "" : String(told);
    };
    return {
      independent: of("independent"),
      dealer: of("dealer"),
      specialist: of("specialist"),
      self: of("self"),
    };
  });
  const keep = useMutation({
    mutationFn: () => {
      const told = Object.entries(rates).flatMap(([who, typed]) => {
        const n = numberOf(typed);
        return n === null ? [] : [[who, Math.round(n * 100) / 100] as const];
      });
      return api.setSettings({
        currency: currency.trim().toUpperCase(),
        unit,
        rates: Object.fromEntries(told),
      });
    },
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ["settings"] });
      onDone();
    },
  });
  const wrong = Object.values(rates).some((t) => t !== "" && numberOf(t) === null);
  const code = /^[a-zA-Z]{3}$/.test(currency.trim());
  return (
    <form
      className="mt-4 max-w-3xl border-2 border-strong bg-raised px-5 py-4"
      aria-label="What you count in"
      onSubmit={(e) => {
        e.preventDefault();
        if (code && !wrong) keep.mutate();
      }}
    >
      <h2 className="text-2xl">What do you count in?</h2>
      <p className="text-[0.95rem] text-soft">
        Asked once. New candidates start with it; the made-up ones of the demo keep their crowns.
      </p>
      <div className="mt-2 grid gap-x-5 gap-y-3 sm:grid-cols-2">
        <Field
          label="Currency"
          hint="Three letters, such as EUR, GBP, USD."
          error={currency !== "" && !code ? "Write its three letters, such as EUR." : undefined}
        >
          <input
            className="field"
            maxLength={3}
            autoCapitalize="characters"
            required
            value={currency}
            onChange={(e) => setCurrency(e.target.value)}
          />
        </Field>
        <Field label="Road is counted in">
          <select
            className="field"
            value={unit}
            onChange={(e) => setUnit(e.target.value as YardSettings["unit"])}
          >
            <option value="km">kilometres</option>
            <option value="mi">miles</option>
          </select>
        </Field>
      </div>
      <details className="mt-2" open={wrong || known?.rates !== undefined}>
        <summary className="sign min-h-11 cursor-pointer content-center text-[1.1rem] font-semibold">
          Hourly rates, where you know them
        </summary>
        <div className="grid gap-x-5 gap-y-3 sm:grid-cols-2">
          {(Object.keys(rateNames) as Rate[]).map((who) => (
            <Field
              key={who}
              label={`${rateNames[who]}, an hour`}
              hint={readBack(rates[who]) ?? "left empty: the usual figure"}
              error={rates[who] !== "" && numberOf(rates[who]) === null ? "This is not a number." : undefined}
            >
              <input
                className="field"
                inputMode="decimal"
                value={rates[who]}
                onChange={(e) => setRates({ ...rates, [who]: e.target.value })}
              />
            </Field>
          ))}
        </div>
      </details>
      <Trouble error={keep.error} />
      <div className="mt-3 flex gap-3">
        <button type="submit" className="btn btn-main" disabled={!code || wrong || keep.isPending}>
          Keep it
        </button>
        {known && (
          <button type="button" className="btn" onClick={onDone}>
            Leave it
          </button>
        )}
      </div>
    </form>
  );
}
