import { useState, type ReactNode } from "react";
import type { Hazard, OutcomeEffect, VerdictKind } from "../../lib/api";
import type { WalkedView } from "../../lib/hooks";
import type { WaitingFinding } from "../../lib/outbox";
import { findingsOn, keyOf, outcomeWords, type CheckEntry, type Extra, type Result } from "./common";
import { Photos } from "./Photos";
import { Reading } from "./Reading";
import { Timer } from "./Timer";
import { money, percent, signed } from "../../lib/format";
import { hazardSays, verdictWord } from "../../lib/words";
import { alreadySays } from "../../parts/Said";

const tellingWord = {
  is: "you are looking at",
  sure: "a sure sign of",
  clear: "a clear sign of",
  hint: "a hint of",
} as const;

/** What an outcome would do to the verdict, or to what the vehicle is worth. */
function effectSays(effect: OutcomeEffect, now: VerdictKind): string {
  const chance = `${percent(effect.chance)} likely`;
  if (effect.verdict !== now) return `${chance}: ${verdictWord[effect.verdict]}`;
  return Math.abs(effect.by) < 1
    ? `${chance}: moves nothing`
    : `${chance}: worth to you ${signed(effect.by)}`;
}

/** The caution of a check; what can injure is acknowledged before it is done. */
function Caution({
  entry,
  open,
  onRead,
}: {
  entry: CheckEntry;
  /** Hazards not yet acknowledged for this candidate. */
  open: Hazard[];
  onRead: () => void;
}) {
  const { check } = entry;
  const hazards = check.hazards ?? [];
  if (!check.caution && hazards.length === 0) return null;
  const text = check.caution ?? hazards.map((h) => hazardSays[h]).join(" ");
  return (
    <div className="mb-2 border-l-8 border-caution bg-caution-bg px-3 py-1.5 text-caution">
      <p>
        <b className="sign">{open.length > 0 ? "This can injure. " : "Caution. "}</b>
        {text}
      </p>
      {open.length > 0 && (
        <button
          type="button"
          id={`read-${keyOf({ family: entry.family, check: check.id })}`}
          className="btn btn-main mt-2 mb-1 min-h-14 w-full"
          onClick={onRead}
        >
          I have read this and will keep to it
        </button>
      )}
    </div>
  );
}

/** Earlier findings on a check: nothing that was entered is lost. */
function Earlier({
  list,
}: {
  list: { key: string; words: string; note: string; undone: boolean; at: string }[];
}) {
  if (list.length === 0) return null;
  return (
    <details className="mt-2">
      <summary className="sign min-h-11 cursor-pointer py-2 text-base font-semibold">
        Earlier on this check ({list.length})
      </summary>
      <ul className="border-l-4 border-rule pl-3">
        {list.map((f) => (
          <li key={f.key} className="py-0.5">
            {f.at && <span className="reading mr-2 text-soft">{f.at}</span>}
            <span className={f.undone ? "line-through" : ""}>{f.words}</span>
            {f.undone && <span className="text-soft"> taken back</span>}
            {f.note && <span className="text-soft">: “{f.note}”</span>}
          </li>
        ))}
      </ul>
    </details>
  );
}

function when(at: string | null | undefined): string {
  const date = at ? new Date(at) : null;
  return date && !Number.isNaN(date.getTime())
    ? `${date.toISOString().slice(0, 10)} ${date.toTimeString().slice(0, 5)}`
    : "";
}

export interface CardProps {
  entry: CheckEntry;
  index: number;
  view: WalkedView;
  waiting: readonly WaitingFinding[];
  current: boolean;
  /** Hazards whose caution was read. */
  read: Set<Hazard>;
  whatMoved: ReactNode;
  /** What each outcome would do. */
  effects: OutcomeEffect[];
  /** Keys to change the plan with; none once it is done. */
  planning: ReactNode;
  onCurrent: (key: string) => void;
  onOutcome: (entry: CheckEntry, result: Result, extra: Extra) => void;
}

export function Card(props: CardProps) {
  const { entry, index, view, waiting, current, read, onCurrent, onOutcome } = props;
  const { check, family } = entry;
  const key = keyOf({ family, check: check.id });
  const all = findingsOn(view, waiting, family, check.id);
  const held = all.find((f) => !f.undone);
  const result = held?.finding.result;
  const [note, setNote] = useState(held?.finding.note ?? "");
  const waitingOutcome = result?.kind === "outcome" ? result.outcome : null;
  const outcome = held?.waiting ? waitingOutcome : entry.outcome;
  const done = outcome == null ? undefined : check.outcomes[outcome];
  const worth = view.assessment.open_checks.find((n) => n.family === family && n.check === check.id);
  const open = (check.hazards ?? []).filter((h) => !read.has(h));
  const enter = (result: Result, extra: Extra = {}) =>
    onOutcome(entry, result, { note: note.trim(), ...extra });
  const measured = result?.kind === "measured" && held ? outcomeWords(entry, held.finding) : "";
  const status = done
    ? measured
      ? `${measured.trim()}, ${done.label}`
      : done.label
    : held
      ? outcomeWords(entry, held.finding)
      : "";
  const linked = (point: string) =>
    view.road.points.find((p) => p.at.family === family && p.at.point === point);
  const told = (check.links ?? []).flatMap((l) =>
    (l.signs ?? []).map(
      (s) =>
        `${check.outcomes[s.outcome]?.label ?? ""}: ${tellingWord[s.says]} ${(linked(l.point)?.name ?? l.point).toLowerCase()}.`,
    ),
  );
  const already = alreadySays((check.links ?? []).flatMap((l) => linked(l.point) ?? []));
  const pictures = view.attachments.filter((a) => a.family === family && a.check === check.id).length;
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
          <span className="sign max-w-44 text-right text-[1.05rem] leading-tight sm:max-w-72">
            {status ? (
              <b>
                {held?.waiting ? "waiting: " : ""}
                {status}
              </b>
            ) : (
              <span className="text-soft">{check.minutes} min</span>
            )}
            {pictures > 0 && (
              <span className="block text-[0.95rem] font-normal text-soft">
                {pictures} photo{pictures > 1 ? "s" : ""}
              </span>
            )}
          </span>
        </button>
      </h3>
      {current && (
        <div className="pb-4">
          <p className="max-w-prose text-[1.08rem]">{check.how}</p>
          {(check.tools ?? []).length > 0 && (
            <p className="sign text-base">With: {(check.tools ?? []).join(", ")}</p>
          )}
          {check.tells && <p className="mb-2 max-w-prose text-soft">Tells: {check.tells}</p>}
          {told.length > 0 && (
            <ul className="mb-2 max-w-prose text-soft">
              {told.map((t) => (
                <li key={t}>{t}</li>
              ))}
            </ul>
          )}
          {already && <p className="mb-2 max-w-prose">{already}.</p>}
          <Caution entry={entry} open={open} onRead={() => enter({ kind: "acknowledged" }, { note: "" })} />
          {worth && worth.value_of_information >= 1 && (
            <p className="sign mt-1 text-base">
              Worth about <b className="reading">{money(worth.value_of_information)}</b> to know before you
              decide.
            </p>
          )}
          {check.fee != null && (
            <p className="sign text-base">Usually costs {money(check.fee)}; a workshop’s job.</p>
          )}
          {check.timer != null && <Timer seconds={check.timer} name={check.name} />}
          {check.measure && (
            <Reading
              view={view}
              entry={entry}
              held={held?.finding}
              blocked={open.length > 0}
              onOutcome={(_, r, extra) => enter(r, extra)}
            />
          )}
          <div
            className="mt-3 grid gap-2 sm:grid-cols-2 xl:grid-cols-3"
            role="group"
            aria-label={`Outcome of ${check.name}`}
          >
            {check.outcomes.map((o, i) => (
              <button
                key={o.label}
                id={`outcome-${key}-${i}`}
                type="button"
                aria-pressed={done === o}
                disabled={open.length > 0}
                className="btn min-h-14 justify-start! text-left leading-tight aria-pressed:border-sea aria-pressed:bg-sea aria-pressed:text-on-sea"
                onClick={() => enter({ kind: "outcome", outcome: i })}
              >
                <span className="reading text-xl opacity-80">{i + 1}</span>
                <span>
                  {o.label}
                  {props.effects[i] && (
                    <span className="block text-[0.95rem] font-normal">
                      {effectSays(props.effects[i], view.assessment.verdict.kind)}
                    </span>
                  )}
                </span>
              </button>
            ))}
          </div>
          {done?.blocker && (
            <p className="mt-2 border-l-8 border-caution bg-caution-bg px-3 py-1.5 text-caution" role="alert">
              <b className="sign text-lg">
                {done.blocker.danger
                  ? "Dangerous: do not drive it. "
                  : done.blocker.kind === "stop"
                    ? "Stop. "
                    : "Prove first. "}
              </b>
              {done.blocker.say.replace(/^do not drive it\. /i, done.blocker.danger ? "" : "$&")}
            </p>
          )}
          <div className="mt-3 lg:hidden">{props.whatMoved}</div>
          <div className="mt-2 grid grid-cols-3 gap-2">
            {(
              [
                ["could_not", "Could not check"],
                ["ask_seller", "Ask the seller"],
                ["skipped", "Not done"],
              ] as const
            ).map(([kind, label]) => (
              <button
                key={kind}
                type="button"
                aria-pressed={result?.kind === kind}
                className="btn px-1! leading-tight aria-pressed:border-sea aria-pressed:bg-sea aria-pressed:text-on-sea"
                onClick={() => enter({ kind })}
              >
                {label}
              </button>
            ))}
          </div>
          <label className="mt-2 block">
            <span className="sign text-base font-semibold">Note</span>
            <textarea
              id={`note-${key}`}
              className="field"
              rows={2}
              maxLength={4000}
              value={note}
              placeholder="typed or spoken; kept with the next tap"
              onChange={(e) => setNote(e.target.value)}
            />
          </label>
          <Photos view={view} family={family} check={check.id} name={check.name} />
          <Earlier
            list={all
              .filter((f) => f !== held)
              .map((f, i) => ({
                key: f.id ?? String(i),
                words: outcomeWords(entry, f.finding),
                note: f.finding.note ?? "",
                undone: f.undone,
                at: when(f.finding.at),
              }))}
          />
          {props.planning}
        </div>
      )}
    </li>
  );
}
