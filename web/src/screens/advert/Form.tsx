import { useWatch, type UseFormReturn } from "react-hook-form";
import type { FamilyHead } from "../../lib/api";
import { Field } from "../../parts/Field";
import { useSettings } from "../../parts/FirstStart";
import { readBack, today } from "../../lib/format";
import { currencyOf, type Draft } from "./draft";
import { FamilyChoice } from "./FamilyChoice";
import { TuneFields } from "./TuneFields";

type Text = "title" | "usage" | "asking" | "years" | "ayear" | "built" | "asOf";

/** The fields of an advert and the plan. */
export function Form({ form, families }: { form: UseFormReturn<Draft>; families: FamilyHead[] }) {
  const draft = useWatch({ control: form.control }) as Draft;
  const { errors } = form.formState;
  const settings = useSettings();
  const chosen = families.filter((f) => draft.families.includes(f.id));
  const facts = chosen.flatMap((f) => f.facts);
  const text = (key: Text, props: object = {}) => ({
    className: "field",
    "aria-invalid": errors[key] !== undefined,
    ...form.register(key),
    ...props,
  });
  const choice = <K extends "labour" | "parts">(key: K, label: string, options: [Draft[K], string][]) => (
    <Field label={label}>
      <select className="field" {...form.register(key)}>
        {options.map(([id, name]) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
    </Field>
  );
  return (
    <div className="grid gap-x-5 gap-y-3 sm:grid-cols-2">
      <div className="sm:col-span-2">
        <Field label="What you call it" error={errors.title?.message}>
          <input {...text("title", { maxLength: 120, placeholder: "white one at the ferry landing" })} />
        </Field>
      </div>
      <FamilyChoice form={form} families={families} />
      <Field label="Usage now" error={errors.usage?.message} hint={readBack(draft.usage)}>
        <span className="grid grid-cols-[1fr_auto] gap-2">
          <input {...text("usage", { inputMode: "decimal" })} />
          <select className="field w-auto!" aria-label="Unit" {...form.register("unit")}>
            <option value="km">km</option>
            <option value="mi">miles</option>
            <option value="h">hours</option>
          </select>
        </span>
      </Field>
      <Field label="Built, or first registered" error={errors.built?.message}>
        <input {...text("built", { type: "date", max: today() })} />
      </Field>
      {draft.asOf !== "" && (
        <Field
          label="Day of judgement"
          error={errors.asOf?.message}
          hint="Usage and age are counted to it; later papers wait for a later day."
        >
          <input {...text("asOf", { type: "date", max: today() })} />
        </Field>
      )}
      <Field
        label={`Asking price${chosen[0] ? `, ${currencyOf(draft.families, families, settings.data)}` : ""}`}
        error={errors.asking?.message}
        hint={readBack(draft.asking)}
      >
        <input {...text("asking", { inputMode: "decimal" })} />
      </Field>
      <div className="grid grid-cols-2 gap-3">
        <Field label="Years to keep it" error={errors.years?.message} hint={readBack(draft.years)}>
          <input {...text("years", { inputMode: "decimal" })} />
        </Field>
        <Field
          label={`${draft.unit === "mi" ? "Miles" : draft.unit === "h" ? "Hours" : "Kilometres"} a year`}
          error={errors.ayear?.message}
          hint={readBack(draft.ayear)}
        >
          <input {...text("ayear", { inputMode: "decimal" })} />
        </Field>
      </div>
      {facts.map((fact) => (
        <Field key={fact.id} label={fact.label} hint={fact.how}>
          <select
            className="field"
            value={draft.facts[fact.id] ?? ""}
            onChange={(e) => form.setValue("facts", { ...draft.facts, [fact.id]: e.target.value })}
          >
            <option value="">not known yet</option>
            {fact.values.map((v) => (
              <option key={v.id} value={v.id}>
                {v.label}
              </option>
            ))}
          </select>
        </Field>
      ))}
      {chosen
        .filter((f) => f.serial_decides)
        .map((f) => (
          <Field
            key={f.id}
            label={`Serial number: ${f.name}`}
            hint="As stamped. It tells which parts it was built with."
          >
            <input
              className="field"
              maxLength={40}
              autoCapitalize="characters"
              value={draft.serials[f.id] ?? ""}
              onChange={(e) => form.setValue("serials", { ...draft.serials, [f.id]: e.target.value })}
            />
          </Field>
        ))}
      <TuneFields form={form} />
      <div className="grid gap-3 sm:col-span-2 sm:grid-cols-2">
        {choice("labour", "Who does the work", [
          ["self", "Myself"],
          ["independent", "Independent workshop"],
          ["dealer", "Dealer"],
          ["specialist", "Specialist"],
        ])}
        {choice("parts", "Parts", [
          ["original", "Original"],
          ["equivalent", "Equivalent"],
          ["used", "Used"],
        ])}
      </div>
      <div className="sm:col-span-2">
        <Field label="What the advert and the seller say">
          <textarea className="field" rows={3} maxLength={4000} {...form.register("note")} />
        </Field>
      </div>
    </div>
  );
}
