import { useState } from "react";
import type { Advisory } from "../../lib/api";
import { Choice, Labelled, PastDate, useDesk, usePaperMutations } from "./common";
import { day, percent } from "../../lib/format";
import { Trouble } from "../../parts/Trouble";

const advisoryStates: [Advisory["state"], string][] = [
  ["rectified", "Mended, proved"],
  ["said_rectified", "Said mended"],
  ["open", "Open"],
];

type CampaignState = "proved" | "not_done" | "unknown";
const campaignStates: [CampaignState, string][] = [
  ["proved", "Proved done"],
  ["not_done", "Not done"],
  ["unknown", "Not known"],
];

function Advised({ advisory, name }: { advisory: Advisory; name: string }) {
  const { add, undo } = usePaperMutations();
  const [note, setNote] = useState<string | null>(null);
  const put = (state: Advisory["state"], text: string) =>
    add.mutate({
      papers: [{ kind: "advisory", paper: { ...advisory, state, note: text } }],
      corrects: name,
      says: `${advisory.text}: ${advisoryStates.find((s) => s[0] === state)?.[1].toLowerCase() ?? state}`,
    });
  return (
    <li className="border-b border-rule py-2">
      <div className="grid items-center gap-x-4 gap-y-1 md:grid-cols-[1fr_auto]">
        <div className="leading-tight">
          <h4 className="sign text-[1.2rem] font-bold">{advisory.text}</h4>
          <p className="text-[0.92rem] text-soft">Advised on {day(advisory.date)}</p>
        </div>
        <Choice
          label={advisory.text}
          hideLabel
          value={advisory.state}
          options={advisoryStates}
          onChange={(s) => put(s, note ?? advisory.note ?? "")}
        />
      </div>
      <div className="flex flex-wrap items-center gap-x-3">
        {note === null ? (
          <>
            {advisory.note && <span className="min-w-0 text-[0.95rem]">{advisory.note}</span>}
            <button
              type="button"
              className="btn btn-quiet -ml-2"
              onClick={() => setNote(advisory.note ?? "")}
            >
              {advisory.note ? "Change the note" : "Note the proof"}
            </button>
            <button
              type="button"
              className="btn btn-quiet"
              disabled={undo.isPending}
              aria-label={`Take back: ${advisory.text}`}
              onClick={() =>
                undo.mutate({ papers: [name], undone: true, says: `${advisory.text} taken back` })
              }
            >
              Take back
            </button>
          </>
        ) : (
          <form
            className="grid flex-1 items-end gap-2 sm:grid-cols-[1fr_auto_auto]"
            onSubmit={(e) => {
              e.preventDefault();
              put(advisory.state, note);
            }}
          >
            <Labelled label={advisory.state === "rectified" ? "The proof" : "What was said"}>
              <input
                className="field"
                maxLength={400}
                value={note}
                onChange={(e) => setNote(e.target.value)}
              />
            </Labelled>
            <button type="submit" className="btn" disabled={add.isPending}>
              Keep
            </button>
            <button type="button" className="btn" onClick={() => setNote(null)}>
              Leave
            </button>
          </form>
        )}
      </div>
      <Trouble error={add.error ?? undo.error} />
    </li>
  );
}

function AddAdvisory() {
  const { add } = usePaperMutations();
  const [draft, setDraft] = useState({ date: "", text: "" });
  return (
    <form
      className="mt-2 grid items-end gap-3 sm:grid-cols-[11rem_1fr_auto]"
      onSubmit={(e) => {
        e.preventDefault();
        if (draft.date === "" || draft.text.trim() === "") return;
        add.mutate(
          {
            papers: [
              {
                kind: "advisory",
                paper: { date: draft.date, text: draft.text.trim(), state: "open", note: "" },
              },
            ],
            says: `Advised: ${draft.text.trim()}`,
          },
          { onSuccess: () => setDraft({ date: "", text: "" }) },
        );
      }}
    >
      <PastDate label="Test of" value={draft.date} onChange={(date) => setDraft({ ...draft, date })} />
      <Labelled label="What was advised">
        <input
          className="field"
          maxLength={400}
          value={draft.text}
          onChange={(e) => setDraft({ ...draft, text: e.target.value })}
        />
      </Labelled>
      <button
        type="submit"
        className="btn btn-main"
        disabled={draft.date === "" || draft.text.trim() === "" || add.isPending}
      >
        Add
      </button>
      <div className="sm:col-span-3">
        <Trouble error={add.error} />
      </div>
    </form>
  );
}

export function Tests() {
  const { view } = useDesk();
  const { add } = usePaperMutations();
  const { candidate, assessment } = view;
  const advisories = candidate.advisories ?? [];
  return (
    <section aria-label="Tests and campaigns">
      <h2 className="text-2xl">Tests and campaigns</h2>
      <h3 className="stretch mt-3 text-sea">Recalls and campaigns</h3>
      {assessment.campaigns.length === 0 && (
        <p className="mt-1">
          The sheets of its families list none for this build. Ask a dealer by the VIN all the same.
        </p>
      )}
      <ul data-testid="campaigns">
        {assessment.campaigns.map((c) => (
          <li key={`${c.family}/${c.campaign}`} className="border-b border-rule py-2">
            <div className="grid items-center gap-x-4 gap-y-1 md:grid-cols-[1fr_auto]">
              <div className="leading-snug">
                <h4 className="sign text-[1.2rem] leading-tight font-bold">{c.name}</h4>
                <p className="text-[0.95rem]">{c.about}</p>
              </div>
              <Choice
                label={c.name}
                open="unknown"
                hideLabel
                value={c.state}
                options={campaignStates}
                onChange={(state) =>
                  add.mutate({
                    papers: [
                      {
                        kind: "campaign",
                        paper: { family: c.family, campaign: c.campaign, state, note: c.note },
                      },
                    ],
                    says: `${c.name}: ${campaignStates.find((s) => s[0] === state)?.[1].toLowerCase() ?? state}`,
                  })
                }
              />
            </div>
            {c.state !== "proved" && (
              <div
                className={`mt-1 border-l-8 p-2 ${c.safety ? "border-caution bg-caution-bg text-caution" : "border-ink bg-sunk"}`}
              >
                <p className="font-semibold">
                  {c.safety && "Safety. "}
                  {c.exposes}
                </p>
                <p>{c.proof}</p>
                {c.share < 0.999 && (
                  <p>It concerns this one with a chance of {percent(c.share)}: not all is known of it.</p>
                )}
              </div>
            )}
            {c.note && <p className="text-[0.92rem] text-soft">{c.note}</p>}
          </li>
        ))}
      </ul>
      <Trouble error={add.error} />
      <h3 className="stretch mt-5 text-sea">Advisories of past tests</h3>
      <p className="mt-1">
        {advisories.length === 0
          ? "None entered. Past advisories are nothing bad where they were put right: they show how faults were met."
          : "Fine where they were put right with proof; what stayed open tells how it was kept, and wants looking at."}
      </p>
      <ul data-testid="advisories">
        {advisories.map((a, i) => {
          const name = view.paper_ids.advisories[i] ?? "";
          return <Advised key={name} advisory={a} name={name} />;
        })}
      </ul>
      <AddAdvisory />
    </section>
  );
}
