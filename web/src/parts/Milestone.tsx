import { NavLink } from "react-router";
import type { Assessment, Summary, VerdictKind } from "../lib/api";
import { exact, money } from "../lib/format";
import { blockerSays, neededSays, verdictWord } from "../lib/words";

/** The decision in a few words with its number. */
export function verdictLine(kind: VerdictKind, limit: number): string {
  return kind === "negotiate" ? `Negotiate to ${money(limit)}` : verdictWord[kind];
}

/** The line under it: what stands in the way, or what to do next. */
function below(a: Assessment): string {
  const blocker = a.blockers[0];
  if (blocker) return `${blocker.kind === "stop" ? "Stop" : "Prove first"}: ${blockerSays(blocker).title}`;
  const first = a.verdict.needed[0];
  if (first) return `Decides it: ${neededSays(first, a).what}`;
  const check = a.walk.next == null ? undefined : a.open_checks[a.walk.next];
  if (!check)
    return a.checks_done === a.checks_total ? "Every check is done" : "No check that is left can be done now";
  return check.value_of_information > check.cost
    ? `Next: ${check.name}, worth about ${money(check.value_of_information)}`
    : "No check left is worth its time";
}

/** The verdict so far, cut like a milestone: it stays in view wherever the person is. */
export function Milestone({ assessment, to }: { assessment: Assessment; to?: string }) {
  const { value, verdict } = assessment;
  const body = (
    <>
      <span className="grid grid-cols-[1fr_auto] items-end gap-x-4 text-left">
        <span>
          <span className="sign block text-sm leading-none text-on-tarmac-soft">Verdict so far</span>
          <span className="sign block text-[1.7rem] leading-tight font-bold" data-testid="verdict-word">
            {verdictLine(verdict.kind, value.limit)}
          </span>
        </span>
        <span className="sign grid grid-cols-[auto_auto] gap-x-2 text-base leading-tight">
          <span className="text-on-tarmac-soft">asks</span>
          <b className="reading text-right">{exact(value.asking)}</b>
          <span className="text-on-tarmac-soft">worth to you</span>
          <b className="reading text-right" data-testid="limit">
            {money(value.limit)}
          </b>
        </span>
      </span>
      <span className="sign block truncate text-left text-[0.95rem] leading-snug text-on-tarmac-soft">
        {below(assessment)}
      </span>
    </>
  );
  const shape =
    "block rounded-t-[1.7rem] rounded-b-sm border-2 border-b-0 border-strong bg-tarmac px-6 pt-2 pb-1.5 text-on-tarmac";
  return to ? (
    <NavLink to={to} className={shape}>
      {body}
    </NavLink>
  ) : (
    <div className={shape} aria-live="polite">
      {body}
    </div>
  );
}

/** The last known verdict while a new one is computed, and marked as that. */
export function LastKnown({ summary: s }: { summary: Summary }) {
  return (
    <div className="block rounded-t-[1.7rem] rounded-b-sm border-2 border-b-0 border-dashed border-strong bg-tarmac px-6 pt-2 pb-1.5 text-on-tarmac">
      <span className="grid grid-cols-[1fr_auto] items-end gap-x-4 text-left">
        <span>
          <span className="sign block text-sm leading-none text-on-tarmac-soft">Last known verdict</span>
          <span className="sign block text-[1.7rem] leading-tight font-bold">
            {verdictLine(s.verdict, s.limit)}
          </span>
        </span>
        <span className="sign grid grid-cols-[auto_auto] gap-x-2 text-base leading-tight">
          <span className="text-on-tarmac-soft">asks</span>
          <b className="reading text-right">{exact(s.asking)}</b>
          <span className="text-on-tarmac-soft">worth to you</span>
          <b className="reading text-right">{money(s.limit)}</b>
        </span>
      </span>
      <span className="sign block truncate text-left text-[0.95rem] leading-snug text-on-tarmac-soft">
        A new one is being computed
      </span>
    </div>
  );
}
