import { useState } from "react";
import type { Anomaly, Odometer, UsageClock } from "../../lib/api";
import { Figure } from "../../parts/Figure";
import { Choice, Labelled, PastDate, useDesk, useSetting, usePaperMutations } from "./common";
import { TableImport } from "./TableImport";
import { clockUnit, day, money, numberOf, onClock, span, usage } from "../../lib/format";
import { anomalyWord } from "../../lib/words";
import { Trouble } from "../../parts/Trouble";
import { ClockChart } from "./ClockChart";

function explains(a: Anomaly, odometer: Odometer, clock: UsageClock): string {
  const unit = clockUnit(clock);
  const usual = odometer.rate ? usage(odometer.rate.median, unit, clock === "km" ? 100 : 10) : "";
  const rate = usage(a.rate, unit, clock === "km" ? 100 : 10);
  const back = odometer.readings[a.to];
  switch (a.kind) {
    case "fall":
      return "The clock was set back or exchanged. What it lost was driven all the same, and between the two readings it ran on unseen, at most at twice its usual rate.";
    case "misread":
      return "One figure does not fit and the others go on as if it were not there: most likely a slip of the pen. It is set aside.";
    case "wrong_unit":
      return `The figure fits when it is taken for ${back?.shown.unit === "mi" ? "kilometres" : "miles"}: somebody wrote down the wrong unit. It is read so.`;
    case "wrap":
      return "The clock has five digits and went round past 99 999: the next figure comes on top of 100 000.";
    case "fast":
      return `${rate} a year against its usual ${usual}. A hard year, or one figure is wrong.`;
    case "slow":
      return `${rate} a year against its usual ${usual}. It stood, or the clock did.`;
    case "gap":
      return `${span(a.years)} without a reading. Nothing says that it was not set back meanwhile, and nothing says that it was.`;
  }
}

/** What to believe of the usage, where the readings leave room or explain it. */
function Believe() {
  const { view } = useDesk();
  const { odometer, clock, usage_range } = view.assessment;
  const chosen = view.candidate.odometer ?? null;
  const unit = clockUnit(clock);
  const setting = useSetting();
  const options: [string, string, number | null][] = [
    ["least", `The least they allow, ${usage(odometer.least, unit)}`, null],
    ["most", `The most they allow, ${usage(odometer.most, unit)}`, odometer.most],
    ["shown", `What the clock shows, ${usage(odometer.shown, unit)}`, odometer.shown],
    ["own", "A figure of my own", null],
  ];
  const start = () => {
    if (!chosen) return "least";
    const value = onClock(chosen.usage);
    if (Math.abs(value - odometer.shown) < 1) return "shown";
    if (Math.abs(value - odometer.most) < 1) return "most";
    return Math.abs(value - odometer.least) < 1 ? "least" : "own";
  };
  const [pick, setPick] = useState(start);
  const [own, setOwn] = useState(chosen ? String(Math.round(chosen.usage.value)) : "");
  const [why, setWhy] = useState(chosen?.why ?? "");
  const [proved, setProved] = useState(chosen?.proved ?? false);
  const figure = pick === "own" ? numberOf(own) : (options.find((o) => o[0] === pick)?.[2] ?? odometer.least);
  const [low, high] = usage_range ?? [];
  return (
    <form
      className="mt-4 border-2 border-ink bg-raised p-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (figure === null) return;
        const value = Math.round(figure);
        setting.mutate({
          change: (c) => ({ ...c, odometer: { usage: { value, unit }, why: why.trim(), proved } }),
          says: `Believed: ${usage(value, unit)}`,
        });
      }}
    >
      <h3 className="sign text-xl font-bold">What do you believe?</h3>
      <p>
        Judged at <b className="reading">{usage(odometer.usage, unit)}</b>
        {odometer.high > odometer.low + 1 && (
          <>
            , which may be anything from {usage(odometer.low, unit, 100)} to {usage(odometer.high, unit, 100)}
          </>
        )}
        .
        {low && high && (
          <>
            {" "}
            At the least it is worth <b className="reading">{money(low.limit)}</b> to you, at the most{" "}
            <b className="reading">{money(high.limit)}</b>.
          </>
        )}
      </p>
      <fieldset className="mt-2">
        <legend className="sr-only">Usage to judge at</legend>
        {options.map(([id, name]) => (
          <label key={id} className="flex min-h-11 items-center gap-3">
            <input
              type="radio"
              name="believe"
              className="h-6 w-6 accent-(--sea)"
              checked={pick === id}
              onChange={() => setPick(id)}
            />
            {name}
          </label>
        ))}
      </fieldset>
      {pick === "own" && (
        <Labelled label={`Usage today, ${unit}`}>
          <Figure text={own} onType={setOwn} />
        </Labelled>
      )}
      <div className="mt-2">
        <Labelled label="Why">
          <input className="field" maxLength={400} value={why} onChange={(e) => setWhy(e.target.value)} />
        </Labelled>
      </div>
      <label className="mt-1 flex min-h-11 items-center gap-3">
        <input
          type="checkbox"
          className="h-6 w-6 accent-(--sea)"
          checked={proved}
          onChange={(e) => setProved(e.target.checked)}
        />
        A paper proves it, and I have seen it
      </label>
      <div className="mt-2 flex flex-wrap gap-3">
        <button type="submit" className="btn btn-main" disabled={figure === null || setting.isPending}>
          Judge at {figure === null ? "that" : usage(figure, unit)}
        </button>
        {chosen && (
          <button
            type="button"
            className="btn"
            disabled={setting.isPending}
            onClick={() =>
              setting.mutate({ change: (c) => ({ ...c, odometer: null }), says: "Choice let go" })
            }
          >
            Let my choice go
          </button>
        )}
      </div>
      <Trouble error={setting.error} />
    </form>
  );
}

function AddReading() {
  const { view } = useDesk();
  const { add } = usePaperMutations();
  const blank = { date: "", value: "", source: "", unit: view.candidate.usage.unit };
  const [draft, setDraft] = useState(blank);
  const value = numberOf(draft.value);
  return (
    <form
      className="mt-4"
      onSubmit={(e) => {
        e.preventDefault();
        if (value === null || draft.date === "") return;
        add.mutate(
          {
            papers: [
              {
                kind: "reading",
                paper: { date: draft.date, usage: { value, unit: draft.unit }, source: draft.source.trim() },
              },
            ],
            says: `Reading of ${day(draft.date)}`,
          },
          { onSuccess: () => setDraft({ ...blank, unit: draft.unit }) },
        );
      }}
    >
      <h3 className="sign text-lg font-bold">Add a reading</h3>
      <div className="grid items-end gap-3 sm:grid-cols-[11rem_1fr_1fr_auto]">
        <PastDate label="Date" value={draft.date} onChange={(date) => setDraft({ ...draft, date })} />
        <Labelled label="The clock showed">
          <span className="grid grid-cols-[1fr_auto] gap-2">
            <Figure
              text={draft.value}
              onType={(typed) => setDraft({ ...draft, value: typed })}
              invalid={draft.value !== "" && value === null}
            />
            {view.assessment.clock === "km" && (
              <select
                className="field w-auto!"
                aria-label="Unit of the reading"
                value={draft.unit}
                onChange={(e) => setDraft({ ...draft, unit: e.target.value === "mi" ? "mi" : "km" })}
              >
                <option value="km">km</option>
                <option value="mi">miles</option>
              </select>
            )}
          </span>
        </Labelled>
        <Labelled label="Where from">
          <input
            className="field"
            maxLength={400}
            placeholder="test, invoice, advert"
            value={draft.source}
            onChange={(e) => setDraft({ ...draft, source: e.target.value })}
          />
        </Labelled>
        <button
          type="submit"
          className="btn btn-main"
          disabled={value === null || draft.date === "" || add.isPending}
        >
          Add
        </button>
      </div>
      {draft.value !== "" && value === null && (
        <p className="font-semibold text-caution">Write it as 120500.</p>
      )}
      <Trouble error={add.error} />
    </form>
  );
}

export function Clock() {
  const { view } = useDesk();
  const { undo } = usePaperMutations();
  const { odometer, clock } = view.assessment;
  const { candidate } = view;
  const unit = clockUnit(clock);
  const [all, setAll] = useState(false);
  const [kind, setKind] = useState<"all" | "readings">("all");
  const list = odometer.readings.filter((r) => kind === "all" || r.origin.kind !== "entry");
  const shown = all ? list : list.slice(-12);
  const usual = odometer.rate;
  const marked = odometer.anomalies.filter((a) => !a.note).length;
  return (
    <section aria-label="The clock">
      <h2 className="text-2xl">What the clock showed</h2>
      <p>
        {odometer.anomalies.length === 0
          ? odometer.readings.length > 1
            ? `${odometer.readings.length} readings, and they agree.`
            : "No reading but the one in the advert. Test certificates and invoices carry more: each one narrows what was done when."
          : `${odometer.readings.length} readings; ${marked === 0 ? "nothing hides usage" : `${marked} thing${marked === 1 ? "" : "s"} to look at`}.`}
        {usual && ` Usually ${usage(usual.median, unit, clock === "km" ? 100 : 10)} a year.`}
      </p>
      <ClockChart odometer={odometer} built={candidate.built} clock={clock} />
      {odometer.anomalies.length > 0 && (
        <ol className="mt-3" data-testid="anomalies">
          {odometer.anomalies.map((a, i) => {
            const from = odometer.readings[a.from];
            const to = odometer.readings[a.to];
            return (
              <li key={i} className="grid grid-cols-[2.4rem_1fr] gap-2 border-b border-rule py-2">
                {a.note ? (
                  <span className="sign text-center text-soft">note</span>
                ) : (
                  <span className="reading h-6 bg-ink text-center leading-6 text-paper">{i + 1}</span>
                )}
                <div className="leading-snug">
                  <h3 className={`sign ${a.note ? "text-[1.05rem]" : "text-[1.15rem] font-bold"}`}>
                    {anomalyWord(a.kind)}
                  </h3>
                  {from && to && (
                    <p className="sign text-[1.05rem]">
                      {day(from.date)}: <b className="reading">{usage(from.shown.value, from.shown.unit)}</b>
                      {" → "}
                      {day(to.date)}: <b className="reading">{usage(to.shown.value, to.shown.unit)}</b>
                    </p>
                  )}
                  <p>{explains(a, odometer, clock)}</p>
                  {a.most > a.least + 1 && (
                    <p className="font-semibold">
                      Today that means {usage(a.least, unit, 100)} to {usage(a.most, unit, 100)}.
                    </p>
                  )}
                </div>
              </li>
            );
          })}
        </ol>
      )}
      {(marked > 0 || odometer.chosen) && (
        <Believe
          key={`${odometer.shown}|${odometer.anomalies.length}|${JSON.stringify(candidate.odometer ?? null)}`}
        />
      )}
      <AddReading />
      <div className="mt-4 flex flex-wrap items-end justify-between gap-2">
        <h3 className="sign text-lg font-bold">Every reading</h3>
        <Choice
          label="Which readings"
          hideLabel
          value={kind}
          options={[
            ["all", "With the ledger’s"],
            ["readings", "Without"],
          ]}
          onChange={setKind}
        />
      </div>
      {!all && list.length > shown.length && (
        <button type="button" className="btn btn-quiet" onClick={() => setAll(true)}>
          Show the {list.length - shown.length} before
        </button>
      )}
      <ul>
        {shown.map((r, i) => {
          const origin = r.origin;
          const name = origin.kind === "reading" ? view.paper_ids.readings[origin.index] : undefined;
          return (
            <li key={i} className="flex min-h-11 flex-wrap items-center gap-x-4 border-b border-rule">
              <span className="w-28">{day(r.date)}</span>
              <b className="reading w-28 text-right text-lg">{usage(r.shown.value, r.shown.unit)}</b>
              <span className="min-w-0 flex-1 truncate">
                {origin.kind === "now"
                  ? "today, as stated"
                  : r.source || (origin.kind === "entry" ? "ledger" : "")}
                {(r.usage === null || r.usage === undefined) && <b> set aside</b>}
              </span>
              {name && (
                <button
                  type="button"
                  className="btn btn-quiet"
                  disabled={undo.isPending}
                  aria-label={`Take back the reading of ${day(r.date)}`}
                  onClick={() =>
                    undo.mutate({
                      papers: [name],
                      undone: true,
                      says: `Reading of ${day(r.date)} taken back`,
                    })
                  }
                >
                  Take back
                </button>
              )}
            </li>
          );
        })}
      </ul>
      <Trouble error={undo.error} />
      <TableImport table="readings" heading="Paste many readings, or choose a file" />
    </section>
  );
}
