// A claim of a point, edited in place: how many have it, and when it comes.

import type { Family } from "../../lib/api";
import { Choice, Figure } from "./Typed";
import type { LifeClaim, ShareClaim } from "./draft";

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

export function When({
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

export function HowMany({
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
