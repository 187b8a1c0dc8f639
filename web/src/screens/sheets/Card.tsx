// A sheet as a field card: two pages in black and white to take under a car.

import { Link, useParams } from "react-router";
import type { Family } from "../../lib/api";
import { day, money, usage as usageSays } from "../../lib/format";
import { phaseWord } from "../../lib/words";
import { Page } from "../../parts/Shell";
import { Trouble } from "../../parts/Trouble";
import type { Point } from "./draft";
import { useSheet } from "./useSheet";

const LIVES = 2;

function when(p: Point, clock: Family["clock"]): string {
  const of = (x: number, age: boolean) =>
    age ? `${Math.round(x)} y` : clock === "km" ? `${Math.round(x / 1000)}k` : `${Math.round(x)} h`;
  return p.life
    .slice(0, LIVES)
    .map((c) => {
      const age = c.clock === "age";
      const s = c.says;
      switch (s.form) {
        case "between":
          return `${of(s.from, age)} to ${of(s.to, age)}`;
        case "from_about":
          return `from ${of(s.at, age)}`;
        case "at_least":
          return `at least ${of(s.at, age)}`;
        case "about":
          return `about ${of(s.at, age)}`;
        case "rarely_beyond":
          return `rarely past ${of(s.at, age)}`;
        default:
          return "";
      }
    })
    .filter(Boolean)
    .join("; ");
}

function many(p: Point): string {
  const says = p.share?.[0]?.says;
  if (!says) return "all";
  if (says.form === "one_in") return `1 in ${says.n}`;
  if (says.form === "share") return `${Math.round(says.share * 100)} %`;
  return says.word === "occasional" ? "now and then" : says.word;
}

export function FieldCard() {
  const { id = "" } = useParams();
  const { sheet, sanity } = useSheet(id);
  const f = sheet.data;
  // The sheet's own knowledge first, then what is most likely.
  const given = new Set((f?.patterns ?? []).flatMap((p) => p.gives));
  const points = [...(f?.points ?? [])].sort(
    (a, b) => Number(given.has(`points/${a.id}`)) - Number(given.has(`points/${b.id}`)),
  );
  const shown = points.slice(0, 34);
  const names = new Map(points.map((p) => [p.id, p.name]));
  const phases = [...new Set((f?.checks ?? []).map((c) => c.phase))].sort(
    (a, b) => Object.keys(phaseWord).indexOf(a) - Object.keys(phaseWord).indexOf(b),
  );
  return (
    <Page title="Field card" lead="Two pages, black and white, to take along.">
      <p className="no-print flex flex-wrap items-center gap-3">
        <button type="button" className="btn btn-main" disabled={!f} onClick={() => print()}>
          Print, or save as PDF
        </button>
        <Link to={`/sheets/${id}`} className="underline underline-offset-4">
          Back to the sheet
        </Link>
      </p>
      <Trouble error={sheet.error} />
      {f && (
        <div className="field-card mt-4" data-testid="field-card" data-ready={sanity.isFetched}>
          <h2 className="text-3xl">{f.name}</h2>
          <p>
            {f.built?.from && `Built ${day(f.built.from)}`}
            {f.built?.to && ` to ${day(f.built.to)}`}. Version {f.version};{" "}
            {(f.sources ?? []).map((s) => s.name).join(", ")}. {f.summary}
          </p>
          {sanity.data && (
            <p>
              A typical example costs{" "}
              {sanity.data.examples
                .map((e) => `${money(e.a_year)} a year at ${usageSays(e.usage.value, e.usage.unit, 1000)}`)
                .join(", ")}{" "}
              ({sanity.data.currency}).
            </p>
          )}
          {(f.advice ?? []).length > 0 && (
            <ul className="list-disc pl-5">
              {(f.advice ?? []).slice(0, 6).map((a) => (
                <li key={a.id}>{a.says}</li>
              ))}
            </ul>
          )}
          <div className="overflow-x-auto">
            <table className="mt-2 w-full border-collapse">
              <thead>
                <tr className="border-b-2 border-ink text-left">
                  <th scope="col">What fails</th>
                  <th scope="col">how many</th>
                  <th scope="col">when</th>
                  <th scope="col">shows</th>
                  <th scope="col">
                    <span className="sr-only">seen</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {shown.map((p) => (
                  <tr key={p.id} className="border-b border-rule align-top">
                    <td className="pr-2 font-semibold">{p.name}</td>
                    <td className="pr-2 whitespace-nowrap">{many(p)}</td>
                    <td className="pr-2">{when(p, f.clock)}</td>
                    <td className="pr-2">{p.shows}</td>
                    <td>
                      <span className="inline-block h-3.5 w-3.5 border-2 border-ink" aria-hidden="true" />
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {points.length > shown.length && (
            <p>{points.length - shown.length} more, of common practice, are on the screen.</p>
          )}
          <div className="field-card-looks">
            <h3 className="mt-3 text-xl">The looks, in order</h3>
            {phases.map((phase) => (
              <p key={phase} className="mt-1">
                <b>{phaseWord[phase] ?? phase}:</b>{" "}
                {(f.checks ?? [])
                  .filter((c) => c.phase === phase)
                  .map((c) => {
                    const of = (c.links ?? []).slice(0, 2).flatMap((l) => names.get(l.point) ?? []);
                    return of.length > 0 ? `${c.name} (${of.join(", ")})` : c.name;
                  })
                  .join("; ")}
                .
              </p>
            ))}
          </div>
          <p className="mt-3">
            Estimates from stated assumptions, not a warranty. Never under a vehicle on a jack alone; cold
            engine before the cap; the owner’s consent before a drive. Local rules and licensed technicians
            take precedence.
          </p>
        </div>
      )}
    </Page>
  );
}
