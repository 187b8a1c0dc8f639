// What more power than the maker gave it breaks, edited in place.

import type { Editing } from "./rest";
import { Choice, Figure, Labelled, Text } from "./Typed";

export function EditAlteration({ sheet, item, change }: Editing<"alterations">) {
  const points = sheet.points ?? [];
  const name = (id: string) => points.find((p) => p.id === id)?.name ?? id;
  const named = Object.entries(item.shortens);
  const free = points.filter((p) => !(p.id in item.shortens));
  return (
    <>
      <Text label="What is altered" most={80} value={item.name} onChange={(x) => change({ name: x })} />
      <div className="flex flex-wrap items-end gap-3">
        <Labelled label="Power from its maker, kW">
          <Figure
            label="Power from its maker, kW"
            value={item.standard_kw}
            least={1}
            most={item.limit_kw - 1}
            onChange={(standard_kw) => change({ standard_kw })}
          />
        </Labelled>
        <Labelled label="Standard parts bear, kW">
          <Figure
            label="Standard parts bear, kW"
            value={item.limit_kw}
            least={item.standard_kw + 1}
            most={5000}
            onChange={(limit_kw) => change({ limit_kw })}
          />
        </Labelled>
      </div>
      <p>At that limit these come sooner, each at so many times its usual life:</p>
      {named.map(([id, lasts]) => (
        <div key={id} className="flex flex-wrap items-center gap-3">
          <span>{name(id)}</span>
          <Figure
            label={`${name(id)}: times its usual life`}
            value={lasts}
            least={0.1}
            most={0.99}
            onChange={(x) => change({ shortens: { ...item.shortens, [id]: x } })}
          />
          <span className="text-soft">times its usual life</span>
          {named.length > 1 && (
            <button
              type="button"
              className="btn"
              onClick={() => change({ shortens: Object.fromEntries(named.filter(([k]) => k !== id)) })}
            >
              Take out
            </button>
          )}
        </div>
      ))}
      {free.length > 0 && (
        <Labelled label="One more">
          <Choice
            label="One more point that comes sooner"
            value=""
            options={[["", "choose a point"] as const, ...free.map((p) => [p.id, p.name] as const)]}
            onChange={(id) => id && change({ shortens: { ...item.shortens, [id]: 0.7 } })}
          />
        </Labelled>
      )}
      <Text
        long
        label="What must go with it, or where it is not allowed"
        value={item.caution}
        empty
        onChange={(caution) => change({ caution })}
      />
    </>
  );
}
