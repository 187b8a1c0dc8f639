import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { api, type CandidateView, type Evidence, type LedgerEntry, type Term } from "../../lib/api";
import { useQuiet } from "../../lib/hooks";
import { Choice, Labelled, useDesk, usePaperMutations } from "./common";
import { MovedMoney, movedNothing, movedSays } from "./Told";
import { day, numberOf, usage, whole } from "../../lib/format";
import { Trouble } from "../../parts/Trouble";

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

export function targetsOf(view: CandidateView): Target[] {
  const points = view.road.points.map((p) => ({
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

export const keysOf = (e: LedgerEntry): string[] => [
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

/** Grades that name a design. */
const design = ["revised", "first"];

/** Everything of an entry but its date, usage and words. */
export function Details({
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
      <div className="grid gap-3 sm:grid-cols-[auto_auto_1fr_9rem]">
        <Labelled label="Why it was done">
          <select
            className="field"
            value={entry.reason ?? ""}
            onChange={(e) => {
              const reason = e.target.value as NonNullable<LedgerEntry["reason"]> | "";
              onChange({ ...entry, reason: reason === "" ? null : reason });
            }}
          >
            <option value="">not said</option>
            <option value="failed">it had failed</option>
            <option value="planned">in good time</option>
          </select>
        </Labelled>
        <Labelled label="Parts">
          <select
            className="field"
            value={entry.revised ? "revised" : entry.first_design ? "first" : entry.grade}
            onChange={(e) => {
              const grade = e.target.value;
              onChange({
                ...entry,
                revised: grade === "revised",
                first_design: grade === "first",
                grade: design.includes(grade) ? "original" : (grade as NonNullable<LedgerEntry["grade"]>),
              });
            }}
          >
            <option value="unknown">not known</option>
            <option value="original">original</option>
            <option value="revised">original, revised</option>
            <option value="first">original, first design</option>
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
export function QuickLine() {
  const { view } = useDesk();
  const { add } = usePaperMutations();
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
