// A newer version of a sheet than the one that the candidate is judged by: moved to in one tap, with what it changes.

import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { useWatch, type UseFormReturn } from "react-hook-form";
import { api, type Candidate, type CandidateView, type FamilyHead } from "../../lib/api";
import { money } from "../../lib/format";
import { useQuiet } from "../../lib/hooks";
import { verdictLine } from "../../parts/Milestone";
import type { Draft } from "./draft";

export function Newer({
  form,
  families,
  view,
  candidate,
}: {
  form: UseFormReturn<Draft>;
  families: FamilyHead[];
  view: CandidateView;
  candidate: Candidate | undefined;
}) {
  const draft = useWatch({ control: form.control }) as Draft;
  const newer = view.candidate.families.flatMap((ref) => {
    const head = families.find((f) => f.id === ref.id && f.version > ref.version);
    return head && draft.families.includes(ref.id) ? [{ ref, head }] : [];
  });
  const moved = newer.some(({ ref }) => draft.moved.includes(ref.id));
  const quiet = useQuiet(candidate, 150);
  // The same question as the preview's: asked once.
  const key = useMemo(() => JSON.stringify(quiet ?? null), [quiet]);
  const tried = useQuery({
    queryKey: ["try", key],
    queryFn: () => (quiet ? api.tryOut(quiet) : Promise.reject(new Error("nothing typed"))),
    enabled: quiet !== undefined && moved,
    retry: false,
    staleTime: Infinity,
  });
  if (newer.length === 0) return null;
  const before = view.assessment;
  const after = tried.data?.assessment;
  const set = (ids: string[]) => form.setValue("moved", ids, { shouldDirty: true });
  return (
    <div className="mb-4 border-2 border-sea bg-raised px-4 py-3" data-testid="newer">
      {newer.map(({ ref, head }) => {
        const on = draft.moved.includes(ref.id);
        return (
          <p key={ref.id} className="flex flex-wrap items-center gap-3">
            <span className="grow">
              <b className="sign text-lg">{head.name}</b>: judged by version {ref.version}; version{" "}
              {head.version} is out.
            </span>
            <button
              type="button"
              className="btn"
              aria-pressed={on}
              onClick={() => set(on ? draft.moved.filter((x) => x !== ref.id) : [...draft.moved, ref.id])}
            >
              {on ? `Stay with version ${ref.version}` : `Judge by version ${head.version}`}
            </button>
          </p>
        );
      })}
      {moved && after && (
        <p role="status" className="mt-2">
          Worth {money(before.value.limit)} before, {money(after.value.limit)} with it; expected bill{" "}
          {money(before.bill.mean)} before, {money(after.bill.mean)} with it.{" "}
          {verdictLine(before.verdict.kind, before.value.limit)} before,{" "}
          {verdictLine(after.verdict.kind, after.value.limit)} with it. Save to keep it.
        </p>
      )}
    </div>
  );
}
