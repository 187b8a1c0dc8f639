import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useForm, useWatch } from "react-hook-form";
import { api, ApiError, type Candidate, type CandidateView } from "../../lib/api";
import { useFamilies, useFreshView } from "../../lib/hooks";
import { byField, candidateOf, draftOf, resolver, type Draft } from "./draft";
import { Form } from "./Form";
import { Newer } from "./Newer";
import { Preview } from "./Preview";
import { Refused } from "./Refused";

export function EditAdvert({ view }: { view: CandidateView }) {
  const families = useFamilies();
  const fresh = useFreshView();
  const [base, setBase] = useState(view);
  const form = useForm<Draft>({ defaultValues: draftOf(view.candidate), resolver });
  const draft = useWatch({ control: form.control }) as Draft;
  const candidate = candidateOf(draft, families.data ?? [], base.candidate);
  const changed = JSON.stringify(draft) !== JSON.stringify(draftOf(base.candidate));
  const save = useMutation({
    mutationFn: ({ version, c }: { version: number; c: Candidate }) => api.edit(view.id, version, c),
    onSuccess: (stored) => {
      setBase(stored);
      form.reset(draftOf(stored.candidate));
      fresh(stored);
    },
    onError: (error) => {
      const { errors } = byField(error instanceof ApiError ? error.faults : []);
      errors.forEach(([field, message]) => form.setError(field, { message }));
    },
  });
  const theirs = useMutation({
    mutationFn: () => api.candidate(view.id),
    onSuccess: (stored) => {
      setBase(stored);
      fresh(stored);
      save.reset();
    },
  });
  const conflict = save.error instanceof ApiError && save.error.code === "conflict";
  const { rest } = byField(save.error instanceof ApiError ? save.error.faults : []);
  return (
    <div className="grid gap-x-12 gap-y-8 lg:grid-cols-[1fr_26rem]">
      <form
        noValidate
        onSubmit={(e) =>
          void form.handleSubmit(() => candidate && save.mutate({ version: base.version, c: candidate }))(e)
        }
      >
        <h1 className="mb-2 text-3xl">Advert and plan</h1>
        <Newer form={form} families={families.data ?? []} view={base} candidate={candidate} />
        <Form form={form} families={families.data ?? []} />
        <Refused error={save.error} rest={rest} />
        {conflict && (
          <div className="mt-3 flex flex-wrap gap-3">
            <button type="button" className="btn" onClick={() => theirs.mutate()}>
              Keep my figures, on top of theirs
            </button>
            <button
              type="button"
              className="btn"
              onClick={() =>
                theirs.mutate(undefined, { onSuccess: (stored) => form.reset(draftOf(stored.candidate)) })
              }
            >
              Take theirs
            </button>
          </div>
        )}
        <div className="mt-5 flex flex-wrap items-center gap-3">
          <button
            type="submit"
            className="btn btn-main"
            disabled={!changed || save.isPending || theirs.isPending || conflict || !families.data}
          >
            Save
          </button>
          <button
            type="button"
            className="btn"
            disabled={!changed}
            onClick={() => form.reset(draftOf(base.candidate))}
          >
            Put back
          </button>
          <span role="status">{save.isSuccess && !changed ? "Saved." : changed ? "Not saved yet." : ""}</span>
        </div>
      </form>
      <Preview candidate={candidate} stored />
    </div>
  );
}
