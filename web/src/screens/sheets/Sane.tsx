// What typical examples of a sheet cost, against what such things usually cost.

import { type Sanity } from "../../lib/api";
import { money, usage as usageSays } from "../../lib/format";

/** Of the young, the middling and the old example. */
const MIDDLING = 1;

/** What typical examples cost against what such things usually cost; of a draft, beside what a middling one cost before. */
export function Sane({ sanity, before }: { sanity: Sanity; before?: number }) {
  const dearest = [...sanity.examples].sort((a, b) => b.a_year - a.a_year)[0];
  return (
    <section
      aria-label="What a typical example costs"
      className={before === undefined ? "mt-4 border-2 border-rule bg-raised px-4 py-3" : "mt-3"}
      data-testid="sanity"
    >
      <h2 className="stretch">
        What a typical example costs a year{before === undefined ? "" : ", with this draft"}
      </h2>
      <ul className="mt-2 grid grid-cols-3 gap-3">
        {sanity.examples.map((e, i) => (
          <li key={e.usage.value}>
            <b className="reading text-2xl">{money(e.a_year)}</b>
            <span className="block text-sm text-soft">at {usageSays(e.usage.value, e.usage.unit, 1000)}</span>
            {before !== undefined && i === MIDDLING && (
              <span className="block text-sm" data-testid="before">
                {money(before)} without the draft
              </span>
            )}
          </li>
        ))}
      </ul>
      {sanity.usual ? (
        <p className="mt-2">
          {sanity.within ? "Within the usual: " : "Outside the usual: "}
          {money(sanity.usual[0] ?? 0)} to {money(sanity.usual[1] ?? 0)} {sanity.currency} a year (common
          practice, from memory).
          {!sanity.within && " Look at how many have each point first: talk remembers failures."}
        </p>
      ) : (
        <p className="mt-2 text-soft">A part of a vehicle: no usual figure to hold it to.</p>
      )}
      {dearest && (
        <p className="mt-1 text-soft">
          Of the {money(dearest.a_year)} scheduled work is {money(dearest.scheduled)}. The dearest points:{" "}
          {dearest.most.map((m) => `${m.name} ${money(m.a_year)}`).join(", ")}.
        </p>
      )}
    </section>
  );
}
