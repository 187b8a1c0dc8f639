// On which variants something is found: for each fact of the sheet the answers that count, edited in place.

import type { Family } from "../../lib/api";

type Facts = Record<string, string[]>;

export function Variants({
  facts,
  chosen,
  onChange,
}: {
  facts: NonNullable<Family["facts"]>;
  /** By fact the answers that count; a fact that is not named does not matter. */
  chosen: Facts;
  onChange: (facts: Facts) => void;
}) {
  // All of a fact's answers, or none, is the same as not asking for it.
  const set = (fact: string, all: number, values: string[]) => {
    const rest = Object.fromEntries(Object.entries(chosen).filter(([id]) => id !== fact));
    onChange(values.length === 0 || values.length === all ? rest : { ...rest, [fact]: values });
  };
  return facts.map((f) => {
    const counts = chosen[f.id] ?? [];
    return (
      <fieldset key={f.id} className="flex flex-wrap items-center gap-x-4" data-testid="variants">
        <legend className="float-left mr-3 flex min-h-11 items-center">{f.label}, only with</legend>
        {f.values.map((v) => (
          <label key={v.id} className="flex min-h-11 items-center gap-2">
            <input
              type="checkbox"
              className="h-6 w-6 accent-(--sea)"
              checked={counts.includes(v.id)}
              onChange={(e) =>
                set(
                  f.id,
                  f.values.length,
                  e.target.checked ? [...counts, v.id] : counts.filter((x) => x !== v.id),
                )
              }
            />
            {v.label}
          </label>
        ))}
        {counts.length === 0 && <span className="text-sm text-soft">none ticked: any of them</span>}
      </fieldset>
    );
  });
}
