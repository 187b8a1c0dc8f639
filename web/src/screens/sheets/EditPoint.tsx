// A point, edited in place: how many, when, how noticed, what it costs, and what follows from them.

import { useState } from "react";
import type { Family, SignOdds } from "../../lib/api";
import { phaseWord, systemWord } from "../../lib/words";
import { Field } from "../../parts/Field";
import { Choice, Figure } from "./Typed";
import {
  OWN,
  addSign,
  editPoint,
  isGiven,
  removePoint,
  setPrice,
  setTelling,
  withOwnSource,
  type Check,
  type Point,
  type Telling,
} from "./draft";
import { HowMany, When } from "./Claims";
import { Follows } from "./Follows";
import { PointCurve, useDrawn } from "./PointCurve";
import { Variants } from "./Variants";
import { PutBack } from "./PutBack";

const tellingWords: [Telling, string][] = [
  ["hint", "a hint"],
  ["clear", "a clear sign"],
  ["sure", "a sure sign"],
  ["is", "the thing itself"],
];

const livedWords: [string, string][] = [
  ["at_once", "it stops at once"],
  ["days", "days"],
  ["weeks", "weeks"],
  ["months", "months"],
  ["a_year", "about a year"],
  ["for_years", "years"],
];

const ofHundred = (x: number) => (x > 0 && x < 0.01 ? "fewer than 1" : String(Math.round(x * 100)));

/** What the words of a check come to in chances, outcome by outcome. */
function Odds({ signs }: { signs: SignOdds[] }) {
  return signs.map((s) => (
    <p key={s.outcome} className="w-full text-sm text-soft" data-testid="sign-odds">
      “{s.label}”{signs.length > 1 && s.outcome < signs.length ? " or worse" : ""}: on{" "}
      <span className="reading">{ofHundred(s.there)}</span> of 100 that have it now, on{" "}
      <span className="reading">{ofHundred(s.otherwise)}</span> of 100 that have nothing of the kind.
    </p>
  ));
}

function replaced<T>(list: T[], at: number, x: T | undefined): T[] {
  return list.flatMap((y, i) => (i === at ? (x === undefined ? [] : [x]) : [y]));
}

export function EditPoint({
  sheet,
  base,
  currency,
  id,
  onEdit,
  onGone,
}: {
  sheet: Family;
  /** The sheet as it is stored. */
  base: Family;
  currency: string;
  id: string;
  onEdit: (f: Family) => void;
  onGone: () => void;
}) {
  const [sign, setSign] = useState("");
  const [phase, setPhase] = useState<Check["phase"]>("drive");
  const p = (sheet.points ?? []).find((x) => x.id === id);
  const given = isGiven(sheet, `points/${id}`);
  const drawn = useDrawn(base, sheet, id, currency);
  if (!p) return null;
  const change = (f: (p: Point) => Point) => onEdit(editPoint(sheet, id, f));
  const from = (sheet.patterns ?? []).find((x) => x.gives.includes(`points/${id}`));
  const unit = sheet.clock === "km" ? "km" : "h";
  const job = (sheet.jobs ?? []).find((j) => j.id === p.job);
  const price = job?.price ?? p.price;
  const range = Array.isArray(price) ? price : price == null ? undefined : [price, price];
  const looks = (sheet.checks ?? []).filter((c) => (c.links ?? []).some((l) => l.point === id));
  const shares = p.share ?? [];
  const built = p.applies?.built;
  return (
    <section
      aria-label={`Edit ${p.name}`}
      className="mt-4 border-l-4 border-sea pl-3"
      data-testid="edit-point"
    >
      <Field label="Name">
        <input
          className="field"
          maxLength={80}
          defaultValue={p.name}
          key={p.name}
          onBlur={(e) => {
            const name = e.target.value.trim();
            if (name !== "" && name !== p.name) change((x) => ({ ...x, name }));
          }}
        />
      </Field>
      <p className="text-sm text-soft">
        {given && from
          ? `From the pattern “${from.name}”, common practice. What you change makes it this sheet’s own.`
          : "This sheet’s own."}
      </p>
      <PutBack base={base} sheet={sheet} id={id} onEdit={onEdit} />
      <PointCurve sheet={sheet} drawn={drawn} />

      <h3 className="mt-3 text-lg font-bold">How many have it</h3>
      <ul>
        {shares.map((c, i) => (
          <HowMany
            key={i}
            sheet={sheet}
            claim={c}
            onChange={(x) => change((q) => ({ ...q, share: replaced(q.share ?? [], i, x) }))}
          />
        ))}
      </ul>
      {shares.length === 0 && (
        <button
          type="button"
          className="btn mt-1"
          onClick={() =>
            onEdit(
              editPoint(withOwnSource(sheet), id, (q) => ({
                ...q,
                share: [{ source: OWN, weight: 1, says: { form: "word", word: "common" } }],
              })),
            )
          }
        >
          Not all of them
        </button>
      )}

      <h3 className="mt-3 text-lg font-bold">When it comes</h3>
      <ul>
        {p.life.map((c, i) => (
          <When
            key={i}
            sheet={sheet}
            claim={c}
            unit={unit}
            onChange={(x) => change((q) => ({ ...q, life: replaced(q.life, i, x) }))}
            onRemove={
              p.life.length > 1
                ? () => change((q) => ({ ...q, life: replaced(q.life, i, undefined) }))
                : undefined
            }
          />
        ))}
      </ul>
      <button
        type="button"
        className="btn mt-2"
        onClick={() => {
          const last = p.life.at(-1);
          if (!last) return;
          onEdit(
            editPoint(withOwnSource(sheet), id, (q) => ({
              ...q,
              life: [...q.life, { source: OWN, weight: 1, clock: last.clock ?? "usage", says: last.says }],
            })),
          );
        }}
      >
        One more voice
      </button>

      <h3 className="mt-3 text-lg font-bold">How one notices</h3>
      <ul>
        {looks.map((c) => {
          const link = (c.links ?? []).find((l) => l.point === id);
          const says = link?.signs?.[0]?.says as Telling | undefined;
          return (
            <li key={c.id} className="flex flex-wrap items-center gap-2 border-b border-rule py-2">
              <span className="grow">
                {c.name} <span className="text-soft">({(phaseWord[c.phase] ?? c.phase).toLowerCase()})</span>
              </span>
              {says ? (
                <Choice
                  label={`How telling: ${c.name}`}
                  value={says}
                  options={tellingWords}
                  onChange={(x) => onEdit(setTelling(sheet, c.id, id, x))}
                />
              ) : (
                <span className="text-sm text-soft">chances given in figures</span>
              )}
              <button
                type="button"
                className="btn-quiet min-h-11 px-2 underline"
                onClick={() => onEdit(setTelling(sheet, c.id, id, undefined))}
              >
                Tells nothing of it
              </button>
              <Odds signs={(drawn?.signs ?? []).filter((s) => s.check === c.id)} />
            </li>
          );
        })}
      </ul>
      {looks.length === 0 && <p className="text-soft">Nothing shows it yet: it comes unannounced.</p>}
      <div className="mt-2 flex flex-wrap items-end gap-2">
        <Field label="A sign">
          <input
            className="field"
            maxLength={60}
            placeholder="rattles, leaks, smells …"
            value={sign}
            onChange={(e) => setSign(e.target.value)}
          />
        </Field>
        <Choice
          label="When one meets it"
          value={phase}
          options={Object.entries(phaseWord) as [Check["phase"], string][]}
          onChange={setPhase}
        />
        <button
          type="button"
          className="btn"
          disabled={sign.trim() === ""}
          onClick={() => {
            onEdit(addSign(sheet, id, sign.trim(), phase, "clear"));
            setSign("");
          }}
        >
          Add the sign
        </button>
      </div>

      <h3 className="mt-3 text-lg font-bold">What it costs, parts and work</h3>
      {(p.routes ?? []).length > 0 ? (
        <p className="text-soft">Each way of putting it right, below, says what it costs.</p>
      ) : range ? (
        <p className="flex flex-wrap items-center gap-2">
          <Figure
            label="low price"
            value={range[0]}
            most={range[1] ?? 10_000_000}
            onChange={(x) => onEdit(setPrice(sheet, id, [x, range[1] ?? x]))}
          />
          <span>to</span>
          <Figure
            label="high price"
            value={range[1]}
            least={range[0] ?? 0}
            onChange={(x) => onEdit(setPrice(sheet, id, [range[0] ?? x, x]))}
          />
          <span>{sheet.currency}</span>
        </p>
      ) : (
        <p className="flex flex-wrap items-center gap-2">
          <span>
            {job
              ? `${job.name}: parts and ${job.hours?.likely ?? 0} h of work, at whose rates the buyer says.`
              : "Not said."}
          </span>
          <button type="button" className="btn" onClick={() => onEdit(setPrice(sheet, id, [300, 500]))}>
            Say one price
          </button>
        </p>
      )}

      <Follows sheet={sheet} point={p} change={change} />

      <h3 className="mt-3 text-lg font-bold">Beside that</h3>
      <div className="grid gap-2">
        <label className="flex flex-wrap items-center gap-2">
          Owners live with it
          <Choice
            label="Owners live with it"
            value={(p.lived_with ?? "months") as string}
            options={livedWords}
            onChange={(x) =>
              change((q) => ({
                ...q,
                repair_delay: null,
                lived_with: x as NonNullable<Point["lived_with"]>,
              }))
            }
          />
        </label>
        <label className="flex min-h-11 items-center gap-2">
          <input
            type="checkbox"
            className="h-6 w-6 accent-(--sea)"
            checked={p.ends_engine ?? false}
            onChange={(e) => change((q) => ({ ...q, ends_engine: e.target.checked }))}
          />
          It can end the engine
        </label>
        <div className="flex flex-wrap items-center gap-2">
          Only those built from
          <input
            type="date"
            className="field w-auto"
            aria-label="built from"
            value={built?.from ?? ""}
            onChange={(e) =>
              change((q) => ({
                ...q,
                applies: { ...q.applies, built: { ...built, from: e.target.value || null } },
              }))
            }
          />
          to
          <input
            type="date"
            className="field w-auto"
            aria-label="built to"
            value={built?.to ?? ""}
            onChange={(e) =>
              change((q) => ({
                ...q,
                applies: { ...q.applies, built: { ...built, to: e.target.value || null } },
              }))
            }
          />
        </div>
        <Variants
          facts={sheet.facts ?? []}
          chosen={p.applies?.facts ?? {}}
          onChange={(facts) => change((q) => ({ ...q, applies: { ...q.applies, facts } }))}
        />
        <p className="flex flex-wrap items-center gap-2">
          A used part lasts
          <Figure
            label="a used part lasts, times a new one"
            value={p.used_lasts ?? undefined}
            least={0.05}
            most={1}
            onChange={(used_lasts) => change((q) => ({ ...q, used_lasts }))}
            onEmpty={() => change((q) => ({ ...q, used_lasts: null }))}
          />
          times a new one; left empty: 0.4
        </p>
        <label className="flex flex-wrap items-center gap-2">
          Part of
          <Choice
            label="System"
            value={p.system}
            options={Object.entries(systemWord) as [Point["system"], string][]}
            onChange={(system) => change((q) => ({ ...q, system }))}
          />
        </label>
      </div>
      <button
        type="button"
        className="btn mt-3"
        onClick={() => {
          onEdit(removePoint(sheet, id));
          if (!given) onGone();
        }}
      >
        {given ? "None of this family has it" : "Take the point out"}
      </button>
    </section>
  );
}
