// What is known of a tune: more power than the maker gave it.

import { useWatch, type UseFormReturn } from "react-hook-form";
import { Field } from "../../parts/Field";
import type { Draft } from "./draft";

export function TuneFields({ form }: { form: UseFormReturn<Draft> }) {
  const draft = useWatch({ control: form.control }) as Draft;
  const { errors } = form.formState;
  return (
    <div className="grid gap-x-5 gap-y-3 sm:col-span-2 sm:grid-cols-2" data-testid="tune">
      <Field label="Power">
        <select className="field" {...form.register("tuned")}>
          <option value="no">As its maker made it, so far as anybody knows</option>
          <option value="yes">Tuned: more than its maker gave it</option>
        </select>
      </Field>
      {draft.tuned === "yes" && (
        <>
          <Field
            label="It gives"
            error={errors.power?.message}
            hint="As measured on a bench. Leave it empty where nobody measured it."
          >
            <span className="grid grid-cols-[1fr_auto] gap-2">
              <input className="field" inputMode="decimal" {...form.register("power")} />
              <select className="field w-auto!" aria-label="Unit of power" {...form.register("powerUnit")}>
                <option value="kW">kW</option>
                <option value="hp">hp (metric)</option>
                <option value="bhp">bhp</option>
              </select>
            </span>
          </Field>
          <Field label="Who set it up">
            <select className="field" {...form.register("tuneQuality")}>
              <option value="unknown">Nobody knows</option>
              <option value="documented">A workshop, on a bench, with its sheet</option>
              <option value="rough">A box or a file of unknown origin</option>
            </select>
          </Field>
          <Field
            label={`At which reading, ${draft.unit === "mi" ? "miles" : draft.unit === "h" ? "hours" : "km"}`}
            error={errors.tuneSince?.message}
            hint="Leave it empty where nobody knows: then it counts from now on."
          >
            <input className="field" inputMode="decimal" {...form.register("tuneSince")} />
          </Field>
          <label className="flex min-h-11 items-center gap-3 sm:col-span-2">
            <input type="checkbox" className="size-5" {...form.register("tunePutBack")} />I have it put back
            to standard at purchase
          </label>
          <p className="text-soft sm:col-span-2">
            A tune that is not on its papers may end its approval and its insurance. Ask the insurer and the
            local rules before you drive it.
          </p>
        </>
      )}
    </div>
  );
}
