// What a way of putting a fault right needs first, and who pays for one: edited in place.

import type { Family } from "../../lib/api";
import type { Point } from "./draft";
import { Choice, Figure, Labelled, Text } from "./Typed";

type Route = NonNullable<Point["routes"]>[number];
type Needs = NonNullable<Route["needs"]>;

/** A need that asks for nothing is none. */
function orNone(needs: Needs): Needs | null {
  const asks = needs.check != null || needs.until_year != null || Object.keys(needs.applies ?? {}).length > 0;
  return asks ? needs : null;
}

export function RouteNeeds({
  sheet,
  route,
  onChange,
}: {
  sheet: Family;
  route: Route;
  onChange: (needs: Needs | null) => void;
}) {
  const needs: Needs = route.needs ?? { worst_outcome: 0 };
  const checks = (sheet.checks ?? []).filter((c) => c.outcomes.length > 1);
  const check = checks.find((c) => c.id === needs.check);
  const set = (x: Partial<Needs>) => onChange(orNone({ ...needs, ...x }));
  const name = route.name;
  return (
    <>
      <Labelled label="Can be done">
        <Choice
          label={`${name}: needs a check first`}
          value={needs.check ?? ""}
          options={[["", "without a check"], ...checks.map((c) => [c.id, `after: ${c.name}`] as const)]}
          onChange={(id) =>
            set(id === "" ? { check: null, worst_outcome: 0 } : { check: id, worst_outcome: 0 })
          }
        />
      </Labelled>
      {check && (
        <Labelled label="which says at worst">
          <Choice
            label={`${name}: the worst outcome it bears`}
            value={String(needs.worst_outcome ?? 0)}
            options={check.outcomes.slice(0, -1).map((o, i) => [String(i), o.label] as const)}
            onChange={(i) => set({ worst_outcome: Number(i) })}
          />
        </Labelled>
      )}
      <Labelled label="Parts until, year">
        <Figure
          label={`${name}: last year of its parts`}
          value={needs.until_year ?? undefined}
          least={1950}
          most={2200}
          grouped={false}
          onChange={(year) => set({ until_year: Math.round(year) })}
          onEmpty={() => set({ until_year: null })}
        />
      </Labelled>
    </>
  );
}

type Paid = NonNullable<Point["paid_for"]>;

/** An extended warranty or goodwill. */
export function PaidFor({
  unit,
  paid,
  onChange,
}: {
  unit: string;
  paid: Paid;
  onChange: (paid: Paid) => void;
}) {
  const set = (x: Partial<Paid>) => onChange({ ...paid, ...x });
  return (
    <>
      <Text label="Who pays" most={80} value={paid.by} onChange={(by) => set({ by })} />
      <Labelled label="Until this age, years">
        <Figure
          label="paid until this age"
          value={paid.until_age ?? undefined}
          least={0.1}
          most={60}
          onChange={(until_age) => set({ until_age })}
          onEmpty={() => set({ until_age: null })}
        />
      </Labelled>
      <Labelled label={`Until, ${unit}`}>
        <Figure
          label="paid until this usage"
          value={paid.until_usage ?? undefined}
          least={1}
          onChange={(until_usage) => set({ until_usage })}
          onEmpty={() => set({ until_usage: null })}
        />
      </Labelled>
      <Labelled label="They do pay, of a hundred">
        <Figure
          label="they do pay, of a hundred"
          value={Math.round((paid.accepted ?? 1) * 100)}
          most={100}
          onChange={(x) => set({ accepted: x / 100 })}
        />
      </Labelled>
      <Text
        label="What must be shown"
        most={160}
        value={paid.proof ?? ""}
        empty
        onChange={(proof) => set({ proof })}
      />
    </>
  );
}
