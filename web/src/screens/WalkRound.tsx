import { useMutation } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import { api, type CandidateView, type Finding } from "../lib/api";
import { money, percent, phaseWord } from "../lib/format";
import { useFreshView } from "../lib/hooks";
import { outbox, useOutbox, type Waiting } from "../lib/outbox";
import { isTyping } from "../parts/Shell";

type CheckEntry = CandidateView["checks"][number];

const keyOf = (c: { family: string; check: string }) => `${c.family}/${c.check}`;

/** The finding that holds for a check: the last one in force, waiting ones included. */
function holding(view: CandidateView, waiting: Waiting[], family: string, check: string) {
  const mine = (f: Finding) => f.family === family && f.check === check;
  const unsent = waiting.filter((w) => w.candidate === view.id && mine(w.finding)).at(-1);
  if (unsent) return { finding: unsent.finding, waiting: true, id: null };
  const findings = view.candidate.findings ?? [];
  for (let i = findings.length - 1; i >= 0; i--) {
    const f = findings[i];
    if (f && !f.undone && mine(f)) return { finding: f, waiting: false, id: view.finding_ids[i] ?? null };
  }
  return null;
}

interface Moved {
  name: string;
  before: number;
  after: number;
}

/** What an entry moved: the view before it is remembered until the next entry. */
function useMoved(view: CandidateView) {
  const [before, setBefore] = useState<CandidateView["assessment"] | null>(null);
  const moved: Moved[] = useMemo(() => {
    if (!before || before === view.assessment) return [];
    const old = new Map(before.points.map((p) => [`${p.at.family}/${p.at.point}`, p.p_plan]));
    return view.assessment.points
      .map((p) => ({
        name: p.name,
        before: old.get(`${p.at.family}/${p.at.point}`) ?? p.p_plan,
        after: p.p_plan,
      }))
      .filter((m) => Math.abs(m.before - m.after) >= 0.01)
      .sort((a, b) => Math.abs(b.before - b.after) - Math.abs(a.before - a.after))
      .slice(0, 3);
  }, [before, view.assessment]);
  return { before, moved, remember: () => setBefore(view.assessment) };
}

/** What the last entry moved; its room is kept so that nothing jumps. */
function WhatMoved({
  view,
  before,
  moved,
}: {
  view: CandidateView;
  before: CandidateView["assessment"] | null;
  moved: Moved[];
}) {
  const bill = view.assessment.bill.mean;
  return (
    <div aria-live="polite" className="min-h-40">
      {!before ? (
        <p className="border-l-8 border-rule pl-3 text-soft">
          Tap an outcome, or press its number: what it moved is shown here, and the verdict moves with it.
        </p>
      ) : (
        <>
          <h2 className="text-xl">What that moved</h2>
          <ul>
            {moved.length === 0 && <li className="border-b border-rule py-1">No chance by as much as 1 %</li>}
            {moved.map((m) => (
              <li key={m.name} className="flex justify-between gap-3 border-b border-rule py-1">
                <span>{m.name}</span>
                <span className="reading whitespace-nowrap">
                  {percent(m.before)} → {percent(m.after)}
                </span>
              </li>
            ))}
            <li className="flex justify-between gap-3 py-1">
              <span>Bill within your plan</span>
              <span className="reading whitespace-nowrap">
                {money(before.bill.mean)} → {money(bill)}
              </span>
            </li>
          </ul>
        </>
      )}
    </div>
  );
}

function Card({
  entry,
  index,
  view,
  waiting,
  current,
  whatMoved,
  onCurrent,
  onOutcome,
}: {
  entry: CheckEntry;
  index: number;
  view: CandidateView;
  waiting: Waiting[];
  current: boolean;
  whatMoved: ReactNode;
  onCurrent: (key: string) => void;
  onOutcome: (
    entry: CheckEntry,
    result: Finding["result"],
    extra: { reading?: number; note?: string },
  ) => void;
}) {
  const { check, family } = entry;
  const key = keyOf({ family, check: check.id });
  const held = holding(view, waiting, family, check.id);
  const result = held?.finding.result;
  const [note, setNote] = useState(held?.finding.note ?? "");
  const [reading, setReading] = useState(held?.finding.reading?.toString() ?? "");
  const waitingOutcome = result?.kind === "outcome" ? result.outcome : null;
  const outcome = held?.waiting ? waitingOutcome : entry.outcome;
  const done = outcome == null ? undefined : check.outcomes[outcome];
  const worth = view.assessment.next.find((n) => n.family === family && n.check === check.id);
  const readingValue = Number(reading.replace(",", "."));
  const readingFaulty = reading.trim() !== "" && !Number.isFinite(readingValue);
  const extra = () => ({
    note: note.trim(),
    ...(reading.trim() !== "" && !readingFaulty ? { reading: readingValue } : {}),
  });
  const status =
    done?.label ??
    (result?.kind === "measured"
      ? `${held?.finding.reading} ${check.measure?.unit}`
      : result?.kind === "could_not"
        ? "could not check"
        : result?.kind === "skipped"
          ? "skipped"
          : "");
  return (
    <li className={`border-b border-rule ${current ? "border-l-8 border-l-sea bg-raised pl-3" : ""}`}>
      <h3>
        <button
          type="button"
          id={`check-${key}`}
          aria-expanded={current}
          className="grid min-h-12 w-full grid-cols-[1fr_auto] items-center gap-3 py-1.5 text-left"
          onClick={() => onCurrent(current ? "" : key)}
        >
          <span className="sign text-[1.2rem] leading-tight font-semibold">
            <span className="reading mr-2 text-soft">{index + 1}</span>
            {check.name}
          </span>
          <span className="sign text-right text-[1.05rem] leading-tight">
            {status ? (
              <b>
                {held?.waiting ? "waiting: " : ""}
                {status}
              </b>
            ) : (
              <span className="text-soft">{check.minutes} min</span>
            )}
          </span>
        </button>
      </h3>
      {current && (
        <div className="pb-4">
          {check.caution && (
            <p className="mb-2 border-l-8 border-caution bg-caution-bg px-3 py-1.5 text-caution">
              <b className="sign">Caution. </b>
              {check.caution}
            </p>
          )}
          <p className="max-w-prose text-[1.08rem]">{check.how}</p>
          {check.tells && <p className="max-w-prose text-soft">Tells: {check.tells}</p>}
          {worth && worth.worth >= 1 && (
            <p className="sign mt-1 text-base">
              Worth about <b className="reading">{money(worth.worth)}</b> to know before you decide.
            </p>
          )}
          {check.fee != null && (
            <p className="sign text-base">Usually costs {money(check.fee)}; a workshop’s job.</p>
          )}
          {check.measure && (
            <div className="mt-2 flex flex-wrap items-end gap-3">
              <label className="block w-48">
                <span className="sign text-base font-semibold">
                  {check.measure.quantity}, {check.measure.unit}
                </span>
                <input
                  className="field reading"
                  inputMode="decimal"
                  value={reading}
                  aria-invalid={readingFaulty}
                  onChange={(e) => setReading(e.target.value)}
                />
              </label>
              <button
                type="button"
                className="btn btn-main"
                disabled={reading.trim() === "" || readingFaulty}
                onClick={() => onOutcome(entry, { kind: "measured" }, extra())}
              >
                Enter reading
              </button>
              <p className="basis-full text-sm text-soft">
                Bands at {check.measure.limits.join(" and ")} {check.measure.unit}; {check.measure.source}.
                {readingFaulty && <b className="text-caution"> That is not a number: write it as 20.4.</b>}
              </p>
            </div>
          )}
          <div
            className="mt-3 grid gap-2 sm:grid-cols-2 xl:grid-cols-3"
            role="group"
            aria-label={`Outcome of ${check.name}`}
          >
            {check.outcomes.map((o, i) => (
              <button
                key={o.label}
                type="button"
                aria-pressed={done === o}
                className="btn min-h-14 justify-start! text-left leading-tight aria-pressed:border-sea aria-pressed:bg-sea aria-pressed:text-on-sea"
                onClick={() => onOutcome(entry, { kind: "outcome", outcome: i }, extra())}
              >
                <span className="reading text-xl opacity-80">{i + 1}</span>
                {o.label}
              </button>
            ))}
          </div>
          {done?.gate && (
            <p className="mt-2 border-l-8 border-caution bg-caution-bg px-3 py-1.5 text-caution" role="alert">
              <b className="sign">{done.gate.kind === "stop" ? "Stop. " : "Prove first. "}</b>
              {done.gate.say}
            </p>
          )}
          <div className="mt-3 lg:hidden">{whatMoved}</div>
          <div className="mt-2 flex flex-wrap items-end gap-2">
            <label className="block min-w-64 flex-1">
              <span className="sign text-base font-semibold">Note</span>
              <input
                id={`note-${key}`}
                className="field"
                value={note}
                placeholder="in your own words; kept with the next tap"
                onChange={(e) => setNote(e.target.value)}
              />
            </label>
            <button
              type="button"
              className="btn"
              onClick={() => onOutcome(entry, { kind: "could_not" }, extra())}
            >
              Could not check
            </button>
            <button
              type="button"
              className="btn"
              onClick={() => onOutcome(entry, { kind: "skipped" }, extra())}
            >
              Skip
            </button>
          </div>
        </div>
      )}
    </li>
  );
}

export function WalkRound({ view }: { view: CandidateView }) {
  const { assessment, checks } = view;
  const fresh = useFreshView();
  const { waiting } = useOutbox();
  const { before, moved, remember } = useMoved(view);
  const [current, setCurrent] = useState<string>(() => {
    const next = assessment.next[0];
    return next ? keyOf(next) : "";
  });
  const order = useMemo(() => checks.map((c) => keyOf({ family: c.family, check: c.check.id })), [checks]);
  const undo = useMutation({
    mutationFn: ({ id, undone }: { id: string; undone: boolean }) => api.undoFinding(view.id, id, undone),
    onSuccess: fresh,
  });
  const goTo = useCallback((key: string) => {
    setCurrent(key);
    requestAnimationFrame(() => {
      const button = document.getElementById(`check-${key}`);
      button?.focus({ preventScroll: true });
      button?.scrollIntoView({ block: "start" });
    });
  }, []);

  const enter = (
    entry: CheckEntry,
    result: Finding["result"],
    extra: { reading?: number; note?: string },
  ) => {
    remember();
    outbox.add(view.id, {
      family: entry.family,
      check: entry.check.id,
      result,
      note: extra.note ?? "",
      undone: false,
      ...(extra.reading === undefined ? {} : { reading: extra.reading }),
    });
  };

  const findings = view.candidate.findings ?? [];
  const lastIndex = findings.findLastIndex((f) => !f.undone);
  const lastId = view.finding_ids[lastIndex];
  const last = findings[lastIndex];
  const lastName = checks.find((c) => c.family === last?.family && c.check.id === last.check)?.check.name;
  const undoLast = () => {
    if (lastId && !undo.isPending) {
      remember();
      undo.mutate({ id: lastId, undone: true });
    }
  };

  const keys = useRef({ enter, undoLast, goTo, current, checks, order });
  useEffect(() => {
    keys.current = { enter, undoLast, goTo, current, checks, order };
  });
  useEffect(() => {
    const listener = (e: KeyboardEvent) => {
      if (isTyping(e) || e.ctrlKey || e.metaKey || e.altKey) return;
      const k = keys.current;
      const at = k.order.indexOf(k.current);
      const entry = k.checks[at];
      if (e.key === "ArrowDown" || e.key === "ArrowUp") {
        e.preventDefault();
        const next =
          k.order[Math.min(k.order.length - 1, Math.max(0, at + (e.key === "ArrowDown" ? 1 : -1)))];
        if (next) k.goTo(next);
      } else if (e.key === "u") {
        k.undoLast();
      } else if (e.key === "n" && entry) {
        e.preventDefault();
        document.getElementById(`note-${k.current}`)?.focus();
      } else if (/^[1-6]$/.test(e.key) && entry && Number(e.key) <= entry.check.outcomes.length) {
        k.enter(entry, { kind: "outcome", outcome: Number(e.key) - 1 }, {});
      }
    };
    addEventListener("keydown", listener);
    return () => removeEventListener("keydown", listener);
  }, []);

  const phases = [...new Set(checks.map((c) => c.check.phase))];
  const next = assessment.next[0];
  const minutesLeft = assessment.next.reduce((sum, n) => sum + n.minutes, 0);
  return (
    <div className="grid gap-x-8 gap-y-4 lg:grid-cols-[1fr_21rem]">
      <div className="min-w-0">
        <div className="flex flex-wrap items-end justify-between gap-x-4 gap-y-1">
          <div>
            <h1 className="text-3xl">Walk-round</h1>
            <p>
              <b className="reading" data-testid="done">
                {assessment.checks_done}
              </b>{" "}
              of {assessment.checks_total} checks done; {minutesLeft} min for all that is left.
            </p>
          </div>
          <button type="button" className="btn" disabled={!lastId || undo.isPending} onClick={undoLast}>
            Take back{lastName ? `: ${lastName}` : " the last finding"}
          </button>
        </div>
        {undo.error && (
          <p role="alert" className="mt-1 text-caution">
            {undo.error.message}
          </p>
        )}
        {phases.map((phase) => (
          <section key={phase} className="mt-4" aria-label={phaseWord[phase]}>
            <h2 className="stretch">{phaseWord[phase]}</h2>
            <ul>
              {checks.map((entry, i) =>
                entry.check.phase === phase ? (
                  <Card
                    key={`${keyOf({ family: entry.family, check: entry.check.id })}`}
                    entry={entry}
                    index={i}
                    view={view}
                    waiting={waiting}
                    current={current === keyOf({ family: entry.family, check: entry.check.id })}
                    whatMoved={<WhatMoved view={view} before={before} moved={moved} />}
                    onCurrent={setCurrent}
                    onOutcome={enter}
                  />
                ) : null,
              )}
            </ul>
          </section>
        ))}
      </div>
      <aside
        className="order-first flex flex-col gap-4 lg:order-none lg:sticky lg:top-44 lg:self-start"
        aria-label="What to do next"
      >
        {next ? (
          <div className="border-2 border-ink bg-raised p-3">
            <p className="sign text-base text-soft">Most telling next</p>
            <p className="sign text-2xl leading-tight font-bold">{next.name}</p>
            <p className="leading-snug">
              {next.minutes} min
              {next.worth > next.cost
                ? `; worth about ${money(next.worth)} before you decide.`
                : `; it will hardly change the decision, but could move the bill by about ${money(next.moves)}.`}
            </p>
            <button type="button" className="btn btn-main mt-2 w-full" onClick={() => goTo(keyOf(next))}>
              Go to it
            </button>
          </div>
        ) : (
          <p className="border-2 border-ink bg-raised p-3 text-lg">
            Every check is done. The verdict is as good as it gets from looking.
          </p>
        )}
        <div className="hidden lg:block" data-testid="moved">
          <WhatMoved view={view} before={before} moved={moved} />
        </div>
      </aside>
    </div>
  );
}
