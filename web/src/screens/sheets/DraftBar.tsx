// What became of a draft: undo and redo, what typical examples cost now, whom it would move, and publishing it.

import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, type Family, type Sanity } from "../../lib/api";
import { money } from "../../lib/format";
import { useAnswer, useQuiet } from "../../lib/hooks";
import { FaultList } from "../../parts/FaultList";
import { verdictLine } from "../../parts/Milestone";
import { Trouble } from "../../parts/Trouble";
import type { useDraft } from "./useDraft";
import { Sane } from "./Sane";

type Draft = ReturnType<typeof useDraft>;

export function DraftBar({
  family,
  draft,
  currency,
  onLook,
  onPublished,
}: {
  family: Family;
  draft: Draft;
  currency: string;
  /** What typical examples of the draft cost, whenever it was looked at. */
  onLook: (sanity: Sanity | undefined) => void;
  onPublished: (says: string) => void;
}) {
  const client = useQueryClient();
  const [asked, setAsked] = useState<Family>();
  const quiet = useQuiet(draft.sheet, 60);
  const body = (sheet: Family, moves: boolean) => ({ from: draft.from, sheet, currency, moves });
  const looked = useAnswer("draft", JSON.stringify([draft.from, quiet]), () =>
    api.lookAtDraft(family.id, body(quiet, false)),
  );
  const moves = useMutation({
    mutationFn: (sheet: Family) => api.lookAtDraft(family.id, body(sheet, true)),
    onSuccess: (_, sheet) => setAsked(sheet),
  });
  const publish = useMutation({
    mutationFn: () => api.publishSheet(family.id, body(draft.sheet, false)),
    onSuccess: async (head) => {
      draft.drop();
      for (const queryKey of [["families"], ["sheet", family.id], ["sanity", family.id]])
        await client.invalidateQueries({ queryKey });
      onPublished(`Published as version ${head.version}. Candidates stay on theirs until they are moved.`);
    },
  });
  const look = looked.data;
  useEffect(() => onLook(look?.sanity ?? undefined), [look, onLook]);
  const would = asked === draft.sheet ? moves.data : undefined;
  const faults = look?.faults ?? [];
  const newer = look?.newer ?? undefined;
  return (
    <section
      aria-label="Draft"
      className="mt-3 mb-4 border-2 border-sea bg-raised px-4 py-3"
      data-testid="draft"
    >
      <div className="flex flex-wrap items-center gap-2">
        <p className="grow">
          <b className="sign text-lg">Draft of version {draft.from}</b>: {draft.steps}{" "}
          {draft.steps === 1 ? "change" : "changes"}, kept on this device. Nobody else sees it yet.
        </p>
        <button type="button" className="btn" disabled={!draft.drafted} onClick={draft.undo}>
          Undo
        </button>
        <button type="button" className="btn" disabled={!draft.canRedo} onClick={draft.redo}>
          Redo
        </button>
        <button type="button" className="btn" onClick={draft.drop}>
          Drop the draft
        </button>
      </div>
      {look?.sanity && (
        <div role="status" data-testid="draft-cost">
          <Sane sanity={look.sanity} {...(look.comparison ? { before: look.comparison.before } : {})} />
        </div>
      )}
      {faults.length > 0 && (
        <div role="alert" className="mt-2 font-semibold text-caution">
          It cannot be published like this:
          <FaultList faults={faults} />
        </div>
      )}
      {newer !== undefined && (
        <p role="alert" className="mt-2 font-semibold text-caution">
          Somebody published version {newer} meanwhile. Yours is kept: keep it as a file, or drop it and make
          your changes on version {newer}.{" "}
          <a
            className="underline"
            href={`data:application/json,${encodeURIComponent(JSON.stringify(draft.sheet))}`}
            download={`${family.id}-draft.json`}
          >
            Keep the draft as a file
          </a>
        </p>
      )}
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <button
          type="button"
          className="btn"
          disabled={faults.length > 0 || moves.isPending}
          onClick={() => moves.mutate(draft.sheet)}
        >
          {moves.isPending ? "Judging the candidates …" : "Which candidates would it move?"}
        </button>
        <button
          type="button"
          className="btn btn-main"
          disabled={faults.length > 0 || newer !== undefined || publish.isPending || would === undefined}
          onClick={() => publish.mutate()}
        >
          Publish version {draft.from + 1}
        </button>
        {would === undefined && faults.length === 0 && (
          <span className="text-sm text-soft">Look first at what it moves.</span>
        )}
      </div>
      {would && (
        <div className="mt-2" data-testid="moves">
          {would.moves.length === 0 && <p>No candidate in the yard is judged by this sheet.</p>}
          <ul>
            {would.moves.map((m) => (
              <li key={m.candidate} className="border-b border-rule py-1">
                <b>{m.title}</b>:{" "}
                {m.after ? (
                  <>
                    {verdictLine(m.before.verdict, m.before.limit)}
                    {" → "}
                    {verdictLine(m.after.verdict, m.after.limit)}; worth at most{" "}
                    <span className="reading">
                      {money(m.before.limit)} → {money(m.after.limit)}
                    </span>{" "}
                    {m.currency}; bill{" "}
                    <span className="reading">
                      {money(m.before.bill)} → {money(m.after.bill)}
                    </span>
                    .
                  </>
                ) : (
                  "it does not fit this sheet any more."
                )}
                {m.lost.length > 0 && ` What was found on ${m.lost.join(", ")} would count no more.`}
              </li>
            ))}
          </ul>
          {would.further > 0 && <p>{would.further} more candidates name it and were not judged.</p>}
          <p className="text-sm text-soft">
            They stay on their version until somebody moves them, one by one, on their advert.
          </p>
        </div>
      )}
      <Trouble error={looked.error ?? moves.error ?? publish.error} />
    </section>
  );
}
