// Which to look for: every variant and build stretch of a family on one axis of years, what it costs, what changes at
// each boundary, and what to insist on.

import { useState } from "react";
import { Link } from "react-router";
import { api, type Narrowed } from "../../lib/api";
import { money, percent, usage as usageSays } from "../../lib/format";
import { useAnswer, useFamilies, useQuiet } from "../../lib/hooks";
import { Field } from "../../parts/Field";
import { useSettings } from "../../parts/FirstStart";
import { Page } from "../../parts/Shell";
import { Trouble } from "../../parts/Trouble";
import { currencyOf } from "./currency";

type Stretch = Narrowed["stretches"][number];

const adviceWord: Record<string, string> = {
  prefer: "Prefer",
  avoid: "Avoid",
  only_if: "Only with proof",
  praise: "Praised",
};

const month = (d: string) => {
  const [y, m] = d.split("-");
  return `${m}/${y}`;
};

function Road({
  s,
  first,
  last,
  least,
  most,
}: {
  s: Stretch;
  first: number;
  last: number;
  least: number;
  most: number;
}) {
  const at = (d: string) => ((Date.parse(d) - first) / Math.max(1, last - first)) * 100;
  const [x, end] = [at(s.from), at(s.to)];
  // The dearer to run, the darker.
  const dark = most > least ? Math.min(5, 1 + Math.round(((s.a_year - least) / (most - least)) * 4)) : 1;
  return (
    <span className="relative block h-5 w-full border-b-2 border-ink" aria-hidden="true">
      <span
        className="absolute inset-y-0 border-2 border-ink"
        style={{ left: `${x}%`, width: `${Math.max(1.5, end - x)}%`, background: `var(--ramp-${dark})` }}
      />
    </span>
  );
}

export function Which() {
  const settings = useSettings();
  const families = useFamilies();
  const [family, setFamily] = useState("");
  const [second, setSecond] = useState("");
  const [rival, setRival] = useState("");
  const [years, setYears] = useState(3);
  const [pace, setPace] = useState<number>();
  const [usage, setUsage] = useState<number>();
  const [budget, setBudget] = useState("");
  const currency = currencyOf(settings.data?.currency, families.data);
  const choice = (families.data ?? []).filter((f) => !f.kind.startsWith("base_"));
  const head = choice.find((f) => f.id === family) ?? choice.find((f) => f.kind === "engine") ?? choice[0];
  const hours = head?.clock === "hours";
  const unit = hours ? "h" : "km";
  const aYear = pace ?? (hours ? 250 : head?.kind === "motorcycle" ? 6000 : 15_000);
  const wanted = {
    years,
    usage_a_year: aYear,
    ...(usage !== undefined && { usage }),
    ...(Number(budget) > 0 && { budget: Number(budget) }),
  };
  const asked = useQuiet(
    { families: [head?.id, second].filter((x): x is string => Boolean(x)), rival, currency, wanted },
    60,
  );
  const narrow = (ids: string[]) =>
    api.narrow({ families: ids, currency: asked.currency, wanted: asked.wanted });
  const answer = useAnswer("narrow", JSON.stringify(asked), async () => {
    const [own, ...rest] = asked.families;
    if (!own) throw new Error("No sheet is here yet.");
    return Promise.all([narrow(asked.families), ...(asked.rival ? [narrow([asked.rival, ...rest])] : [])]);
  });
  const n = answer.data?.[0];
  const found = answer.data ?? [];
  const nameOf = (id: string) => families.data?.find((f) => f.id === id)?.name ?? id;
  const mixture = found.reduce((sum, x) => sum + x.mixture, 0) / Math.max(1, found.length);
  // Of two families the mixture is of both alike.
  const all = found
    .flatMap((x) => x.stretches)
    .map((s) => (found.length > 1 ? { ...s, saves: mixture - s.a_year } : s))
    .sort((a, b) => a.a_year - b.a_year);
  const further = found.reduce((sum, x) => sum + x.further, 0);
  const insist = found.flatMap((x) => x.insist);
  const first = Math.min(...all.map((s) => Date.parse(s.from)));
  const last = Math.max(...all.map((s) => Date.parse(s.to)));
  const costs = all.map((s) => s.a_year);
  const [least, most] = [Math.min(...costs), Math.max(...costs)];
  return (
    <Page
      title="Which to look for"
      lead="Before any one vehicle: every variant and build of a family, what a typical one costs you, and what changes between them."
    >
      <p>
        <Link to="/" className="underline underline-offset-4">
          Yard
        </Link>{" "}
        ·{" "}
        <Link to="/adverts" className="underline underline-offset-4">
          Adverts
        </Link>
      </p>
      <Trouble error={families.error ?? answer.error ?? null} />
      <div className="mt-3 grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
        <Field label="Family">
          <select
            className="field"
            value={head?.id ?? ""}
            onChange={(e) => {
              setFamily(e.target.value);
              setSecond("");
              setRival("");
              setPace(undefined);
              setUsage(undefined);
            }}
          >
            {choice.map((f) => (
              <option key={f.id} value={f.id}>
                {f.name}
              </option>
            ))}
          </select>
        </Field>
        <Field label="In or with" hint="A body for an engine, a gearbox.">
          <select className="field" value={second} onChange={(e) => setSecond(e.target.value)}>
            <option value="">by itself</option>
            {choice
              .filter((f) => f.id !== head?.id && f.clock === head?.clock)
              .map((f) => (
                <option key={f.id} value={f.id}>
                  {f.name}
                </option>
              ))}
          </select>
        </Field>
        <Field label="Or instead" hint="Another that would do: both stand on one axis.">
          <select className="field" value={rival} onChange={(e) => setRival(e.target.value)}>
            <option value="">nothing else</option>
            {choice
              .filter((f) => f.id !== head?.id && f.id !== second && f.clock === head?.clock)
              .map((f) => (
                <option key={f.id} value={f.id}>
                  {f.name}
                </option>
              ))}
          </select>
        </Field>
        <Field label={`Budget, ${currency}`}>
          <input
            className="field"
            inputMode="numeric"
            value={budget}
            onChange={(e) => setBudget(e.target.value.replace(/[^\d]/g, ""))}
          />
        </Field>
        <Field label={`Keep it for ${years} ${years === 1 ? "year" : "years"}`}>
          <input
            type="range"
            className="block h-11 w-full accent-(--sea)"
            min={1}
            max={10}
            value={years}
            onChange={(e) => setYears(Number(e.target.value))}
          />
        </Field>
        <Field label={`${usageSays(aYear, unit, 1)} a year`}>
          <input
            type="range"
            className="block h-11 w-full accent-(--sea)"
            min={hours ? 50 : 2000}
            max={hours ? 1500 : 50_000}
            step={hours ? 25 : 1000}
            value={aYear}
            onChange={(e) => setPace(Number(e.target.value))}
          />
        </Field>
        <Field
          label={
            usage === undefined
              ? "Run when bought: what its age makes usual"
              : `Run when bought: ${usageSays(usage, unit, 1)}`
          }
        >
          <input
            type="range"
            className="block h-11 w-full accent-(--sea)"
            min={hours ? 200 : 5000}
            max={hours ? 8000 : 300_000}
            step={hours ? 100 : 5000}
            value={usage ?? (hours ? 2500 : 110_000)}
            onChange={(e) => setUsage(Number(e.target.value))}
          />
        </Field>
      </div>
      {n && (
        <>
          <p className="mt-4" data-testid="mixture">
            The mixture on the market costs <b className="reading text-xl">{money(mixture)}</b> {n.currency} a
            year. {all.length} {all.length === 1 ? "build" : "builds"}, the cheapest to run first
            {further > 0 && `; ${further} more were not judged`}.
          </p>
          <ol className="mt-3">
            {all.map((s) => (
              <li
                key={`${s.family}-${s.variant}-${s.from}`}
                className="border-b-2 border-rule py-3"
                data-testid="stretch"
              >
                <div className="grid items-center gap-x-5 gap-y-1 sm:grid-cols-[15rem_1fr_13rem]">
                  <b className="sign text-lg leading-tight">
                    {found.length > 1 && <span className="block">{nameOf(s.family)}</span>}
                    {month(s.from)} to {month(s.to)}
                    {s.variant && <span className="block text-base font-normal">{s.variant}</span>}
                  </b>
                  <Road s={s} first={first} last={last} least={least} most={most} />
                  <span>
                    <b className="reading text-xl">{money(s.a_year)}</b> a year,{" "}
                    {s.saves >= 0 ? `${money(s.saves)} less` : `${money(-s.saves)} more`}
                  </span>
                </div>
                <p className="text-[0.95rem]">
                  A typical one has run {usageSays(s.usage, unit, hours ? 100 : 1000)}; {money(s.per)} for{" "}
                  {hours ? "100 h" : "1 000 km"}; one in ten beyond {money(s.p90_a_year)} a year; chance of a
                  blow {percent(s.blow)}.
                </p>
                {s.changes.length > 0 && (
                  <p className="text-[0.95rem]">
                    From here:{" "}
                    {s.changes
                      .map(
                        (c) =>
                          `${c.name} ${percent(c.before)} → ${percent(c.after)}, ${money(Math.abs(c.worth))} ${c.worth >= 0 ? "saved" : "more"} over your plan`,
                      )
                      .join("; ")}
                    .
                  </p>
                )}
                {s.advice.map((x) => (
                  <p key={x.says} className="text-[0.95rem]">
                    <b>{adviceWord[x.kind]}:</b> {x.says}
                    {x.agrees === true && " (the figures agree)"}
                    {x.agrees === false && " (the figures do not show it)"}
                  </p>
                ))}
              </li>
            ))}
          </ol>
          {insist.length > 0 && (
            <section className="mt-5" data-testid="insist">
              <h2 className="stretch">What to insist on</h2>
              <ul className="list-disc pl-5">
                {insist.map((i) => (
                  <li key={`${i.point}-${i.says}`}>
                    {i.says} ({money(i.worth)} over your plan)
                  </li>
                ))}
              </ul>
            </section>
          )}
          <p className="mt-4 text-sm text-soft">
            Estimates of typical examples from stated assumptions; any one vehicle may be otherwise. The
            darker a stretch, the dearer to run.
          </p>
        </>
      )}
    </Page>
  );
}
