import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { api, Refusal, type CandidateView, type Evidence, type LedgerEntry, type Term } from "../../lib/api";
import { day, evidenceWord, exact, percent, usage, whole } from "../../lib/format";
import { useFreshView, useQuiet } from "../../lib/hooks";
import { newName } from "../../lib/outbox";
import { FileButton } from "../../parts/FileButton";
import { Choice, Labelled, numberOf, PastDate, Trouble, useDesk, useStore } from "./common";
import { TableImport } from "./TableImport";
import { MovedMoney, movedNothing, movedSays } from "./Told";

const evidences: [Evidence, string][] = [
  ["invoice_naming_part", "Itemised invoice"],
  ["invoice", "Invoice"],
  ["stamp", "Stamp"],
  ["owner_log", "Log, mark"],
  ["sellers_word", "Said"],
];

/** A thing that an entry may start afresh: a failure point, or scheduled work. */
interface Target {
  key: string;
  name: string;
  renews?: LedgerEntry["renews"];
  performs?: LedgerEntry["performs"];
}

function targetsOf(view: CandidateView): Target[] {
  const points = view.assessment.points.map((p) => ({
    key: `p/${p.at.family}/${p.at.point}`,
    name: p.name,
    renews: [p.at],
  }));
  const work = view.assessment.due.map((d) => ({
    key: `w/${d.family}/${d.interval}`,
    name: `${d.name} (scheduled)`,
    performs: [{ family: d.family, interval: d.interval }],
  }));
  return [...work, ...points].sort((a, b) => a.name.localeCompare(b.name));
}

const keysOf = (e: LedgerEntry): string[] => [
  ...(e.renews ?? []).map((r) => `p/${r.family}/${r.point}`),
  ...(e.performs ?? []).map((r) => `w/${r.family}/${r.interval}`),
];

function withTargets(e: LedgerEntry, keys: string[], targets: Target[]): LedgerEntry {
  const chosen = targets.filter((t) => keys.includes(t.key));
  return {
    ...e,
    renews: chosen.flatMap((t) => t.renews ?? []),
    performs: chosen.flatMap((t) => t.performs ?? []),
  };
}

/** What the entry starts afresh: proposed by its words, confirmed here. */
function Afresh({
  entry,
  terms,
  onChange,
}: {
  entry: LedgerEntry;
  terms: Term[];
  onChange: (entry: LedgerEntry) => void;
}) {
  const { view } = useDesk();
  const targets = useMemo(() => targetsOf(view), [view]);
  const on = keysOf(entry);
  const proposed = terms.flatMap((t) =>
    t.matches.map((m) =>
      m.renews ? `p/${m.renews.family}/${m.renews.point}` : `w/${m.performs?.family}/${m.performs?.interval}`,
    ),
  );
  const shown = targets.filter((t) => on.includes(t.key) || proposed.includes(t.key));
  const toggle = (key: string) =>
    onChange(withTargets(entry, on.includes(key) ? on.filter((k) => k !== key) : [...on, key], targets));
  return (
    <fieldset className="min-w-0">
      <legend className="sign text-[1.05rem] font-semibold">What it started afresh</legend>
      <div className="flex flex-wrap gap-2">
        {shown.map((t) => (
          <button
            key={t.key}
            type="button"
            aria-pressed={on.includes(t.key)}
            className="sign min-h-11 border-2 border-dashed border-strong bg-raised px-3 text-left text-[1.05rem] leading-tight aria-pressed:border-solid aria-pressed:border-ink aria-pressed:font-bold"
            onClick={() => toggle(t.key)}
          >
            {on.includes(t.key) ? "✓ " : "+ "}
            {t.name}
          </button>
        ))}
        <select
          className="field sign w-auto max-w-full"
          aria-label="Add a part or scheduled work"
          value=""
          onChange={(e) => e.target.value && toggle(e.target.value)}
        >
          <option value="">{shown.length === 0 ? "nothing known: choose" : "another…"}</option>
          {targets
            .filter((t) => !shown.includes(t))
            .map((t) => (
              <option key={t.key} value={t.key}>
                {t.name}
              </option>
            ))}
        </select>
      </div>
      {shown.length > on.length && on.length === 0 && (
        <p className="text-sm text-soft">Several things may be meant: tap those that were done.</p>
      )}
    </fieldset>
  );
}

/** Everything of an entry but its date, usage and words. */
function Details({
  entry,
  terms,
  onChange,
}: {
  entry: LedgerEntry;
  terms: Term[];
  onChange: (entry: LedgerEntry) => void;
}) {
  const { view } = useDesk();
  const [cost, setCost] = useState(entry.cost === null || entry.cost === undefined ? "" : String(entry.cost));
  return (
    <div className="grid gap-3">
      <Choice
        label="What stands behind it"
        value={entry.evidence}
        options={evidences}
        onChange={(evidence) => onChange({ ...entry, evidence })}
      />
      <Afresh entry={entry} terms={terms} onChange={onChange} />
      <div className="grid gap-3 sm:grid-cols-[auto_1fr_9rem]">
        <Labelled label="Parts">
          <select
            className="field"
            value={entry.revised ? "revised" : entry.grade}
            onChange={(e) => {
              const grade = e.target.value;
              onChange({
                ...entry,
                revised: grade === "revised",
                grade: grade === "revised" ? "original" : (grade as NonNullable<LedgerEntry["grade"]>),
              });
            }}
          >
            <option value="unknown">not known</option>
            <option value="original">original</option>
            <option value="revised">original, revised</option>
            <option value="equivalent">equivalent</option>
            <option value="used">used</option>
          </select>
        </Labelled>
        <Labelled label="By whom">
          <input
            className="field"
            maxLength={200}
            value={entry.who ?? ""}
            onChange={(e) => onChange({ ...entry, who: e.target.value })}
          />
        </Labelled>
        <Labelled label={`Cost, ${view.candidate.currency}`}>
          <input
            className="field"
            inputMode="decimal"
            value={cost}
            aria-invalid={cost !== "" && numberOf(cost) === null}
            onChange={(e) => {
              setCost(e.target.value);
              const n = numberOf(e.target.value);
              onChange({ ...entry, cost: n === null ? null : Math.round(n * 100) / 100 });
            }}
          />
        </Labelled>
      </div>
    </div>
  );
}

const LINE_KEY = "ticksage.line";
const kept = () => {
  try {
    return sessionStorage.getItem(LINE_KEY) ?? "";
  } catch {
    return "";
  }
};

/** One line typed, read while it is typed, with what it would move. */
function QuickLine() {
  const { view } = useDesk();
  const { add } = useStore();
  const [line, setLine] = useState(kept);
  const [own, setOwn] = useState<{ line: string; entry: LedgerEntry } | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const quiet = useQuiet(line.trim(), 200);
  const query = useQuery({
    queryKey: ["quick", view.id, view.version, view.candidate.ledger?.length, quiet],
    queryFn: () => api.quick(view.id, quiet),
    enabled: quiet.length > 2,
    placeholderData: (previous) => previous,
    retry: false,
    staleTime: Infinity,
  });
  useEffect(() => {
    try {
      sessionStorage.setItem(LINE_KEY, line);
    } catch {
      // Costs only what a reload would lose.
    }
  }, [line]);
  useEffect(() => {
    const listener = () => input.current?.focus();
    addEventListener("ticksage:line", listener);
    return () => removeEventListener("ticksage:line", listener);
  }, []);
  const read = quiet.length > 2 ? query.data : undefined;
  const settled = read !== undefined && quiet === line.trim() && !query.isPlaceholderData;
  const entry = own && own.line === quiet ? own.entry : (read?.reading.entry ?? null);
  const faults = read?.reading.faults ?? [];
  const ready = settled && entry !== null && faults.length === 0;
  const moved = own && own.line === quiet ? null : (read?.moved ?? null);
  return (
    <form
      className="border-2 border-ink bg-raised p-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (!ready || !entry) return;
        add.mutate(
          {
            papers: [{ kind: "entry", paper: entry }],
            says: `${entry.note || "Entry"} at ${whole(entry.usage.value)}`,
          },
          {
            onSuccess: () => {
              setLine("");
              setOwn(null);
              input.current?.focus();
            },
          },
        );
      }}
    >
      <label htmlFor="ledger-line" className="sign block text-[1.15rem] font-bold">
        One line: reading, date, what was done, proof
      </label>
      <div className="grid gap-2 sm:grid-cols-[1fr_auto]">
        <input
          id="ledger-line"
          ref={input}
          className="field reading text-[1.25rem]!"
          autoComplete="off"
          maxLength={2000}
          placeholder="120500 2021-03 belt+pump invoice"
          value={line}
          onChange={(e) => setLine(e.target.value)}
        />
        <button type="submit" className="btn btn-main" disabled={!ready || add.isPending}>
          Enter it
        </button>
      </div>
      <p className="mt-1 text-sm text-soft">
        Also “by” and a name, “340 {view.candidate.currency}”, original, equivalent, used, revised; stamp,
        log, said.
      </p>
      <Trouble error={add.error} />
      {query.error && line.trim().length > 2 && <Trouble error={query.error} />}
      {read && (
        <div className="mt-2 border-t-2 border-rule pt-2" data-testid="quick">
          {faults.map((f) => (
            <p key={f.path + f.message} className="font-semibold text-caution">
              {f.message}
            </p>
          ))}
          {entry && (
            <>
              <p className="sign text-[1.2rem]">
                <b className="reading">{usage(entry.usage.value, entry.usage.unit)}</b>,{" "}
                {day(entry.date, entry.known)}: {entry.note || "…"}
                {read.reading.evidence_assumed && (
                  <span className="text-soft"> (no proof named: taken as said by the seller)</span>
                )}
              </p>
              <p className="mt-1 min-h-12 leading-snug" data-testid="would">
                {moved &&
                  (movedNothing(moved) ? (
                    "It would move nothing worth telling."
                  ) : (
                    <>
                      It would move: {movedSays(moved, view.assessment.clock).join("; ")}
                      {movedSays(moved, view.assessment.clock).length > 0 && "; "}
                      <MovedMoney moved={moved} />.
                    </>
                  ))}
                {own?.line === quiet && "Changed by you: enter it to see what it moves."}
              </p>
              <div className="mt-2">
                <Details
                  key={quiet}
                  entry={entry}
                  terms={read.reading.terms}
                  onChange={(e) => setOwn({ line: quiet, entry: e })}
                />
              </div>
            </>
          )}
        </div>
      )}
    </form>
  );
}

/** An entry put right; the earlier one is kept. */
function Correct({ entry, name, onDone }: { entry: LedgerEntry; name: string; onDone: () => void }) {
  const { add } = useStore();
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
          <input
            className="field"
            inputMode="decimal"
            value={figure}
            aria-invalid={value === null}
            onChange={(e) => setFigure(e.target.value)}
          />
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
          fresh(await api.attach(view.id, name, newName(), f));
        } catch (e) {
          refused.push(`${f.name}: ${e instanceof Refusal ? e.message : "it could not be sent."}`);
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
  const { undo } = useStore();
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
  const { undo } = useStore();
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
