import { useMutation } from "@tanstack/react-query";
import { useEffect } from "react";
import { useForm, useWatch } from "react-hook-form";
import { useNavigate } from "react-router";
import { api, ApiError, type Candidate } from "../../lib/api";
import { useFamilies, useFreshView } from "../../lib/hooks";
import { Page } from "../../parts/Shell";
import { blank, byField, candidateOf, resolver, type Draft } from "./draft";
import { Built } from "./Built";
import { Form } from "./Form";
import { Paste } from "./Paste";
import { Preview } from "./Preview";
import { Refused } from "./Refused";
import { FirstStart, useSettings } from "../../parts/FirstStart";

const DRAFT_KEY = "ticksage.draft";

function keptDraft(): Draft {
  try {
    return { ...blank, ...(JSON.parse(localStorage.getItem(DRAFT_KEY) ?? "{}") as Partial<Draft>) };
  } catch {
    return blank;
  }
}

export function NewAdvert() {
  const families = useFamilies();
  const navigate = useNavigate();
  const fresh = useFreshView();
  const form = useForm<Draft>({ defaultValues: keptDraft(), resolver });
  const draft = useWatch({ control: form.control }) as Draft;
  useEffect(() => localStorage.setItem(DRAFT_KEY, JSON.stringify(draft)), [draft]);
  const settings = useSettings();
  const candidate = candidateOf(draft, families.data ?? [], undefined, settings.data);
  const unit = settings.data?.unit;
  // What is counted in here is where an empty form starts.
  useEffect(() => {
    if (unit && form.getValues("usage") === "" && form.getValues("families").length === 0)
      form.setValue("unit", unit);
  }, [unit, form]);
  const create = useMutation({
    mutationFn: (c: Candidate) => api.create(c),
    onSuccess: (view) => {
      localStorage.removeItem(DRAFT_KEY);
      fresh(view);
      void navigate(`/c/${view.id}/road`);
    },
    onError: (error) => {
      const { errors } = byField(error instanceof ApiError ? error.faults : []);
      errors.forEach(([field, message]) => form.setError(field, { message }));
    },
  });
  const { rest } = byField(create.error instanceof ApiError ? create.error.faults : []);
  return (
    <Page title="New candidate" lead="What the advert gives is enough to begin.">
      {settings.data === null && <FirstStart known={null} onDone={() => undefined} />}
      <div className="mt-4 grid gap-x-12 gap-y-8 lg:grid-cols-[1fr_26rem]">
        <form
          noValidate
          onSubmit={(e) => void form.handleSubmit(() => candidate && create.mutate(candidate))(e)}
        >
          {families.error && <Refused error={families.error} rest={[]} />}
          <Paste form={form} families={families.data ?? []} />
          <Built form={form} families={families.data ?? []} />
          <Form form={form} families={families.data ?? []} />
          <Refused error={create.error} rest={rest} />
          <div className="mt-5 flex gap-3">
            <button type="submit" className="btn btn-main" disabled={create.isPending || !families.data}>
              Put it in the yard
            </button>
            <button type="button" className="btn" onClick={() => form.reset(blank)}>
              Clear
            </button>
          </div>
        </form>
        <Preview candidate={candidate} />
      </div>
    </Page>
  );
}
