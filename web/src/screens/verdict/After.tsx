// After the decision: bought or passed over, and what the bill becomes.

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type Calendar, type CalendarEntry, type CandidateView, type LogEntry } from "../../lib/api";
import { Figure } from "../../parts/Figure";
import { useEdit } from "../../lib/hooks";
import { clockUnit, day, exact, money, numberOf, today, usage } from "../../lib/format";
import { Rules } from "../../parts/Said";
import { Trouble } from "../../parts/Trouble";

function Decide({ view }: { view: CandidateView }) {
  const { candidate, assessment: a } = view;
  const edit = useEdit(view);
  const [date, setDate] = useState(today());
  const [price, setPrice] = useState(a.offer.open == null ? "" : String(Math.round(a.offer.stop)));
  const [at, setAt] = useState(String(candidate.usage.value));
  const [why, setWhy] = useState("");
  const paid = numberOf(price);
  const used = numberOf(at);
  const stop = a.blockers.find((g) => g.kind === "stop");
  return (
    <div className="grid gap-x-12 gap-y-6 lg:grid-cols-2">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (paid === null || used === null) return;
          edit.mutate((c) => ({
            ...c,
            ending: { kind: "bought", date, price: paid, usage: { value: used, unit: c.usage.unit } },
          }));
        }}
      >
        <h2 className="stretch">I bought it</h2>
        {stop && (
          <p className="mt-2 border-l-8 border-caution bg-caution-bg px-3 py-2 text-caution">
            A stop is closed. Do not drive it until what closed it is settled.
          </p>
        )}
        <div className="mt-2 grid gap-3 sm:grid-cols-3">
          <label className="block">
            <span className="sign text-base font-semibold">Bought on</span>
            <input
              type="date"
              className="field"
              value={date}
              required
              onChange={(e) => setDate(e.target.value)}
            />
          </label>
          <label className="block">
            <span className="sign text-base font-semibold">Paid, {candidate.currency}</span>
            <Figure text={price} onType={setPrice} invalid={price !== "" && paid === null} />
          </label>
          <label className="block">
            <span className="sign text-base font-semibold">At, {candidate.usage.unit}</span>
            <Figure text={at} onType={setAt} invalid={used === null} />
          </label>
        </div>
        <button
          type="submit"
          className="btn btn-main mt-3"
          disabled={edit.isPending || paid === null || used === null || date === ""}
        >
          Mark as bought
        </button>
        <p className="mt-1 text-[0.95rem] text-soft">
          The bill becomes a calendar: baseline service, jobs, scheduled work, what to watch.
        </p>
      </form>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          edit.mutate((c) => ({ ...c, ending: { kind: "passed_over", date, why: why.trim() } }));
        }}
      >
        <h2 className="stretch">I passed it over</h2>
        <label className="mt-2 block">
          <span className="sign text-base font-semibold">Why</span>
          <input className="field" maxLength={400} value={why} onChange={(e) => setWhy(e.target.value)} />
        </label>
        <button type="submit" className="btn mt-3" disabled={edit.isPending || why.trim() === ""}>
          Mark as passed over
        </button>
      </form>
      <div className="lg:col-span-2">
        <Trouble error={edit.error} />
      </div>
    </div>
  );
}

const kindWord: Record<CalendarEntry["kind"], string> = {
  baseline: "Baseline service",
  at_purchase: "At purchase",
  scheduled: "Falls due",
  budget: "Likely by about then",
  watch: "",
};

const becameWord = { done: "Done", failed: "Failed", sound: "Looked at: sound" } as const;

function aboutOf(e: CalendarEntry): LogEntry["about"] {
  return e.about.kind === "point"
    ? { kind: "point", family: e.about.family, point: e.about.point }
    : { kind: "work", family: e.about.family, interval: e.about.interval };
}

/** Something done, failed or looked at, logged against the calendar. */
function LogForm({
  view,
  entry,
  onDone,
}: {
  view: CandidateView;
  entry: CalendarEntry | null;
  onDone: () => void;
}) {
  const { candidate, assessment: a } = view;
  const edit = useEdit(view);
  const [date, setDate] = useState(today());
  const [at, setAt] = useState(String(Math.round(entry?.usage ?? a.usage_now)));
  const [what, setWhat] = useState<LogEntry["what"]>(entry ? "done" : "failed");
  const [cost, setCost] = useState("");
  const [note, setNote] = useState("");
  const [name, setName] = useState("");
  const used = numberOf(at);
  const paid = cost.trim() === "" ? null : numberOf(cost);
  const bad = used === null || (cost.trim() !== "" && paid === null) || (!entry && name.trim() === "");
  return (
    <form
      className="my-2 border-2 border-ink bg-raised p-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (used === null || bad) return;
        edit.mutate(
          (c) => ({
            ...c,
            log: [
              ...(c.log ?? []),
              {
                date,
                usage: { value: used, unit: clockUnit(a.clock) },
                about: entry ? aboutOf(entry) : { kind: "other", name: name.trim() },
                what,
                ...(paid === null ? {} : { cost: paid }),
                note: note.trim(),
              },
            ],
          }),
          { onSuccess: onDone },
        );
      }}
    >
      <p className="sign text-lg font-bold">{entry ? entry.name : "Something that no sheet names"}</p>
      <div className="mt-1 grid gap-3 sm:grid-cols-4">
        {!entry && (
          <label className="block sm:col-span-4">
            <span className="sign text-base font-semibold">What it was</span>
            <input className="field" maxLength={200} value={name} onChange={(e) => setName(e.target.value)} />
          </label>
        )}
        <label className="block">
          <span className="sign text-base font-semibold">What happened</span>
          <select
            className="field"
            value={what}
            onChange={(e) => setWhat(e.target.value as LogEntry["what"])}
          >
            <option value="done">done</option>
            <option value="failed">failed</option>
            <option value="sound">looked at, sound</option>
          </select>
        </label>
        <label className="block">
          <span className="sign text-base font-semibold">On</span>
          <input
            type="date"
            className="field"
            required
            value={date}
            onChange={(e) => setDate(e.target.value)}
          />
        </label>
        <label className="block">
          <span className="sign text-base font-semibold">At, {clockUnit(a.clock)}</span>
          <Figure text={at} onType={setAt} invalid={used === null} />
        </label>
        <label className="block">
          <span className="sign text-base font-semibold">Cost, {candidate.currency}</span>
          <Figure text={cost} onType={setCost} invalid={cost.trim() !== "" && paid === null} />
        </label>
        <label className="block sm:col-span-4">
          <span className="sign text-base font-semibold">Note</span>
          <input className="field" maxLength={4000} value={note} onChange={(e) => setNote(e.target.value)} />
        </label>
      </div>
      <Trouble error={edit.error} />
      <div className="mt-3 flex gap-3">
        <button type="submit" className="btn btn-main" disabled={edit.isPending || bad}>
          Log it
        </button>
        <button type="button" className="btn" onClick={onDone}>
          Leave it
        </button>
      </div>
    </form>
  );
}

function CalendarList({
  view,
  plan,
  open,
  watch,
}: {
  view: CandidateView;
  plan: Calendar;
  open: boolean;
  /** What is watched for, or all the rest. */
  watch: boolean;
}) {
  const unit = clockUnit(view.assessment.clock);
  const [logging, setLogging] = useState<number | null>(null);
  const shown = plan.entries.filter((e) => (e.kind === "watch") === watch);
  const years = [...new Set(shown.map((e) => e.date.slice(0, 4)))];
  return (
    <>
      {shown.length === 0 && <p className="py-2">Nothing, so far as is known.</p>}
      {years.map((y) => (
        <div key={y} className="mt-3">
          <h3 className="sign border-b-2 border-ink text-xl font-bold">{y}</h3>
          <ul>
            {shown.map((e, i) =>
              e.date.startsWith(y) ? (
                <li key={i} className="border-b border-rule py-1.5" data-testid={`entry-${e.kind}`}>
                  <div className="grid grid-cols-[5.5rem_1fr_auto_auto] items-center gap-x-3">
                    <span className="reading leading-tight">
                      {day(e.date).replace(/\s\d{4}$/, "")}
                      <span className="block text-[0.88rem] font-normal text-soft">
                        {usage(e.usage, unit, 100)}
                      </span>
                    </span>
                    <span className="leading-tight">
                      <b className={`sign text-lg ${e.became ? "line-through" : ""}`}>{e.name}</b>
                      <span className="block text-[0.95rem] text-soft">
                        {!watch && kindWord[e.kind]}
                        {e.what && e.what !== e.name && `${watch ? "" : ": "}${e.what}`}
                        {e.became && `. ${becameWord[e.became]}`}
                      </span>
                    </span>
                    <span className="reading text-lg">{e.cost >= 0.5 ? money(e.cost) : ""}</span>
                    {open && !e.became ? (
                      <button
                        type="button"
                        className="btn px-2!"
                        onClick={() => setLogging(logging === i ? null : i)}
                      >
                        Log<span className="sr-only"> {e.name}</span>
                      </button>
                    ) : (
                      <span />
                    )}
                  </div>
                  {logging === i && <LogForm view={view} entry={e} onDone={() => setLogging(null)} />}
                </li>
              ) : null,
            )}
          </ul>
        </div>
      ))}
    </>
  );
}

function Log({ view, spent }: { view: CandidateView; spent: number }) {
  const { candidate, assessment: a } = view;
  const edit = useEdit(view);
  const [other, setOther] = useState(false);
  const log = candidate.log ?? [];
  const named = (l: LogEntry) => {
    const about = l.about;
    if (about.kind === "other") return about.name;
    if (about.kind === "point")
      return (
        view.road.points.find((p) => p.at.family === about.family && p.at.point === about.point)?.name ??
        about.point
      );
    return (
      a.due.find((d) => d.family === about.family && d.interval === about.interval)?.name ?? about.interval
    );
  };
  return (
    <section aria-label="Log">
      <h2 className="stretch flex justify-between">
        <span>What happened since</span>
        {spent > 0 && <span className="reading">{exact(spent)}</span>}
      </h2>
      {log.length === 0 && (
        <p className="py-2">Nothing yet. What is done or fails is logged against the calendar, with “Log”.</p>
      )}
      <ul>
        {log.map((l, i) => (
          <li
            key={i}
            className="grid grid-cols-[1fr_auto_auto] items-center gap-x-3 border-b border-rule py-1"
          >
            <span className="leading-tight">
              <b>{named(l)}</b>
              <span className="block text-[0.95rem] text-soft">
                {becameWord[l.what]}, {day(l.date)} at {usage(l.usage.value, l.usage.unit)}
                {l.note && `. ${l.note}`}
              </span>
            </span>
            <span className="reading">{l.cost == null ? "" : exact(l.cost)}</span>
            <button
              type="button"
              className="btn btn-quiet"
              disabled={edit.isPending}
              onClick={() => edit.mutate((c) => ({ ...c, log: (c.log ?? []).filter((_, k) => k !== i) }))}
            >
              Take back<span className="sr-only"> {named(l)}</span>
            </button>
          </li>
        ))}
      </ul>
      {other ? (
        <LogForm view={view} entry={null} onDone={() => setOther(false)} />
      ) : (
        <button type="button" className="btn mt-2" onClick={() => setOther(true)}>
          Something else happened
        </button>
      )}
      <Trouble error={edit.error} />
    </section>
  );
}

export function After({ view }: { view: CandidateView }) {
  const { candidate } = view;
  const edit = useEdit(view);
  const { ending } = candidate;
  const plan = useQuery({
    queryKey: ["calendar", view.id, view.state],
    queryFn: () => api.calendar(view.id),
  });
  const bought = ending?.kind === "bought";
  return (
    <div>
      <h1 className="text-3xl">{bought ? "Yours" : ending ? "Passed over" : "After the decision"}</h1>
      {ending ? (
        <p className="flex flex-wrap items-center gap-x-4 text-[1.1rem]" data-testid="ending">
          {bought
            ? `Bought on ${day(ending.date)} for ${exact(ending.price)} ${candidate.currency} at ${usage(ending.usage.value, ending.usage.unit)}.`
            : `On ${day(ending.date)}: ${ending.why}`}
          <button
            type="button"
            className="btn btn-quiet"
            disabled={edit.isPending || (candidate.log ?? []).length > 0}
            onClick={() => edit.mutate((c) => ({ ...c, ending: null }))}
          >
            Take that back
          </button>
          {(candidate.log ?? []).length > 0 && (
            <span className="text-[0.95rem] text-soft">Take back what is logged first.</span>
          )}
        </p>
      ) : (
        <div className="mt-2">
          <Decide view={view} />
        </div>
      )}
      <Trouble error={edit.error} />
      {ending?.kind !== "passed_over" && (
        <div className="mt-6 grid gap-x-12 gap-y-6 lg:grid-cols-[1.4fr_1fr]">
          <section aria-label="Calendar">
            <h2 className="stretch flex items-baseline justify-between gap-3">
              <span>{bought ? "Calendar" : "What the calendar would be"}</span>
              <a
                className="text-base font-semibold underline underline-offset-4"
                href={`/api/candidates/${view.id}/calendar.ics`}
                download
              >
                For your calendar
              </a>
            </h2>
            {plan.error && <Trouble error={plan.error} />}
            {plan.data && <CalendarList view={view} plan={plan.data} open={bought} watch={false} />}
            <p className="mt-3 text-[0.95rem] text-soft">
              Days by the pace of your plan, whichever of usage and time comes first. An estimate from stated
              assumptions; the maker’s own schedule and your workshop take precedence. What is done at
              purchase is decided in the{" "}
              <Link className="underline underline-offset-4" to={`/c/${view.id}/bill`}>
                bill
              </Link>
              .
            </p>
          </section>
          <div className="flex flex-col gap-6">
            {bought && <Log view={view} spent={plan.data?.spent ?? 0} />}
            <section aria-label="What to watch for">
              <h2 className="stretch">What to watch for, from when on</h2>
              {plan.data && <CalendarList view={view} plan={plan.data} open={bought} watch />}
              {plan.data && plan.data.held_points > 0 && (
                <p className="mt-3 text-[1.05rem]">
                  Hold <b className="reading text-lg">{money(plan.data.held)}</b> for {plan.data.held_points}{" "}
                  more that may come without a sign.
                </p>
              )}
            </section>
            {plan.data && <Rules plan={plan.data} clock={view.assessment.clock} />}
          </div>
        </div>
      )}
    </div>
  );
}
