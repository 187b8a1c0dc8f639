import { useMutation } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, type Action, type WalkPlan } from "../../lib/api";
import { useFreshView, type WalkedView } from "../../lib/hooks";
import { outbox, useOutbox } from "../../lib/outbox";
import { isTyping } from "../../parts/Shell";
import { Card } from "./Card";
import { acknowledged, keyOf, type CheckEntry, type Extra, type Result } from "./common";
import { Identify } from "./Identify";
import { useMoved, WhatMoved } from "./Moved";
import { LeftOut, TimeThereIs } from "./Time";
import { money } from "../../lib/format";
import { phaseWord, toolsOf } from "../../lib/words";

export function WalkRound({ view }: { view: WalkedView }) {
  const { assessment } = view;
  const { walk } = assessment;
  const checks = useMemo(() => {
    const entries = new Map(view.checks.map((c) => [keyOf({ family: c.family, check: c.check.id }), c]));
    return walk.actions
      .filter((a) => a.chosen)
      .flatMap((a) => a.checks.map((c) => entries.get(keyOf(c))))
      .filter((c) => c !== undefined);
  }, [view.checks, walk]);
  const fresh = useFreshView();
  const { waiting } = useOutbox();
  const { before, moved, remember } = useMoved(view);
  const [current, setCurrent] = useState<string>(() => {
    const next = walk.next == null ? undefined : assessment.open_checks[walk.next];
    return next ? keyOf(next) : "";
  });
  const order = useMemo(() => checks.map((c) => keyOf({ family: c.family, check: c.check.id })), [checks]);
  const undo = useMutation({
    mutationFn: ({ id, undone }: { id: string; undone: boolean }) => api.undoFinding(view.id, id, undone),
    onSuccess: fresh,
  });
  const plan = useMutation({
    mutationFn: (next: WalkPlan) =>
      api.edit(view.id, view.version, { ...view.candidate, walk: next }, "walk"),
    onSuccess: fresh,
  });
  const wanted: WalkPlan = view.candidate.walk ?? {};
  const without = (list: string[] | undefined, key: string) => (list ?? []).filter((k) => k !== key);
  const bring = toolsOf(checks.filter((c) => c.outcome == null).flatMap((c) => c.check.tools ?? []));
  const done = walk.actions.filter((a) => a.done).map((a) => a.key);
  const nameOf = (a: Action) =>
    a.checks
      .map(
        (c) =>
          view.checks.find((x) => x.family === c.family && x.check.id === c.check)?.check.name ?? c.check,
      )
      .join(" + ");
  const shift = (a: Action, by: 1 | -1) => {
    const same = walk.actions.filter((x) => x.phase === a.phase && x.chosen).map((x) => x.key);
    const at = same.indexOf(a.key);
    const other = same[at + by];
    if (other === undefined) return;
    same[at] = other;
    same[at + by] = a.key;
    const rest = (wanted.order ?? []).filter((k) => !same.includes(k));
    plan.mutate({ ...wanted, order: [...rest, ...same] });
  };
  const goTo = useCallback((key: string) => {
    setCurrent(key);
    requestAnimationFrame(() => {
      const button = document.getElementById(`check-${key}`);
      button?.focus({ preventScroll: true });
      button?.scrollIntoView({ block: "start" });
    });
  }, []);

  const read = acknowledged(view, waiting);
  const enter = (entry: CheckEntry, result: Result, extra: Extra) => {
    if (result.kind !== "acknowledged") remember();
    outbox.add(view.id, {
      family: entry.family,
      check: entry.check.id,
      result,
      note: "",
      undone: false,
      ...extra,
    });
  };

  const findings = view.candidate.findings ?? [];
  const lastIndex = findings.findLastIndex((f) => !f.undone && f.result.kind !== "acknowledged");
  const lastId = view.finding_ids[lastIndex];
  const last = findings[lastIndex];
  // What was entered last may still be on its way.
  const unsent = waiting.findLast(
    (w) => w.candidate === view.id && !w.refused && w.finding.result.kind !== "acknowledged",
  );
  const newest = unsent?.finding ?? last;
  const lastName = view.checks.find((c) => c.family === newest?.family && c.check.id === newest.check)?.check
    .name;
  const undoLast = () => {
    if (undo.isPending) return;
    if (unsent) {
      if (!outbox.takeBack(unsent.id)) undo.mutate({ id: unsent.id, undone: true });
    } else if (lastId) {
      remember();
      undo.mutate({ id: lastId, undone: true });
    }
  };

  const navigate = useNavigate();
  const scan = `/c/${view.id}/walk-round/scan`;
  const keys = useRef({ undoLast, goTo, current, checks, order, read });
  useEffect(() => {
    keys.current = { undoLast, goTo, current, checks, order, read };
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
      } else if (e.key === "c") {
        void navigate(scan);
      } else if (/^[1-6]$/.test(e.key) && entry && Number(e.key) <= entry.check.outcomes.length) {
        // What can injure is read first: the key leads there.
        const open = (entry.check.hazards ?? []).some((h) => !k.read.has(h));
        // After the move to this check, which may still be under way.
        if (open) requestAnimationFrame(() => document.getElementById(`read-${k.current}`)?.focus());
        else document.getElementById(`outcome-${k.current}-${Number(e.key) - 1}`)?.click();
      }
    };
    addEventListener("keydown", listener);
    return () => removeEventListener("keydown", listener);
  }, [navigate, scan]);

  const phases = [...new Set(checks.map((c) => c.check.phase))];
  const next = walk.next == null ? undefined : assessment.open_checks[walk.next];
  return (
    <div className="grid gap-x-8 gap-y-4 lg:grid-cols-[1fr_21rem]">
      {walk.dangerous && (
        <p
          role="alert"
          data-testid="danger"
          className="order-first border-4 lg:col-span-2 border-caution bg-caution-bg px-3 py-2 text-lg text-caution"
        >
          <b className="sign text-xl">Do not drive it. </b>
          Something dangerous was found. The drive and what follows it are left out until that is mended and
          looked at again; local rules and licensed technicians decide.
        </p>
      )}
      <div className="min-w-0">
        <div className="flex flex-wrap items-end justify-between gap-x-4 gap-y-1">
          <div>
            <h1 className="text-3xl">Walk-round</h1>
            <p>
              <b className="reading" data-testid="done">
                {assessment.checks_done}
              </b>{" "}
              of {assessment.checks_total} checks done.
            </p>
          </div>
          <Link to={scan} className="btn ml-auto">
            Read the codes
          </Link>
          <button type="button" className="btn" disabled={!newest || undo.isPending} onClick={undoLast}>
            Take back{lastName ? `: ${lastName}` : " the last finding"}
          </button>
        </div>
        {undo.error && (
          <p role="alert" className="mt-1 text-caution">
            {undo.error.message}
          </p>
        )}
        <TimeThereIs
          key={`${view.candidate.walk?.minutes ?? "all"}|${view.candidate.walk?.no_lift ?? false}`}
          walk={walk}
          plan={wanted}
          onPlan={(p) =>
            plan.mutate({ ...p, before: p.minutes === wanted.minutes ? (wanted.before ?? []) : done })
          }
          pending={plan.isPending}
        />
        {plan.error && (
          <p role="alert" className="mt-1 text-caution">
            {plan.error.message}
          </p>
        )}
        {bring.length > 0 && (
          <p className="mt-2 leading-snug" data-testid="bring">
            <b className="sign text-[1.05rem]">To bring: </b>
            {bring.join(", ")}.
          </p>
        )}
        <Identify view={view} />
        {phases.map((phase) => (
          <section key={phase} className="mt-4" aria-label={phaseWord[phase]}>
            <h2 className="stretch">{phaseWord[phase]}</h2>
            {walk.actions
              .filter((a) => a.chosen && a.phase === phase)
              .map((action) => {
                const many = action.checks.length > 1;
                return (
                  <ul
                    key={action.key}
                    className={many ? "border-l-4 border-dotted border-ink pl-3" : ""}
                    aria-label={many ? `One look: ${nameOf(action)}` : undefined}
                  >
                    {many && (
                      <li className="sign pt-1 text-[0.98rem] leading-tight text-soft">
                        One look tells {action.checks.length} things; {action.minutes} min in all
                      </li>
                    )}
                    {action.checks.map((c) => {
                      const key = keyOf(c);
                      const index = order.indexOf(key);
                      const entry = checks[index];
                      if (!entry) return null;
                      return (
                        <Card
                          key={key}
                          entry={entry}
                          index={index}
                          view={view}
                          waiting={waiting}
                          current={current === key}
                          read={read}
                          whatMoved={<WhatMoved view={view} before={before} moved={moved} />}
                          effects={c.outcomes}
                          planning={
                            !action.done && (
                              <div className="mt-2 -ml-2 flex flex-wrap gap-x-2">
                                <button
                                  type="button"
                                  className="btn btn-quiet"
                                  disabled={plan.isPending}
                                  onClick={() =>
                                    plan.mutate({
                                      ...wanted,
                                      added: without(wanted.added, action.key),
                                      dropped: [...without(wanted.dropped, action.key), action.key],
                                    })
                                  }
                                >
                                  Leave it out
                                </button>
                                <button
                                  type="button"
                                  className="btn btn-quiet"
                                  disabled={plan.isPending}
                                  onClick={() => shift(action, -1)}
                                >
                                  Earlier
                                </button>
                                <button
                                  type="button"
                                  className="btn btn-quiet"
                                  disabled={plan.isPending}
                                  onClick={() => shift(action, 1)}
                                >
                                  Later
                                </button>
                              </div>
                            )
                          }
                          onCurrent={setCurrent}
                          onOutcome={enter}
                        />
                      );
                    })}
                  </ul>
                );
              })}
          </section>
        ))}
        <LeftOut
          actions={walk.actions.filter((a) => !a.chosen)}
          nameOf={nameOf}
          pending={plan.isPending}
          onAdd={(a) =>
            plan.mutate({
              ...wanted,
              dropped: without(wanted.dropped, a.key),
              added: [...without(wanted.added, a.key), a.key],
            })
          }
        />
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
              {next.value_of_information > next.cost
                ? `; worth about ${money(next.value_of_information)} before you decide.`
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
