// Adverts by the hundred: pasted, read, judged beside each other, drawn and ranked; one tap takes one to the yard.

import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type AdvertList, type Ranked } from "../../lib/api";
import { exact, money, percent, usage as usageSays } from "../../lib/format";
import { Field } from "../../parts/Field";
import { useSettings } from "../../parts/FirstStart";
import { FileButton } from "../../parts/FileButton";
import { Page } from "../../parts/Shell";
import { Trouble } from "../../parts/Trouble";
import { useFamilies } from "../../lib/hooks";
import { pasteWhole } from "../../lib/paste";
import { AdvertField, type Box } from "./Field";
import { currencyOf } from "./currency";
import { message, ranked, ratesOf, runIn, unitOf, type Order, type Weights } from "./list";
import { useListing } from "./useListing";

const KEY = "ticksage.adverts";
const ROWS = 60;
const NONE: Ranked[] = [];

type Kept = {
  text: string;
  years: number;
  km: number;
  budget: string;
  /** What one unit of another currency comes to, as typed. */
  rates: Record<string, string>;
  taken: Record<string, string>;
};

function kept(): Kept {
  const none: Kept = { text: "", years: 3, km: 15_000, budget: "", rates: {}, taken: {} };
  try {
    return { ...none, ...(JSON.parse(localStorage.getItem(KEY) ?? "{}") as Partial<Kept>) };
  } catch {
    return none;
  }
}

/** What the list remembers of an advert: its words and its run, not its line. */
const nameOf = (r: Ranked) => `${r.title}|${Math.round(r.usage.value / 500)}|${r.built}`;

const ageOf = (r: Ranked) => (Date.now() - Date.parse(r.built)) / (365.25 * 24 * 3600 * 1000);

function Row({
  r,
  at,
  list,
  taken,
  chosen,
  onTaken,
}: {
  r: Ranked;
  at: number;
  list: AdvertList;
  taken: string | undefined;
  chosen: boolean;
  onTaken: (id: string) => void;
}) {
  const [copied, setCopied] = useState(false);
  const take = useMutation({
    mutationFn: () => api.takeAdvert({ list, line: r.line }),
    onSuccess: (made) => onTaken(made.candidate),
  });
  return (
    <li
      className={`border-b-2 border-rule py-3 ${chosen ? "border-l-8 border-l-caution pl-3" : ""}`}
      id={`advert-${r.line}`}
      data-testid="advert"
    >
      <div className="grid items-baseline gap-x-4 gap-y-1 sm:grid-cols-[2rem_1fr_9rem_11rem]">
        <span className="reading text-soft">{at}</span>
        <b className="sign text-lg leading-tight">{r.title || `Line ${r.line}`}</b>
        <span className="reading">
          <span className="text-soft sm:hidden">asks </span>
          {exact(r.asking)}
          {r.was != null && <span className="text-soft"> was {exact(r.was)}</span>}
        </span>
        <span>
          worth <b className="reading">{money(r.worth)}</b>,{" "}
          <b className="reading">
            {r.surplus > 0 ? "+" : "−"}
            {money(Math.abs(r.surplus))}
          </b>
        </span>
      </div>
      <p className="text-[0.95rem] sm:pl-12">
        {usageSays(r.usage.value, r.usage.unit, 100)}, built {r.built.slice(0, 4)}; {r.sheets.join(" and ")}.{" "}
        {r.going === r.asking
          ? "Too few like it here to say what it goes for"
          : `Goes for ${money(r.going)} here`}
        ; {money(r.bill_a_year)} a year to expect, one in ten beyond {money(r.p90)} within the plan; chance of
        a blow {percent(r.blow)}. {r.note && <b>{r.note.charAt(0).toUpperCase() + r.note.slice(1)}.</b>}
      </p>
      {r.says.length > 0 && <p className="text-[0.95rem] sm:pl-12">{r.says.join(" · ")}</p>}
      {r.ask.length > 0 && (
        <p className="text-[0.95rem] text-soft sm:pl-12">Not known, ask first: {r.ask.join(" · ")}</p>
      )}
      <div className="mt-1 flex flex-wrap gap-2 sm:pl-12">
        {taken ? (
          <Link className="btn" to={`/c/${taken}/road`}>
            In the yard: open it
          </Link>
        ) : (
          <button type="button" className="btn" disabled={take.isPending} onClick={() => take.mutate()}>
            Take it to the yard
          </button>
        )}
        <button
          type="button"
          className="btn-quiet min-h-11 px-2 underline"
          onClick={() => void navigator.clipboard.writeText(message(r)).then(() => setCopied(true))}
        >
          {copied ? "Copied" : "Copy the questions"}
        </button>
      </div>
      <Trouble error={take.error} />
    </li>
  );
}

export function Adverts() {
  const settings = useSettings();
  const families = useFamilies();
  const currency = currencyOf(settings.data?.currency, families.data);
  // A list judged in another currency than the yard's cannot be taken there.
  const unknown = settings.isPending || families.isPending;
  const [state, setState] = useState(kept);
  const set = (change: Partial<Kept>) =>
    setState((s) => {
      const next = { ...s, ...change };
      try {
        localStorage.setItem(KEY, JSON.stringify(next));
      } catch {
        // A list too long for the device is kept while the page is open.
      }
      return next;
    });
  const { listing, error, busy, start, leave } = useListing();
  const [order, setOrder] = useState<Order>("surplus");
  const [weights, setWeights] = useState<Weights>({ surplus: 1, a_year: 0.5, p90: 0.5 });
  const [byAge, setByAge] = useState(false);
  const [box, setBox] = useState<Box>();
  const [chosen, setChosen] = useState<number>();
  const [rows, setRows] = useState(ROWS);
  const [copied, setCopied] = useState(false);
  const budget = Number(state.budget.replace(/[^\d.]/g, "")) || undefined;
  const list: AdvertList = {
    text: state.text,
    currency,
    rates: ratesOf(state.rates),
    years: state.years,
    km_a_year: state.km,
  };
  const foreign = [...new Set([...(listing?.read.foreign ?? []), ...Object.keys(state.rates)])].sort();
  const judged = listing?.judged ?? NONE;
  const unit = unitOf(judged);
  const xOf = byAge ? ageOf : runIn(unit);
  const inBox = (r: Ranked) =>
    !box || (xOf(r) >= box.x[0] && xOf(r) <= box.x[1] && r.asking >= box.y[0] && r.asking <= box.y[1]);
  const shown = ranked(judged, order, weights).filter(
    (r) => inBox(r) && (budget === undefined || r.asking <= budget),
  );
  const again = listing?.read.lines.filter((l) => l.same_as != null).length ?? 0;
  const missing = listing?.read.lines.filter((l) => l.missing.length > 0) ?? [];
  const apart = listing?.read.apart ?? [];
  return (
    <Page
      title="Adverts"
      lead="Paste a list as copied from anywhere, an advert a line. Each is judged beside the others by what is known of its kind."
    >
      <p>
        <Link to="/" className="underline underline-offset-4">
          Yard
        </Link>{" "}
        ·{" "}
        <Link to="/which" className="underline underline-offset-4">
          Which to look for
        </Link>
      </p>
      <div className="mt-3 grid gap-x-8 gap-y-3 lg:grid-cols-[1fr_20rem]">
        <Field
          label="The list"
          hint="“2016, 121 400 km, 6 800, nine seats, diesel van, one owner”. Any order; km or miles; a table under its heading, or JSON lines. The same one twice is known."
        >
          <textarea
            className="field"
            rows={6}
            value={state.text}
            onPaste={pasteWhole((text) => set({ text }))}
            onChange={(e) => set({ text: e.target.value })}
          />
        </Field>
        <div className="grid content-start gap-2">
          <Field label={`Keep it for ${state.years} ${state.years === 1 ? "year" : "years"}`}>
            <input
              type="range"
              className="block h-11 w-full accent-(--sea)"
              min={1}
              max={10}
              value={state.years}
              onChange={(e) => set({ years: Number(e.target.value) })}
            />
          </Field>
          <Field label={`${state.km.toLocaleString("en").replace(/,/g, " ")} km a year`}>
            <input
              type="range"
              className="block h-11 w-full accent-(--sea)"
              min={3000}
              max={60_000}
              step={1000}
              value={state.km}
              onChange={(e) => set({ km: Number(e.target.value) })}
            />
          </Field>
          <Field label={`Budget, ${currency}`} hint="Dearer ones are left out of the list.">
            <input
              className="field"
              inputMode="numeric"
              value={state.budget}
              onChange={(e) => set({ budget: e.target.value })}
            />
          </Field>
          {foreign.map((code) => (
            <Field
              key={code}
              label={`One ${code} in ${currency}`}
              hint="As you reckon it; nothing is looked up."
            >
              <input
                className="field"
                inputMode="decimal"
                value={state.rates[code] ?? ""}
                onChange={(e) => {
                  const rest = Object.fromEntries(Object.entries(state.rates).filter(([c]) => c !== code));
                  set({ rates: e.target.value === "" ? rest : { ...rest, [code]: e.target.value } });
                }}
              />
            </Field>
          ))}
        </div>
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <button
          type="button"
          className="btn btn-main"
          disabled={state.text.trim() === "" || busy || unknown}
          onClick={() => {
            setBox(undefined);
            setRows(ROWS);
            void start(list);
          }}
        >
          Judge the list
        </button>
        {busy && (
          <button type="button" className="btn" onClick={leave}>
            Cancel
          </button>
        )}
        <FileButton
          label="List of adverts"
          accept=".txt,.csv,text/plain,text/csv"
          onChoose={([file]) => void file?.text().then((text) => set({ text }))}
        >
          From a file
        </FileButton>
        {listing && (
          <span role="status" data-testid="progress">
            {judged.length} of {listing.read.open.length} judged
            {listing.left && !listing.done ? ", cancelled" : ""}
            {listing.done &&
              judged.length < listing.read.open.length &&
              `; ${listing.read.open.length - judged.length} contradict what is known of their kind and were left out`}
            {again > 0 && `; ${again} ${again === 1 ? "repeats another" : "repeat another"}`}
            {apart.length > 0 &&
              `; ${apart.length} set apart, sold as broken or without a test passed: ${apart
                .slice(0, 3)
                .map((l) => `line ${l.line} “${l.said}”`)
                .join("; ")}${apart.length > 3 ? " …" : ""}`}
            {missing.length > 0 &&
              `; ${missing.length} not judged: ${missing
                .slice(0, 3)
                .map((l) => `line ${l.line} lacks ${l.missing.join(" and ")}`)
                .join("; ")}${missing.length > 3 ? " …" : ""}`}
          </span>
        )}
      </div>
      <Trouble error={error ?? null} />
      {judged.length > 0 && (
        <>
          <div className="mt-5 flex flex-wrap items-end gap-4">
            <Field label="Ranked by">
              <select className="field" value={order} onChange={(e) => setOrder(e.target.value as Order)}>
                <option value="surplus">what it is worth against what is asked</option>
                <option value="a_year">cost a year</option>
                <option value="p90">what one in ten passes</option>
                <option value="blow">chance of a blow</option>
                <option value="weights">my own weights</option>
              </select>
            </Field>
            <Field label="Drawn on">
              <select
                className="field"
                value={byAge ? "age" : "usage"}
                onChange={(e) => {
                  setByAge(e.target.value === "age");
                  setBox(undefined);
                }}
              >
                <option value="usage">usage</option>
                <option value="age">age</option>
              </select>
            </Field>
            {order === "weights" &&
              (
                [
                  ["surplus", "Bargain"],
                  ["a_year", "Cheap to run"],
                  ["p90", "No bad luck"],
                ] as const
              ).map(([k, label]) => (
                <Field key={k} label={label}>
                  <input
                    type="range"
                    className="block h-11 w-full accent-(--sea)"
                    min={0}
                    max={2}
                    step={0.1}
                    value={weights[k]}
                    onChange={(e) => setWeights((w) => ({ ...w, [k]: Number(e.target.value) }))}
                  />
                </Field>
              ))}
            {box && (
              <button type="button" className="btn" onClick={() => setBox(undefined)}>
                Show all again
              </button>
            )}
          </div>
          <AdvertField
            all={judged}
            xOf={xOf}
            unit={byAge ? "years" : unit}
            budget={budget}
            box={box}
            onBox={setBox}
            chosen={chosen}
            onChoose={(n) => {
              setChosen(n);
              document.getElementById(`advert-${n}`)?.scrollIntoView({ block: "center" });
            }}
          />
          <div className="mt-3 flex flex-wrap items-center gap-3">
            <b data-testid="shown">
              {shown.length} of {judged.length} shown
            </b>
            <button
              type="button"
              className="btn"
              disabled={shown.length === 0}
              onClick={() =>
                void navigator.clipboard
                  .writeText(shown.slice(0, 5).map(message).join("\n\n"))
                  .then(() => setCopied(true))
              }
            >
              {copied ? "Copied" : `Copy a message for the first ${Math.min(5, shown.length)}`}
            </button>
          </div>
          <ol>
            {shown.slice(0, rows).map((r, i) => (
              <Row
                key={r.line}
                r={r}
                at={i + 1}
                list={listing?.list ?? list}
                chosen={chosen === r.line}
                taken={state.taken[nameOf(r)]}
                onTaken={(id) => set({ taken: { ...state.taken, [nameOf(r)]: id } })}
              />
            ))}
          </ol>
          {shown.length > rows && (
            <button type="button" className="btn mt-3" onClick={() => setRows((n) => n + ROWS)}>
              Show {Math.min(ROWS, shown.length - rows)} more
            </button>
          )}
          <p className="mt-4 text-sm text-soft">
            Estimates from adverts alone, on stated assumptions: nobody has looked at any of them yet. What a
            thing goes for is what is asked for its like in this list.
          </p>
        </>
      )}
    </Page>
  );
}
