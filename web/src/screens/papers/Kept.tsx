import { useState } from "react";
import type { CareSource } from "../../lib/api";
import { Figure } from "../../parts/Figure";
import { Care } from "../../parts/Care";
import { Choice, Labelled, useDesk, useSetting } from "./common";
import { numberOf, percent } from "../../lib/format";
import { Trouble } from "../../parts/Trouble";

const sources: [CareSource, string, string][] = [
  ["services", "Services that were due, and shown", "each counts as far as its paper is believed"],
  [
    "advisories",
    "Advisories put right",
    "with proof in full, on the seller’s word in part; what is open counts half until every paper was seen",
  ],
  [
    "interval_kept",
    "Service interval kept",
    "full at the family’s own interval or shorter, nothing at twice",
  ],
  [
    "condition",
    "What the owner can see",
    "oil, tidy bay, matched tyres: your own figure; findings count by themselves",
  ],
];

/** A figure of the person's own in the place of a computed one, with the reason. */
function Own({
  label,
  own,
  onKeep,
  onLetGo,
  pending,
}: {
  label: string;
  own: { value: number; reason: string } | undefined;
  onKeep: (value: number, reason: string) => void;
  onLetGo: () => void;
  pending: boolean;
}) {
  const [open, setOpen] = useState(false);
  const [figure, setFigure] = useState(own ? String(Math.round(own.value * 100)) : "");
  const [reason, setReason] = useState(own?.reason ?? "");
  const value = numberOf(figure);
  const good = value !== null && value <= 100 && reason.trim() !== "";
  if (!open)
    return (
      <div className="-ml-2 flex flex-wrap items-center gap-x-3">
        {own && <span className="ml-2 min-w-0 flex-1 text-[0.95rem]">Yours, because: {own.reason}</span>}
        <button
          type="button"
          className="btn btn-quiet"
          aria-label={`My own figure: ${label}`}
          onClick={() => setOpen(true)}
        >
          {own ? "Change it" : "My own figure"}
        </button>
        {own && (
          <button
            type="button"
            className="btn btn-quiet"
            disabled={pending}
            onClick={onLetGo}
            aria-label={`Let my figure go: ${label}`}
          >
            Let it go
          </button>
        )}
      </div>
    );
  return (
    <form
      className="grid items-end gap-2 bg-sunk p-2 sm:grid-cols-[7rem_1fr_auto_auto]"
      onSubmit={(e) => {
        e.preventDefault();
        if (!good || value === null) return;
        onKeep(value / 100, reason.trim());
        setOpen(false);
      }}
    >
      <Labelled label="Percent">
        <Figure text={figure} onType={setFigure} invalid={figure !== "" && (value === null || value > 100)} />
      </Labelled>
      <Labelled label="Why">
        <input className="field" maxLength={400} value={reason} onChange={(e) => setReason(e.target.value)} />
      </Labelled>
      <button type="submit" className="btn btn-main" disabled={!good || pending}>
        Keep
      </button>
      <button type="button" className="btn" onClick={() => setOpen(false)}>
        Leave
      </button>
    </form>
  );
}

function Bar({ score }: { score: number | null }) {
  return (
    <svg
      width="100%"
      height="14"
      viewBox="0 0 100 14"
      preserveAspectRatio="none"
      aria-hidden="true"
      className="block border-2 border-ink"
    >
      {score !== null && <rect width={score * 100} height="14" fill="var(--ink)" />}
    </svg>
  );
}

export function Kept() {
  const { view } = useDesk();
  const { candidate, assessment } = view;
  const { index } = assessment.care;
  const setting = useSetting();
  const own = candidate.own ?? {};
  const setCare = (source: CareSource, figure: { value: number; reason: string } | null, word: string) =>
    setting.mutate({
      change: (c) => {
        const others = Object.entries(c.own?.care ?? {}).filter(([k]) => k !== source);
        const care = Object.fromEntries(figure ? [...others, [source, figure]] : others);
        return { ...c, own: { ...c.own, care } };
      },
      says: figure ? `${word}: your own ${percent(figure.value)}` : `${word}: computed again`,
    });
  return (
    <section aria-label="How it was kept, by its papers">
      <h2 className="text-2xl">How it was kept, by its papers</h2>
      <p className="max-w-prose">
        The papers say <b className="reading">{percent(index.index)}</b> of well kept. It weighs how long
        everything that depends on upkeep has left, and how long owners lived with faults.
      </p>
      <div className="mt-2 max-w-xl">
        <Care assessment={assessment} />
      </div>
      <ul className="mt-3" data-testid="care-parts">
        {sources.map(([source, word, basis]) => {
          const part = index.parts.find((p) => p.source === source);
          return (
            <li key={source} className="border-b border-rule py-2">
              <div className="grid items-center gap-x-4 sm:grid-cols-[1fr_10rem_5rem]">
                <div className="leading-tight">
                  <h3 className="sign text-[1.15rem] font-bold">{word}</h3>
                  <p className="text-[0.92rem] text-soft">
                    {basis}
                    {part && part.of > 0 && `; counted from ${Math.round(part.of)}`}
                  </p>
                </div>
                <Bar score={part?.score ?? null} />
                <span className="reading text-right text-lg">{part ? percent(part.score) : "nothing"}</span>
              </div>
              <Own
                key={JSON.stringify(own.care?.[source] ?? null)}
                label={word}
                own={own.care?.[source]}
                pending={setting.isPending}
                onKeep={(value, reason) => setCare(source, { value, reason }, word)}
                onLetGo={() => setCare(source, null, word)}
              />
              {part?.reason && part.computed !== null && part.computed !== undefined && (
                <p className="text-[0.92rem] text-soft">The papers make it {percent(part.computed)}.</p>
              )}
            </li>
          );
        })}
      </ul>
      <h3 className="stretch mt-5 text-sea">How much the papers would show</h3>
      <div className="grid items-center gap-x-4 py-2 sm:grid-cols-[1fr_10rem_5rem]">
        <p className="leading-snug">
          A repair of the past would have left a paper here with this chance: the share of its life that
          invoices cover. What they do not cover may have been mended without a trace.
        </p>
        <Bar score={assessment.completeness} />
        <span className="reading text-right text-lg" data-testid="completeness">
          {percent(assessment.completeness)}
        </span>
      </div>
      <Own
        key={JSON.stringify(own.completeness ?? null)}
        label="How much the papers would show"
        own={own.completeness ?? undefined}
        pending={setting.isPending}
        onKeep={(value, reason) =>
          setting.mutate({
            change: (c) => ({ ...c, own: { ...c.own, completeness: { value, reason } } }),
            says: `Papers complete: your own ${percent(value)}`,
          })
        }
        onLetGo={() =>
          setting.mutate({
            change: (c) => ({ ...c, own: { ...c.own, completeness: null } }),
            says: "Papers complete: computed again",
          })
        }
      />
      <label className="mt-2 flex min-h-12 items-center gap-3">
        <input
          type="checkbox"
          className="h-6 w-6 accent-(--sea)"
          checked={candidate.papers_seen ?? false}
          disabled={setting.isPending}
          onChange={(e) => {
            const seen = e.target.checked;
            setting.mutate({
              change: (c) => ({ ...c, papers_seen: seen }),
              says: seen ? "Every paper was seen" : "There may be more papers",
            });
          }}
        />
        <span className="leading-tight">
          I have seen every paper there is
          <span className="block text-sm text-soft">
            Services that are not among them then count as not done.
          </span>
        </span>
      </label>
      <div className="mt-3">
        <Choice
          label="Which do you believe more?"
          value={candidate.buyer?.paper_trust ?? "log"}
          options={[
            ["log", "The owner’s dated log"],
            ["stamp", "The stamped book"],
          ]}
          onChange={(paper_trust) =>
            setting.mutate({
              change: (c) => ({
                ...c,
                buyer: { ...c.buyer, accepts_structural: c.buyer?.accepts_structural ?? false, paper_trust },
              }),
              says: paper_trust === "stamp" ? "The stamped book weighs more" : "The owner’s log weighs more",
            })
          }
        />
        <p className="mt-1 max-w-prose text-sm text-soft">
          Sources differ. A stamp comes from somebody who signs for it, and does not say what was done; a log
          says what, and anybody can write one. The one you choose counts 70 %, the other 60 %. An invoice
          beats both: 90 %, 97 % where it names the part. The seller’s word counts 30 %.
        </p>
      </div>
      <Trouble error={setting.error} />
    </section>
  );
}
