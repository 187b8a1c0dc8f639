// The calendar of a family's builds: what changed when, and a day to look at.

import type { Family } from "../../lib/api";
import { day as dayWords } from "../../lib/format";
import { stretch, turns } from "./builds";

const DAY_MS = 86_400_000;
const number = (day: string) => Math.round(Date.parse(day) / DAY_MS);
const dayOf = (n: number) => new Date(n * DAY_MS).toISOString().slice(0, 10);

export function Builds({
  family,
  day,
  onDay,
}: {
  family: Family;
  day: string | null;
  onDay: (day: string | null) => void;
}) {
  const all = turns(family);
  const reach = stretch(family);
  if (!reach) return null;
  const [first, last] = reach.map(number) as [number, number];
  const at = (d: string) => `${((number(d) - first) / Math.max(1, last - first)) * 100}%`;
  const years = [reach[0], reach[1]].map((d) => Number(d.slice(0, 4)));
  const now = day ?? reach[0];
  const says = all.filter((t) => t.day <= now).at(-1);
  return (
    <section aria-label="Builds" className="mb-4 border-y-2 border-ink py-2" data-testid="builds">
      <div className="flex flex-wrap items-center justify-between gap-x-4">
        <h2 className="sign text-lg font-bold">
          {day ? `As built on ${dayWords(day)}` : "Every build, with the parts first fitted"}
        </h2>
        {day && (
          <button type="button" className="btn px-3" onClick={() => onDay(null)}>
            Every build
          </button>
        )}
      </div>
      <div className="relative mx-2 mt-1 h-5" aria-hidden="true">
        <span className="absolute inset-x-0 top-1/2 h-0.5 bg-ink" />
        {all.map((t) => (
          <span
            key={t.day}
            className="absolute top-0 h-5 w-1 -translate-x-1/2 bg-ink"
            style={{ left: at(t.day) }}
          />
        ))}
      </div>
      <input
        type="range"
        className="block h-11 w-full accent-(--sea)"
        aria-label="Day of build"
        aria-valuetext={dayWords(now)}
        min={first}
        max={last}
        step={1}
        value={number(now)}
        onChange={(e) => onDay(dayOf(Number(e.target.value)))}
      />
      <div className="reading flex justify-between text-sm" aria-hidden="true">
        <span>{years[0]}</span>
        <span>{years[1]}</span>
      </div>
      <ul className="mt-1 flex flex-wrap gap-2">
        {all.map((t) => (
          <li key={t.day}>
            <button
              type="button"
              aria-pressed={day !== null && says?.day === t.day}
              className="btn min-h-11 px-2! text-left leading-tight aria-pressed:border-sea aria-pressed:bg-sea aria-pressed:text-on-sea"
              onClick={() => onDay(t.day)}
            >
              <span>
                <b>{dayWords(t.day)}</b>
                <span className="block text-sm font-normal">
                  {t.says[0]}
                  {t.says.length > 1 && `, and ${t.says.length - 1} more`}
                </span>
              </span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
