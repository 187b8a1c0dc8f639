// A point, edited in place: how many, when, how noticed, what it costs, and what follows from them.

import { useState } from "react";
import type { Family } from "../../lib/api";
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
  type LifeClaim,
  type Point,
  type ShareClaim,
  type Telling,
} from "./draft";
import { Follows } from "./Follows";
import { PointCurve } from "./PointCurve";
import { PutBack } from "./PutBack";

const shareWords = [
  ["rare", "rare"],
  ["occasional", "now and then"],
  ["common", "common"],
  ["most", "most of them"],
  ["all", "all of them"],
] as const;

const formWords: Record<string, string> = {
  between: "between",
  from_about: "from about",
  about: "about",
  at_least: "at least",
  rarely_beyond: "rarely past",
};

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

/** Who says it, and where. */
function From({ sheet, claim }: { sheet: Family; claim: LifeClaim | ShareClaim }) {
  const name = (sheet.sources ?? []).find((s) => s.id === claim.source)?.name ?? claim.source;
  const where = [claim.stands?.title, claim.stands?.time, claim.stands?.page].filter(Boolean).join(", ");
  return (
    <span className="text-sm text-soft">
      {name}
      {where && `, ${where}`}
      {claim.stands?.line && `: “${claim.stands.line}”`}
    </span>
  );
}

type Says = LifeClaim["says"];

/** A claim under another form keeps its figures as far as they go. */
function inForm(says: Says, form: string): Says {
  const low = says.form === "between" ? says.from : "at" in says ? says.at : undefined;
  const high = says.form === "between" ? says.to : low === undefined ? undefined : low * 1.5;
  if (low === undefined || high === undefined) return says;
  return form === "between"
    ? { form: "between", from: low, to: high }
    : ({ form, at: form === "rarely_beyond" ? high : low } as Says);
}

function When({
  sheet,
  claim,
  unit,
  onChange,
  onRemove,
}: {
  sheet: Family;
  claim: LifeClaim;
  unit: string;
  onChange: (c: LifeClaim) => void;
  onRemove: (() => void) | undefined;
}) {
  const { says } = claim;
  const inWords = says.form in formWords;
  const set = (says: Says) => onChange({ ...claim, says });
  return (
    <li className="flex flex-wrap items-center gap-2 border-b border-rule py-2">
      {inWords ? (
        <>
          <Choice
            label="Form of the claim"
            value={says.form as string}
            options={Object.entries(formWords)}
            onChange={(form) => set(inForm(says, form))}
          />
          {says.form === "between" ? (
            <>
              <Figure
                label="from"
                value={says.from}
                most={says.to}
                onChange={(from) => set({ ...says, from })}
              />
              <span>and</span>
              <Figure label="to" value={says.to} least={says.from} onChange={(to) => set({ ...says, to })} />
            </>
          ) : (
            "at" in says && (
              <Figure label="figure" value={says.at} onChange={(at) => set({ ...says, at } as Says)} />
            )
          )}
          <Choice
            label="Counted in"
            value={claim.clock ?? "usage"}
            options={[
              ["usage", unit],
              ["age", "years"],
            ]}
            onChange={(clock) => onChange({ ...claim, clock })}
          />
        </>
      ) : (
        <span>a curve given in figures</span>
      )}
      <From sheet={sheet} claim={claim} />
      {onRemove && (
        <button type="button" className="btn-quiet min-h-11 px-2 underline" onClick={onRemove}>
          Take it out
        </button>
      )}
    </li>
  );
}

function HowMany({
  claim,
  sheet,
  onChange,
}: {
  claim: ShareClaim;
  sheet: Family;
  onChange: (c: ShareClaim) => void;
}) {
  const { says } = claim;
  const kind = says.form === "word" ? says.word : says.form;
  const choose = (x: string) => {
    if (x === "one_in") onChange({ ...claim, says: { form: "one_in", n: 8 } });
    else if (x === "share") onChange({ ...claim, says: { form: "share", share: 0.1 } });
    else onChange({ ...claim, says: { form: "word", word: x as (typeof shareWords)[number][0] } });
  };
  return (
    <li className="flex flex-wrap items-center gap-2 border-b border-rule py-2">
      <Choice
        label="How many have it"
        value={kind as string}
        options={[...shareWords, ["one_in", "one in …"], ["share", "per cent"]]}
        onChange={choose}
      />
      {says.form === "one_in" && (
        <Figure
          label="one in"
          value={says.n}
          least={1}
          onChange={(n) => onChange({ ...claim, says: { ...says, n } })}
        />
      )}
      {says.form === "share" && (
        <>
          <Figure
            label="per cent"
            value={says.share * 100}
            most={100}
            onChange={(x) => onChange({ ...claim, says: { ...says, share: x / 100 } })}
          />
          <span>%</span>
        </>
      )}
      <From sheet={sheet} claim={claim} />
    </li>
  );
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
      <PointCurve base={base} sheet={sheet} id={id} currency={currency} />

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
      {range ? (
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
