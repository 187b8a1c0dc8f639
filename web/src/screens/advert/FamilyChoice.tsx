import { useState } from "react";
import { useWatch, type UseFormReturn } from "react-hook-form";
import { sounds } from "../../lib/find";
import type { FamilyHead } from "../../lib/api";
import { baseFor, isBase, type Draft } from "./draft";

const kindWord: Record<string, string> = {
  engine: "engine",
  gearbox: "gearbox",
  body: "body",
  motorcycle: "motorcycle",
};

/** What the base sheets are for, as people say it. */
const baseWord: Record<string, string> = {
  base_vehicle: "car or van",
  base_motorcycle: "motorcycle",
  base_engine: "bare engine",
};

/** The families that the candidate is made of, and the base sheet that goes with them. */
export function FamilyChoice({ form, families }: { form: UseFormReturn<Draft>; families: FamilyHead[] }) {
  const draft = useWatch({ control: form.control }) as Draft;
  const error = form.formState.errors.families?.message;
  const set = (change: Partial<Pick<Draft, "families" | "ownBase" | "unit">>) => {
    const options = { shouldDirty: true, shouldValidate: form.formState.isSubmitted };
    if (change.ownBase !== undefined) form.setValue("ownBase", change.ownBase);
    if (change.unit !== undefined) form.setValue("unit", change.unit, options);
    if (change.families !== undefined) form.setValue("families", change.families, options);
  };
  const chosen = families.filter((f) => draft.families.includes(f.id));
  const own = families.filter((f) => !isBase(f));
  const [typed, setTyped] = useState("");
  const shown = own.filter((f) => draft.families.includes(f.id) || sounds(typed, `${f.name} ${f.summary}`));
  const clock = chosen.find((f) => !isBase(f))?.clock;
  const bases = families.filter((f) => isBase(f) && (clock === undefined || f.clock === clock));
  const baseChosen = bases.find((f) => draft.families.includes(f.id))?.id ?? "";
  const setFamilies = (ids: string[]) => {
    const picked = own.filter((f) => ids.includes(f.id));
    const base = draft.ownBase
      ? draft.families.filter((id) => bases.some((b) => b.id === id))
      : baseFor(picked, families);
    const first = picked[0];
    set({
      families: [...ids.filter((id) => picked.some((f) => f.id === id)), ...base],
      ...(first && draft.families.length === 0 ? { unit: first.clock === "hours" ? "h" : "km" } : {}),
    });
  };
  return (
    <fieldset className="sm:col-span-2">
      <legend className="sign text-[1.1rem] font-semibold">Families it is made of</legend>
      {own.length > 4 && (
        <label className="mt-1 block">
          <span className="sr-only">Find a family by typing</span>
          <input
            type="search"
            className="field"
            placeholder="find by typing: a name, an engine, a gearbox"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
          />
        </label>
      )}
      {shown.length === 0 && (
        <p role="status" className="py-2">
          No family sounds like that. Take the general checks below; they are enough to begin.
        </p>
      )}
      <div className="mt-2 grid gap-2 sm:grid-cols-2">
        {shown.map((f) => (
          <label
            key={f.id}
            className="flex min-h-14 items-center gap-3 border-2 border-strong bg-raised px-3 py-1 has-checked:border-sea has-checked:shadow-[inset_6px_0_0_var(--sea)]"
          >
            <input
              type="checkbox"
              className="h-6 w-6 accent-(--sea)"
              checked={draft.families.includes(f.id)}
              onChange={(e) =>
                setFamilies(
                  e.target.checked ? [...draft.families, f.id] : draft.families.filter((x) => x !== f.id),
                )
              }
            />
            <span className="leading-tight">
              <b className="sign text-lg">{f.name}</b>
              <span className="block text-sm text-soft">
                {kindWord[f.kind]}, {f.points} failure points
              </span>
            </span>
          </label>
        ))}
      </div>
      <div
        role="radiogroup"
        aria-label="What kind of thing it is"
        className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1"
      >
        <span className="sign text-[1.05rem] font-semibold">General checks for a</span>
        {[...bases.map((b) => [b.id, baseWord[b.kind] ?? b.name, b.clock] as const)].map(
          ([id, word, counts]) => (
            <label key={id} className="flex min-h-11 items-center gap-2">
              <input
                type="radio"
                name="base"
                className="h-6 w-6 accent-(--sea)"
                checked={baseChosen === id}
                onChange={() =>
                  set({
                    ownBase: true,
                    families: [
                      ...draft.families.filter((x) => !families.some((f) => f.id === x && isBase(f))),
                      id,
                    ],
                    ...(chosen.every(isBase) ? { unit: counts === "hours" ? "h" : "km" } : {}),
                  })
                }
              />
              {word}
              {clock === undefined &&
                word === "bare engine" &&
                (counts === "hours" ? ", by the hour" : ", by the km")}
            </label>
          ),
        )}
        <label className="flex min-h-11 items-center gap-2">
          <input
            type="radio"
            name="base"
            className="h-6 w-6 accent-(--sea)"
            checked={baseChosen === "" && chosen.length > 0}
            onChange={() =>
              set({
                ownBase: true,
                families: draft.families.filter((x) => !families.some((f) => f.id === x && isBase(f))),
              })
            }
          />
          nothing more
        </label>
        <span className="basis-full text-sm text-soft">
          Body, lamps, tyres, brakes, fluids, codes. What a family’s own sheet knows better replaces them;
          where no family fits, they are enough to begin.
        </span>
      </div>
      {error && (
        <p role="alert" className="font-semibold text-caution">
          {error}
        </p>
      )}
    </fieldset>
  );
}
