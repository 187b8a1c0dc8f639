import { useMutation } from "@tanstack/react-query";
import { api, ApiError, type CandidateView } from "../lib/api";
import { useFreshView } from "../lib/hooks";
import { whatIf, type Patch, type WhatIf } from "../lib/whatIf";
import { whole } from "../lib/format";
import { exposureWord, labourWord, policyName } from "../lib/words";

/** The sources that speak of this candidate's points, by name. */
export function sourcesOf(view: CandidateView): { id: string; name: string }[] {
  return [...view.road.sources].sort((a, b) => a.name.localeCompare(b.name));
}

/** Who is heard, in words. */
export function heardWords(sources: Record<string, number>, names: { id: string; name: string }[]): string {
  const heard = names.filter((s) => (sources[s.id] ?? 0) > 0);
  if (Object.keys(sources).length === 0 || heard.length === 0) return "everybody, alike";
  if (heard.length === 1) return `${heard[0]?.name ?? ""} alone`;
  return heard.map((s) => `${s.name} ×${sources[s.id] ?? 0}`).join(", ");
}

function words(patch: Patch, view: CandidateView): string {
  const said: string[] = [];
  if (patch.sources) said.push(`listening to ${heardWords(patch.sources, sourcesOf(view))}`);
  const used = (name: string, levels: Record<string, number>) => {
    const on = Object.entries(levels).filter(([, l]) => l > 0);
    said.push(
      on.length > 0
        ? `${name}: ${on.map(([e, l]) => `${exposureWord[e] ?? e} ${Math.round(l * 100)} %`).join(", ")}`
        : `${name}: nothing in particular`,
    );
  };
  if (patch.past) used("use so far", patch.past);
  if (patch.plan) used("use in your plan", patch.plan);
  const unit = view.candidate.plan.usage_a_year.unit;
  if (patch.years !== undefined) said.push(`${patch.years} years`);
  if (patch.ayear !== undefined) said.push(`${whole(patch.ayear)} ${unit} a year`);
  if (patch.labour) said.push(`work by ${labourWord[patch.labour]}`);
  if (patch.parts) said.push(`${patch.parts} parts`);
  if (patch.appetite) said.push(`${patch.appetite} about bad luck`);
  if (patch.rates) said.push("own hourly rates");
  if (patch.policy) said.push(policyName[patch.policy].toLowerCase());
  if (patch.own) said.push(`${patch.own.length} point${patch.own.length === 1 ? "" : "s"} decided by you`);
  if (patch.ways)
    said.push(`${patch.ways.length} way${patch.ways.length === 1 ? "" : "s"} of mending chosen by you`);
  if (patch.reserve !== undefined) said.push(`${whole(patch.reserve)} put by`);
  return said.join("; ");
}

/** Says that a question is being tried out, and lets it be kept or put back. */
export function TrialBar({ tried }: { tried: WhatIf }) {
  const fresh = useFreshView();
  const { stored } = tried;
  const keep = useMutation({
    mutationFn: () => api.edit(stored.id, stored.version, whatIf.candidate(stored)),
    onSuccess: (view) => {
      fresh(view);
      whatIf.putBack();
    },
  });
  if (!tried.patch) return null;
  return (
    <div
      role="status"
      data-testid="trial"
      className="no-print flex flex-wrap items-center justify-center gap-x-4 gap-y-1 border-b-2 border-ink bg-sunk px-4 py-1.5"
    >
      <p>
        <b className="sign text-lg">Trying out: </b>
        {words(tried.patch, stored)}. Nothing is stored yet.
        {tried.problem && <span className="block text-caution">{tried.problem}</span>}
        {keep.error instanceof ApiError && <span className="block text-caution">{keep.error.message}</span>}
      </p>
      <button type="button" className="btn btn-main" disabled={keep.isPending} onClick={() => keep.mutate()}>
        Keep
      </button>
      <button type="button" className="btn" onClick={whatIf.putBack}>
        Put back
      </button>
    </div>
  );
}

const steps = ["none", "some", "half", "much", "full"];

function Level({
  label,
  value,
  onChange,
}: {
  label: string;
  value: number;
  onChange: (level: number) => void;
}) {
  const step = Math.round(value * 4);
  return (
    <label className="grid grid-cols-[4.1rem_1fr_3.1rem] items-center gap-1.5">
      <span className="text-[0.95rem] text-soft">{label}</span>
      <input
        type="range"
        min={0}
        max={4}
        step={1}
        value={step}
        aria-valuetext={steps[step]}
        className="road-range"
        onChange={(e) => onChange(Number(e.target.value) / 4)}
      />
      <span className="sign font-semibold">{steps[step]}</span>
    </label>
  );
}

/** Whose claims are heard, and how it was and will be used: each change answers at once. */
export function WhatIfControls({ tried, onClose }: { tried: WhatIf; onClose?: () => void }) {
  const { stored } = tried;
  const now = whatIf.candidate(stored);
  const heard = now.buyer?.sources ?? {};
  const sources = sourcesOf(stored);
  const listed = Object.keys(heard).length > 0;
  const alone = listed && Object.values(heard).filter((w) => w > 0).length === 1;
  const ask = (patch: Patch) => whatIf.ask(stored, patch);
  const weigh = (id: string, by: number) => {
    const from = listed ? heard : Object.fromEntries(sources.map((s) => [s.id, 1]));
    const next = Object.fromEntries(sources.map((s) => [s.id, from[s.id] ?? 0]));
    next[id] = Math.min(5, Math.max(0, (next[id] ?? 0) + by));
    if (Object.values(next).some((w) => w > 0)) ask({ sources: next });
  };
  const level = (of: "past" | "plan", exposure: string, to: number) => {
    const from = (of === "past" ? now.past_use : now.plan.use) ?? {};
    ask({ [of]: { ...from, [exposure]: to } });
  };
  return (
    <div className="grid gap-x-7 gap-y-4 lg:grid-cols-[18rem_1fr]">
      <section>
        <h2 className="text-xl">Whom to listen to</h2>
        <button
          type="button"
          className="btn mt-1 w-full aria-pressed:border-sea aria-pressed:bg-sea aria-pressed:text-on-sea"
          aria-pressed={!listed}
          onClick={() => ask({ sources: {} })}
        >
          Everybody, alike
        </button>
        <ul className="mt-1.5 grid gap-1.5">
          {sources.map((s) => (
            <li key={s.id} className="grid grid-cols-[1fr_44px_2.2rem_44px] items-center gap-1">
              <button
                type="button"
                className="btn aria-pressed:border-sea aria-pressed:bg-sea aria-pressed:text-on-sea"
                aria-pressed={alone && (heard[s.id] ?? 0) > 0}
                onClick={() => ask({ sources: { [s.id]: 1 } })}
              >
                Only {s.name.charAt(0).toLowerCase() + s.name.slice(1)}
              </button>
              <button
                type="button"
                className="btn px-0"
                aria-label={`${s.name} counts less`}
                onClick={() => weigh(s.id, -1)}
              >
                −
              </button>
              <span className="reading text-center text-lg" aria-label={`${s.name} counts`}>
                {listed ? (heard[s.id] ?? 0) : 1}
              </span>
              <button
                type="button"
                className="btn px-0"
                aria-label={`${s.name} counts more`}
                onClick={() => weigh(s.id, 1)}
              >
                +
              </button>
            </li>
          ))}
        </ul>
      </section>
      <section>
        <div className="flex items-baseline justify-between gap-4">
          <h2 className="text-xl">
            How it is used
            <span className="ml-3 text-[0.95rem] font-normal text-soft">what changes a life on this one</span>
          </h2>
          {onClose && (
            <button type="button" className="btn" onClick={onClose}>
              Close
            </button>
          )}
        </div>
        <ul className="mt-1 grid gap-x-5 gap-y-2 sm:grid-cols-2 lg:grid-cols-3 xl:grid-cols-4">
          {stored.assessment.exposures.map((e) => (
            <li key={e.exposure}>
              <h3 className="flex justify-between border-b border-rule text-lg">
                {exposureWord[e.exposure]}
                <span className="text-[0.95rem] font-normal text-soft">
                  {e.points} point{e.points === 1 ? "" : "s"}
                </span>
              </h3>
              <Level
                label="so far"
                value={now.past_use?.[e.exposure] ?? 0}
                onChange={(to) => level("past", e.exposure, to)}
              />
              <Level
                label="your plan"
                value={now.plan.use?.[e.exposure] ?? 0}
                onChange={(to) => level("plan", e.exposure, to)}
              />
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}
