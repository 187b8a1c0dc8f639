// What follows from a point: ways of putting it right, what it grows into, takes along, wears, and may have done.

import type { Family } from "../../lib/api";
import type { Point } from "./draft";
import { added, kept, newRoute, newStage, spanOf, without, withoutStage } from "./follows";
import { PaidFor, RouteNeeds } from "./RouteNeeds";
import { Choice, Figure, Labelled, Text } from "./Typed";

type Change = (make: (p: Point) => Point) => void;

/** A list of things, each with what takes it out, under a button for one more. */
function Rows<T>({
  title,
  none,
  more,
  items,
  onAdd,
  onRemove,
  children,
}: {
  title: string;
  none: string;
  more: string;
  items: readonly T[];
  onAdd: (() => void) | undefined;
  onRemove: (at: number) => void;
  children: (item: T, at: number) => React.ReactNode;
}) {
  return (
    <section aria-label={title}>
      <h4 className="mt-2 font-bold">{title}</h4>
      {items.length === 0 && <p className="text-soft">{none}</p>}
      <ul>
        {items.map((item, i) => (
          <li key={i} className="flex flex-wrap items-end gap-x-3 gap-y-1 border-b border-rule py-2">
            {children(item, i)}
            <button
              type="button"
              className="btn-quiet min-h-11 px-2 underline"
              aria-label={`Take out: ${title}, ${i + 1}`}
              onClick={() => onRemove(i)}
            >
              Take out
            </button>
          </li>
        ))}
      </ul>
      {onAdd && (
        <button type="button" className="btn mt-1" onClick={onAdd}>
          {more}
        </button>
      )}
    </section>
  );
}

/** What it costs: the job of the sheet that does it, or two figures. */
function Cost({
  sheet,
  item,
  onChange,
}: {
  sheet: Family;
  item: {
    job?: string;
    price?: Point["stages"] extends (infer S)[] | undefined
      ? S extends { price?: infer P }
        ? P
        : never
      : never;
  };
  onChange: (price: [number, number]) => void;
}) {
  const job = (sheet.jobs ?? []).find((j) => j.id === item.job);
  const [low, high] = spanOf(item.price);
  if (job && low === undefined) return <span className="grow text-soft">The job “{job.name}”</span>;
  return (
    <>
      <Labelled label={`Costs from, ${sheet.currency}`}>
        <Figure label="costs from" value={low} most={high} onChange={(x) => onChange([x, high ?? x])} />
      </Labelled>
      <Labelled label="to">
        <Figure label="costs to" value={high} least={low ?? 0} onChange={(x) => onChange([low ?? x, x])} />
      </Labelled>
    </>
  );
}

/** A chance, in hundredths. */
function Hundredths({
  label,
  value,
  onChange,
}: {
  label: string;
  value: number;
  onChange: (x: number) => void;
}) {
  return (
    <Labelled label={`${label}, of a hundred`}>
      <Figure label={label} value={Math.round(value * 100)} most={100} onChange={(x) => onChange(x / 100)} />
    </Labelled>
  );
}

export function Follows({ sheet, point, change }: { sheet: Family; point: Point; change: Change }) {
  const others = (sheet.points ?? []).filter((p) => p.id !== point.id);
  const which = others.map((p) => [p.id, p.name] as const);
  const jobs = (sheet.jobs ?? []).map((j) => [j.id, j.name] as const);
  const unit = sheet.clock === "hours" ? "hours" : "km";
  const free = (taken: (string | null | undefined)[]) => others.find((p) => !taken.includes(p.id))?.id;
  const routes = point.routes ?? [];
  const stages = point.stages ?? [];
  const along = point.takes_along ?? [];
  const wears = point.wears ?? [];
  const next = free(along.map((t) => t.point));
  const worn = free(wears.map((w) => w.point));
  const branch = (key: "escalation" | "already_done", label: string, none: string, more: string) => (
    <Rows
      title={label}
      none={none}
      more={more}
      items={point[key] ? [point[key]] : []}
      onAdd={
        point[key] || !jobs[0]
          ? undefined
          : () => change((p) => ({ ...p, [key]: { job: jobs[0]?.[0] ?? "", chance: 0.3 } }))
      }
      onRemove={() => change((p) => ({ ...p, [key]: null }))}
    >
      {(x) => (
        <>
          <Choice
            label={`${label}: the job`}
            value={x.job}
            options={jobs}
            onChange={(job) => change((p) => ({ ...p, [key]: { ...x, job } }))}
          />
          <Hundredths
            label={`${label}: how often`}
            value={x.chance}
            onChange={(chance) => change((p) => ({ ...p, [key]: { ...x, chance } }))}
          />
        </>
      )}
    </Rows>
  );
  return (
    <details className="mt-3" data-testid="follows">
      <summary className="min-h-11 cursor-pointer py-2 text-lg font-bold">
        Ways, stages, and what it takes along
      </summary>
      <Rows
        title="Ways of putting it right"
        none="One way: the job above."
        more="One more way"
        items={routes}
        onAdd={routes.length < 8 ? () => change((p) => ({ ...p, ...newRoute(sheet, p) })) : undefined}
        onRemove={(i) => change((p) => ({ ...p, ...without(p, i) }))}
      >
        {(r, i) => {
          const set = (x: Partial<typeof r>) =>
            change((p) => ({ ...p, routes: kept(p.routes, i, { ...r, ...x }) }));
          return (
            <>
              <Text label="What is done" most={80} value={r.name} onChange={(name) => set({ name })} />
              <Cost sheet={sheet} item={r} onChange={(price) => set({ price })} />
              <Hundredths
                label="It is enough"
                value={r.suffices ?? 1}
                onChange={(suffices) => set({ suffices })}
              />
              <Labelled label="Lasts, times the first part">
                <Figure
                  label="lasts"
                  value={r.lasts ?? 1}
                  least={0.1}
                  most={10}
                  onChange={(lasts) => set({ lasts })}
                />
              </Labelled>
              <label className="flex min-h-11 items-center gap-2">
                <input
                  type="checkbox"
                  className="h-6 w-6 accent-(--sea)"
                  checked={r.first ?? false}
                  onChange={(e) => set({ first: e.target.checked })}
                />
                tried first
              </label>
              <RouteNeeds sheet={sheet} route={r} onChange={(needs) => set({ needs })} />
            </>
          );
        }}
      </Rows>
      <Rows
        title="Stages, the first to the last"
        none="It does not grow."
        more="One more stage"
        items={stages}
        onAdd={stages.length < 6 ? () => change((p) => ({ ...p, stages: newStage(p) })) : undefined}
        onRemove={(i) => change((p) => ({ ...p, stages: withoutStage(p, i) }))}
      >
        {(s, i) => {
          const set = (x: Partial<typeof s>) =>
            change((p) => ({ ...p, stages: kept(p.stages, i, { ...s, ...x }) }));
          return (
            <>
              <Text label="How one tells it" most={80} value={s.name} onChange={(name) => set({ name })} />
              <Labelled label={`Stays so for, ${unit}`}>
                <Figure
                  label="stays so for"
                  value={s.tolerable}
                  least={1}
                  onChange={(tolerable) => set({ tolerable })}
                />
              </Labelled>
              {i > 0 && <Cost sheet={sheet} item={s} onChange={(price) => set({ price, job: "" })} />}
            </>
          );
        }}
      </Rows>
      <Rows
        title="What its failure takes along"
        none="Nothing else."
        more="One more"
        items={along}
        onAdd={
          next && along.length < 6
            ? () => change((p) => ({ ...p, takes_along: added(p.takes_along, { point: next, chance: 0.3 }) }))
            : undefined
        }
        onRemove={(i) => change((p) => ({ ...p, takes_along: kept(p.takes_along, i, undefined) }))}
      >
        {(t, i) => {
          const set = (x: Partial<typeof t>) =>
            change((p) => ({ ...p, takes_along: kept(p.takes_along, i, { ...t, ...x }) }));
          return (
            <>
              {t.point ? (
                <Choice
                  label="What goes with it"
                  value={t.point}
                  options={which}
                  onChange={(id) => set({ point: id })}
                />
              ) : (
                <span className="grow">{jobs.find((j) => j[0] === t.job)?.[1]}</span>
              )}
              <Hundredths label="How often" value={t.chance} onChange={(chance) => set({ chance })} />
            </>
          );
        }}
      </Rows>
      <Rows
        title="What wears faster while it lasts"
        none="Nothing."
        more="One more that it wears"
        items={wears}
        onAdd={
          worn && wears.length < 6
            ? () => change((p) => ({ ...p, wears: added(p.wears, { point: worn, times: 2 }) }))
            : undefined
        }
        onRemove={(i) => change((p) => ({ ...p, wears: kept(p.wears, i, undefined) }))}
      >
        {(w, i) => {
          const set = (x: Partial<typeof w>) =>
            change((p) => ({ ...p, wears: kept(p.wears, i, { ...w, ...x }) }));
          return (
            <>
              <Choice
                label="What it wears"
                value={w.point}
                options={which}
                onChange={(id) => set({ point: id })}
              />
              <Labelled label="Times as fast">
                <Figure
                  label="times as fast"
                  value={w.times}
                  least={1}
                  most={50}
                  onChange={(times) => set({ times })}
                />
              </Labelled>
            </>
          );
        }}
      </Rows>
      {branch(
        "escalation",
        "What it turns into, unannounced",
        "Nothing larger.",
        "It may turn into a larger job",
      )}
      {branch("already_done", "What it may have done already", "Nothing.", "It may have done damage already")}
      <Rows
        title="Who pays for it"
        none="The owner."
        more="Somebody else may pay"
        items={point.paid_for ? [point.paid_for] : []}
        onAdd={
          point.paid_for
            ? undefined
            : () => change((p) => ({ ...p, paid_for: { by: "The maker, under goodwill", until_age: 8 } }))
        }
        onRemove={() => change((p) => ({ ...p, paid_for: null }))}
      >
        {(paid) => (
          <PaidFor unit={unit} paid={paid} onChange={(x) => change((p) => ({ ...p, paid_for: x }))} />
        )}
      </Rows>
    </details>
  );
}
