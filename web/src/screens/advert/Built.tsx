// No sheet for it: a sheet from how it is built, one question at a time.

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { useWatch, type UseFormReturn } from "react-hook-form";
import { api, ApiError, type BuiltView, type FamilyHead } from "../../lib/api";
import { money, numberOf, usage as usageSays } from "../../lib/format";
import { Drawing } from "../../parts/Drawing";
import { Field } from "../../parts/Field";
import { useSettings } from "../../parts/FirstStart";
import { Trouble } from "../../parts/Trouble";
import type { Draft } from "./draft";

/** The question that the answers so far ask. */
function useBuilt(draft: Draft, currency: string) {
  const body = useMemo(() => {
    const run = numberOf(draft.usage);
    const asked = numberOf(draft.asking);
    return {
      answers: draft.answers,
      currency,
      ...(run !== null && run > 0 && { usage: { value: run, unit: draft.unit } }),
      ...(draft.built !== "" && { built: draft.built }),
      ...(asked !== null && asked > 0 && { asking: Math.round(asked * 100) / 100 }),
    };
  }, [draft.answers, draft.usage, draft.unit, draft.built, draft.asking, currency]);
  const key = JSON.stringify(body);
  return useQuery({
    queryKey: ["built", key],
    queryFn: () => api.askBuilt(body),
    placeholderData: (previous) => previous,
    retry: false,
    staleTime: Infinity,
  });
}

/** What is settled: each can be opened again by a tap. */
function Settled({ view, reopen }: { view: BuiltView; reopen: (id: string) => void }) {
  if (view.settled.length === 0) return null;
  return (
    <ul className="mt-3 flex flex-wrap gap-2" aria-label="Settled so far">
      {view.settled.map((s) => (
        <li key={s.id}>
          {s.follows ? (
            <span className="inline-block border-2 border-rule px-3 py-2 text-soft">{s.says}</span>
          ) : (
            <button
              type="button"
              className="min-h-11 border-2 border-strong bg-raised px-3"
              title={`${s.label} Ask again`}
              onClick={() => reopen(s.id)}
            >
              {s.says} <span aria-hidden="true">×</span>
              <span className="sr-only">, ask again: {s.label}</span>
            </button>
          )}
        </li>
      ))}
    </ul>
  );
}

/** The first assessment, and how much of it is still open. */
function First({ view }: { view: BuiltView }) {
  if (view.bill == null || view.a_year == null) return null;
  return (
    <p className="mt-3 border-l-4 border-sea pl-3" role="status" data-testid="built-first">
      <b className="sign text-xl">About {money(view.a_year)} a year</b> for a typical one at{" "}
      {usageSays(view.usage.value, view.usage.unit, 1)}, built {view.built.slice(0, 4)}: {view.points} failure
      points, {view.checks} checks.{" "}
      {view.doubt != null && view.doubt > 1
        ? `What is still open may move the bill by about ${money(view.doubt)}.`
        : "Everything that matters is settled."}{" "}
      An estimate from common practice.
    </p>
  );
}

/** One question with large answers. */
function Ask({
  view,
  skipped,
  answer,
  skip,
}: {
  view: BuiltView;
  skipped: string[];
  answer: (id: string, value: string) => void;
  skip: (id: string) => void;
}) {
  const open = view.open.filter((q) => !skipped.includes(q.id));
  const q = open[0];
  if (!q)
    return view.open.length > 0 ? (
      <p className="mt-3">
        What is not known stays open: each way counts by its share, and the walk-round tells how to find out.
      </p>
    ) : null;
  return (
    <fieldset className="mt-3" data-testid="built-question" data-question={q.id}>
      <legend className="sr-only">{q.label}</legend>
      <div className="flex items-center gap-4">
        <Drawing name={q.drawing} />
        <div>
          <p className="sign text-xl font-bold" aria-hidden="true">
            {q.label}
          </p>
          {q.how && <p className="text-soft">{q.how}</p>}
        </div>
      </div>
      <div className="mt-2 grid gap-2 sm:grid-cols-2">
        {q.values.map((v) => (
          <button
            key={v.id}
            type="button"
            className="min-h-12 border-2 border-strong bg-raised px-3 text-left text-lg"
            onClick={() => answer(q.id, v.id)}
          >
            {v.label}
          </button>
        ))}
        {q.id !== "thing" && (
          <button
            type="button"
            className="min-h-12 border-2 border-dashed border-strong px-3 text-left text-lg text-soft"
            onClick={() => skip(q.id)}
          >
            Not known
          </button>
        )}
      </div>
      <p className="mt-1 text-sm text-soft">
        {open.length === 1 ? "The last question." : `${open.length} questions that matter, this one most.`}
      </p>
    </fieldset>
  );
}

/** The sheet's name, and the sheet made and used. */
function Make({ form, currency, view }: { form: UseFormReturn<Draft>; currency: string; view: BuiltView }) {
  const client = useQueryClient();
  const draft = useWatch({ control: form.control }) as Draft;
  const usual = view.settled
    .filter((s) => !s.follows && s.id !== "thing")
    .slice(0, 4)
    .map((s) => s.says.toLowerCase().split(",")[0])
    .join(", ");
  const name = draft.builtName || (usual ? usual.charAt(0).toUpperCase() + usual.slice(1) : "");
  const change = draft.changing;
  const make = useMutation({
    mutationFn: () =>
      change
        ? api.changeBuilt(change.id, { answers: draft.answers, from: change.version, name })
        : api.makeBuilt({ name, answers: draft.answers, currency }),
    onSuccess: (head) => {
      client.setQueryData<FamilyHead[]>(["families"], (all) => [
        ...(all ?? []).filter((f) => f.id !== head.id),
        head,
      ]);
      const set = <K extends keyof Draft>(key: K, value: Draft[K]) =>
        form.setValue(key, value as never, { shouldDirty: true, shouldValidate: form.formState.isSubmitted });
      set("families", [head.id]);
      set("ownBase", false);
      set("builtOpen", false);
      set("changing", undefined);
      set("builtName", "");
      if (head.clock === "hours" && draft.unit !== "h") {
        set("unit", "h");
        if (draft.ayear === "12000") set("ayear", "250");
      }
    },
  });
  if (view.bill == null) return null;
  return (
    <div className="mt-4 border-t-2 border-rule pt-3">
      <Field label="Name of the sheet" hint="It can be used again for the next one, and refined later.">
        <input
          className="field"
          maxLength={120}
          value={name}
          onChange={(e) => form.setValue("builtName", e.target.value, { shouldDirty: true })}
        />
      </Field>
      <button
        type="button"
        className="btn btn-main mt-2"
        disabled={make.isPending || name.trim() === ""}
        onClick={() => make.mutate()}
      >
        {change ? "Keep the changed answers" : "Make the sheet and use it"}
      </button>
      {make.error instanceof ApiError && <Trouble error={make.error} />}
    </div>
  );
}

/** A family from how it is built; opened by hand, or where an advert names no family. */
export function Built({ form, families }: { form: UseFormReturn<Draft>; families: FamilyHead[] }) {
  const draft = useWatch({ control: form.control }) as Draft;
  const settings = useSettings();
  const currency = settings.data?.currency ?? "EUR";
  const built = useBuilt(draft, currency);
  const [skipped, setSkipped] = useState<string[]>([]);
  const setAnswers = (answers: Record<string, string>) =>
    form.setValue("answers", answers, { shouldDirty: true });
  const used = families.find((f) => draft.families.includes(f.id) && f.built_as);
  const view = built.data;
  const open = (more: Partial<Draft>) => {
    setSkipped([]);
    Object.entries({ ...more, builtOpen: true }).forEach(([k, v]) =>
      form.setValue(k as keyof Draft, v as never),
    );
  };
  if (!draft.builtOpen)
    return (
      <div className="mb-5 flex flex-wrap items-center gap-3 border-2 border-rule bg-raised px-4 py-2">
        {used ? (
          <>
            <p className="grow">
              <b className="sign text-lg">{used.name}</b>: from how it is built, {used.points} failure points.
            </p>
            <button
              type="button"
              className="btn"
              onClick={() =>
                open({
                  answers: used.built_as?.answers ?? {},
                  builtName: used.name,
                  changing: { id: used.id, version: used.version },
                })
              }
            >
              Change how it is built
            </button>
          </>
        ) : (
          <>
            <p className="grow">
              <b className="sign text-lg">No sheet for it?</b> About ten questions make one.
            </p>
            <button type="button" className="btn" onClick={() => open({ changing: undefined })}>
              Say how it is built
            </button>
          </>
        )}
      </div>
    );
  return (
    <section
      className="mb-5 border-2 border-sea bg-raised px-4 py-3"
      aria-label="How it is built"
      data-testid="built"
    >
      <div className="flex flex-wrap items-baseline gap-3">
        <h2 className="stretch grow">How it is built</h2>
        <button type="button" className="btn" onClick={() => form.setValue("builtOpen", false)}>
          Leave it
        </button>
      </div>
      <Trouble error={built.error} />
      {view && (
        <>
          <Settled
            view={view}
            reopen={(id) => {
              setSkipped((s) => s.filter((x) => x !== id));
              setAnswers(Object.fromEntries(Object.entries(draft.answers).filter(([k]) => k !== id)));
            }}
          />
          <Ask
            view={view}
            skipped={skipped}
            answer={(id, value) => setAnswers({ ...draft.answers, [id]: value })}
            skip={(id) => setSkipped((s) => [...s, id])}
          />
          <First view={view} />
          <Make form={form} currency={currency} view={view} />
        </>
      )}
    </section>
  );
}
