import { useMutation, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { api, ApiError, type LedgerEntry } from "../../lib/api";
import { Figure } from "../../parts/Figure";
import { useFreshView } from "../../lib/hooks";
import { newId } from "../../lib/id";
import { FileButton } from "../../parts/FileButton";
import { Labelled, PastDate, useDesk, usePaperMutations } from "./common";
import { TableImport } from "./TableImport";
import { MovedMoney, movedNothing, movedSays } from "./Told";
import { day, exact, numberOf, percent, usage } from "../../lib/format";
import { evidenceWord } from "../../lib/words";
import { Trouble } from "../../parts/Trouble";
import { Details, keysOf, QuickLine, targetsOf } from "./QuickLine";

/** An entry put right; the earlier one is kept. */
function Correct({ entry, name, onDone }: { entry: LedgerEntry; name: string; onDone: () => void }) {
  const { add } = usePaperMutations();
  const [draft, setDraft] = useState(entry);
  const [figure, setFigure] = useState(String(entry.usage.value));
  const value = numberOf(figure);
  return (
    <form
      className="mt-2 grid gap-3 border-l-8 border-sea bg-sunk p-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (value === null) return;
        add.mutate(
          {
            papers: [{ kind: "entry", paper: { ...draft, usage: { ...draft.usage, value } } }],
            corrects: name,
            says: `${draft.note || "Entry"} put right`,
          },
          { onSuccess: onDone },
        );
      }}
    >
      <div className="grid gap-3 sm:grid-cols-[11rem_10rem_1fr]">
        <PastDate
          label="Date"
          value={draft.date}
          onChange={(date) => setDraft({ ...draft, date, known: "day" })}
        />
        <Labelled label={`Reading, ${draft.usage.unit}`}>
          <Figure text={figure} onType={setFigure} invalid={value === null} />
        </Labelled>
        <Labelled label="What was done">
          <input
            className="field"
            maxLength={4000}
            value={draft.note ?? ""}
            onChange={(e) => setDraft({ ...draft, note: e.target.value })}
          />
        </Labelled>
      </div>
      <Details entry={draft} terms={[]} onChange={setDraft} />
      <div className="flex gap-3">
        <button
          type="submit"
          className="btn btn-main"
          disabled={value === null || draft.date === "" || add.isPending}
        >
          Keep it so
        </button>
        <button type="button" className="btn" onClick={onDone}>
          Leave it
        </button>
      </div>
      <Trouble error={add.error} />
    </form>
  );
}

const LARGEST = 20_000_000;

/** Photos and documents that stand behind an entry. */
function Files({ name }: { name: string }) {
  const { view } = useDesk();
  const fresh = useFreshView();
  const [troubles, setTroubles] = useState<string[]>([]);
  const send = useMutation({
    mutationFn: async (files: File[]) => {
      const refused: string[] = [];
      for (const f of files) {
        if (f.size > LARGEST) {
          refused.push(
            `${f.name} has ${Math.round(f.size / 1e6)} MB: at most 20 MB are taken. Make it smaller and send it again.`,
          );
          continue;
        }
        try {
          fresh(await api.attach(view.id, name, newId(), f));
        } catch (e) {
          refused.push(`${f.name}: ${e instanceof ApiError ? e.message : "it could not be sent."}`);
        }
      }
      return refused;
    },
    onSuccess: setTroubles,
  });
  const undo = useMutation({
    mutationFn: (file: string) => api.undoAttachment(view.id, file, true),
    onSuccess: fresh,
  });
  const files = view.attachments.filter((a) => a.paper === name);
  return (
    <div className="mt-2">
      <ul className="flex flex-wrap gap-2">
        {files.map((f) => {
          const href = `/api/candidates/${view.id}/attachments/${f.id}`;
          return (
            <li key={f.id} className="border-2 border-rule-strong bg-raised p-1">
              <a href={href} target="_blank" rel="noreferrer" className="block underline underline-offset-2">
                {f.media === "image/jpeg" ? (
                  <img src={href} alt={f.name} className="h-24 w-32 object-cover" loading="lazy" />
                ) : (
                  <span className="sign flex h-24 w-32 items-center justify-center p-1 text-center leading-tight break-all">
                    {f.name}
                  </span>
                )}
              </a>
              <button
                type="button"
                className="btn btn-quiet w-full"
                aria-label={`Take back ${f.name}`}
                disabled={undo.isPending}
                onClick={() => undo.mutate(f.id)}
              >
                Take back
              </button>
            </li>
          );
        })}
      </ul>
      <FileButton
        label="Photo or PDF"
        accept="image/jpeg,image/png,image/webp,application/pdf"
        multiple
        className="btn mt-1"
        disabled={send.isPending}
        onChoose={(files) => send.mutate(files)}
      >
        {send.isPending ? "Sending…" : "Add a photo or PDF"}
      </FileButton>
      {troubles.map((t) => (
        <p key={t} role="alert" className="mt-1 font-semibold text-caution">
          {t}
        </p>
      ))}
      <Trouble error={send.error ?? undo.error} />
    </div>
  );
}

function Entry({ entry, name, names }: { entry: LedgerEntry; name: string; names: Map<string, string> }) {
  const { view } = useDesk();
  const { undo } = usePaperMutations();
  const [open, setOpen] = useState(false);
  const [correcting, setCorrecting] = useState(false);
  const moved = useQuery({
    queryKey: ["moved", view.id, name, view.version, view.assessment.bill.mean],
    queryFn: () => api.paperMoved(view.id, name),
    enabled: open,
  });
  const afresh = keysOf(entry).map((k) => names.get(k) ?? k);
  const files = view.attachments.filter((a) => a.paper === name).length;
  const proved = entry.evidence === "invoice" || entry.evidence === "invoice_naming_part";
  return (
    <li className="border-b border-rule">
      <button
        type="button"
        aria-expanded={open}
        className="grid w-full grid-cols-[auto_1fr_auto] items-center gap-x-3 py-2 text-left leading-tight"
        onClick={() => setOpen(!open)}
      >
        <svg width="22" height="26" viewBox="0 0 16 20" aria-hidden="true">
          <path
            d="M8 2v8M8 7l6 6-6 6-6-6z"
            fill={proved ? "var(--ink)" : "none"}
            stroke="var(--ink)"
            strokeWidth="1.8"
            strokeDasharray={proved ? undefined : "2.4 1.8"}
          />
        </svg>
        <span className="min-w-0">
          <span className="sign text-[1.2rem] font-bold">{entry.note || afresh.join(", ") || "Service"}</span>
          <span className="block text-[0.92rem] text-soft">
            {day(entry.date, entry.known)} · {evidenceWord[entry.evidence] ?? entry.evidence}
            {entry.who && ` · ${entry.who}`}
            {entry.cost !== null &&
              entry.cost !== undefined &&
              ` · ${exact(entry.cost)} ${view.candidate.currency}`}
            {files > 0 && ` · ${files} file${files > 1 ? "s" : ""}`}
          </span>
          {afresh.length > 0 && <span className="block text-[0.92rem]">Afresh: {afresh.join(", ")}</span>}
        </span>
        <b className="reading text-lg whitespace-nowrap">{usage(entry.usage.value, entry.usage.unit)}</b>
      </button>
      {open && (
        <div className="pb-3 pl-8">
          <p className="min-h-6">
            {moved.data &&
              (movedNothing(moved.data) ? (
                "By itself it moves nothing worth telling."
              ) : (
                <>
                  Without it and with it: {movedSays(moved.data, view.assessment.clock).join("; ")}
                  {movedSays(moved.data, view.assessment.clock).length > 0 && "; "}
                  <MovedMoney moved={moved.data} />.
                </>
              ))}
          </p>
          <Trouble error={moved.error} />
          <div className="mt-1 flex flex-wrap gap-2">
            <button type="button" className="btn" onClick={() => setCorrecting(!correcting)}>
              Put it right
            </button>
            <button
              type="button"
              className="btn"
              disabled={undo.isPending}
              onClick={() =>
                undo.mutate({ papers: [name], undone: true, says: `${entry.note || "Entry"} taken back` })
              }
            >
              Take it back
            </button>
          </div>
          <Files name={name} />
          {correcting && <Correct entry={entry} name={name} onDone={() => setCorrecting(false)} />}
          <Trouble error={undo.error} />
        </div>
      )}
    </li>
  );
}

const FIRST = 40;

export function Ledger() {
  const { view } = useDesk();
  const { undo } = usePaperMutations();
  const setLimit = useState(FIRST);
  const [limit, more] = setLimit;
  const names = useMemo(() => new Map(targetsOf(view).map((t) => [t.key, t.name])), [view]);
  const entries = useMemo(
    () =>
      (view.candidate.ledger ?? [])
        .map((entry, i) => ({ entry, name: view.paper_ids.ledger[i] ?? "" }))
        .sort(
          (a, b) => b.entry.date.localeCompare(a.entry.date) || b.entry.usage.value - a.entry.usage.value,
        ),
    [view],
  );
  const back = view.taken_back.filter((t) => t.paper.kind === "entry");
  return (
    <section aria-label="Ledger">
      <h2 className="mb-2 text-2xl">What was done, and what proves it</h2>
      <QuickLine />
      <p className="mt-3">
        {entries.length === 0
          ? "No entry yet. One invoice that names its parts says more than a book full of stamps: enter the dear ones first."
          : `${entries.length} ${entries.length === 1 ? "entry" : "entries"}. These papers would show a past repair in ${percent(view.assessment.completeness)} of cases.`}
      </p>
      <ul className="mt-1" data-testid="ledger">
        {entries.slice(0, limit).map(({ entry, name }) => (
          <Entry key={name} entry={entry} name={name} names={names} />
        ))}
      </ul>
      {entries.length > limit && (
        <button type="button" className="btn mt-2" onClick={() => more(limit + 200)}>
          Show older ones ({entries.length - limit})
        </button>
      )}
      {back.length > 0 && (
        <details className="mt-3">
          <summary className="sign flex min-h-11 cursor-pointer items-center underline underline-offset-4">
            Taken back ({back.length})
          </summary>
          <ul>
            {back.map((t) =>
              t.paper.kind === "entry" ? (
                <li key={t.id} className="flex flex-wrap items-center gap-3 border-b border-rule">
                  <span className="min-w-0 flex-1">
                    {day(t.paper.paper.date, t.paper.paper.known)},{" "}
                    {usage(t.paper.paper.usage.value, t.paper.paper.usage.unit)}: {t.paper.paper.note}
                  </span>
                  <button
                    type="button"
                    className="btn btn-quiet"
                    disabled={undo.isPending}
                    onClick={() => undo.mutate({ papers: [t.id], undone: false, says: "In force again" })}
                  >
                    Put in force again
                  </button>
                </li>
              ) : null,
            )}
          </ul>
        </details>
      )}
      <Trouble error={undo.error} />
      <TableImport table="ledger" heading="Paste a table of entries, or choose a file" />
    </section>
  );
}
