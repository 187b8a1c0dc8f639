// What this sheet knows better than the base sheets, of a part, a check or a job: what is left open stays as it is
// there.

import { useQueries } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Family } from "../../lib/api";
import { useFamilies } from "../../lib/hooks";
import { HowMany, When } from "./Claims";
import {
  adjust,
  adjustedOf,
  changeAdjusted,
  claimed,
  described,
  kinds,
  ownOf,
  removeAdjusted,
  type Adjusted,
} from "./adjusts";
import { Choice, Figure, Labelled, Text, Three } from "./Typed";

interface Edited {
  sheet: Family;
  onEdit: (f: Family) => void;
}

function Price({ price, onChange }: { price: unknown; onChange: (x: number) => void }) {
  if (Array.isArray(price))
    return (
      <p>
        Costs {price[0]} to {price[1]}, parts and hours included.
      </p>
    );
  return typeof price === "number" ? (
    <Labelled label="Done, parts and hours included">
      <Figure label="Price" value={price} onChange={onChange} />
    </Labelled>
  ) : null;
}

function Part({ sheet, onEdit, of }: Edited & { of: Extract<Adjusted, { kind: "parts" }> }) {
  const { item, at } = of;
  const change = (x: object) => onEdit(changeAdjusted(sheet, "parts", at, x));
  const without = <T,>(list: T[], i: number) => list.filter((_, k) => k !== i);
  const put = <T,>(list: T[], i: number, x: T) => list.map((y, k) => (k === i ? x : y));
  const { life = [], share = [] } = item;
  return (
    <>
      <ul>
        {share.map((claim, i) => (
          <HowMany
            key={i}
            sheet={sheet}
            claim={claim}
            onChange={(c) => change({ share: put(share, i, c) })}
          />
        ))}
        {life.map((claim, i) => (
          <When
            key={i}
            sheet={sheet}
            claim={claim}
            unit={sheet.clock === "km" ? "km" : "hours"}
            onChange={(c) => change({ life: put(life, i, c) })}
            onRemove={() => change({ life: without(life, i) })}
          />
        ))}
      </ul>
      <p className="flex flex-wrap gap-2">
        {share.length === 0 && (
          <button type="button" className="btn" onClick={() => onEdit(claimed(sheet, at, "share"))}>
            How many have it
          </button>
        )}
        <button type="button" className="btn" onClick={() => onEdit(claimed(sheet, at, "life"))}>
          When it comes
        </button>
        {item.price == null && (
          <button type="button" className="btn" onClick={() => change({ price: 300 })}>
            What it costs
          </button>
        )}
      </p>
      <Price price={item.price} onChange={(price) => change({ price })} />
    </>
  );
}

function Check({
  sheet,
  onEdit,
  of,
  how: said,
}: Edited & { of: Extract<Adjusted, { kind: "checks" }>; how: string | undefined }) {
  const { item, at } = of;
  const change = (x: object) => onEdit(changeAdjusted(sheet, "checks", at, x));
  return (
    <>
      {said && <p className="text-soft">The base sheet: {said}</p>}
      <Labelled label="Minutes">
        <Figure
          label="Minutes"
          value={item.minutes ?? undefined}
          least={0.1}
          most={600}
          onChange={(minutes) => change({ minutes })}
        />
      </Labelled>
      <Text
        long
        most={400}
        label="What to do, where it is done otherwise"
        value={item.how}
        onChange={(how) => change({ how })}
      />
      <Text
        long
        most={400}
        label="What can hurt"
        value={item.caution}
        onChange={(caution) => change({ caution })}
      />
      {item.measure && (
        <p className="text-soft">
          Its limits: {item.measure.limits.join(", ")} {item.measure.unit}, from {item.measure.source}.
        </p>
      )}
    </>
  );
}

function Job({ sheet, onEdit, of }: Edited & { of: Extract<Adjusted, { kind: "jobs" }> }) {
  const { item, at } = of;
  const change = (x: object) => onEdit(changeAdjusted(sheet, "jobs", at, x));
  return (
    <>
      <Price price={item.price} onChange={(price) => change({ price })} />
      {item.hours && <Three label="Hours" value={item.hours} onChange={(hours) => change({ hours })} />}
      {item.hours && (
        <button type="button" className="btn" onClick={() => change({ price: 300, hours: undefined })}>
          One price instead
        </button>
      )}
    </>
  );
}

/** The base sheets, once they are asked for. */
function useBases(wanted: boolean) {
  const heads = (useFamilies().data ?? []).filter((f) => f.kind.startsWith("base_"));
  const sheets = useQueries({
    queries: heads.map((h) => ({
      queryKey: ["sheet", h.id],
      queryFn: () => api.newestFamily(h.id),
      enabled: wanted,
      staleTime: 60_000,
    })),
  });
  return sheets.flatMap((s) => (s.data ? [s.data] : []));
}

/** A further thing to know better, chosen among what base sheets describe. */
function Another({ sheet, onEdit, bases }: Edited & { bases: Family[] }) {
  const taken = new Set([...ownOf(sheet), ...adjustedOf(sheet).map((x) => `${x.kind}/${x.id}`)]);
  const free = described(bases, sheet.clock).filter((k) => !taken.has(`${k.kind}/${k.id}`));
  return (
    <div className="mt-2 pb-3">
      <Labelled label="Something else that is known better">
        <Choice
          label="Something else that is known better"
          value=""
          options={[
            ["", "choose a part, a check or a job"],
            ...free.map(
              (k) => [`${k.kind}/${k.id}`, `${kinds[k.kind].title.toLowerCase()}: ${k.name}`] as const,
            ),
          ]}
          onChange={(id) => {
            const of = free.find((k) => `${k.kind}/${k.id}` === id);
            if (of) onEdit(adjust(sheet, of));
          }}
        />
      </Labelled>
    </div>
  );
}

export function EditAdjusts({ sheet, onEdit }: Edited) {
  const [open, setOpen] = useState(false);
  const bases = useBases(open);
  const items = adjustedOf(sheet);
  const known = new Map(described(bases, sheet.clock).map((k) => [`${k.kind}/${k.id}`, k]));
  return (
    <details onToggle={(e) => setOpen(e.currentTarget.open)} data-testid="edit-adjusts">
      <summary className="sign min-h-11 cursor-pointer py-2 text-lg font-bold">
        Known better than the base sheets, {items.length}
      </summary>
      {open && (
        <>
          <p className="text-soft">
            Of a part, a check or a job that every vehicle has. What is left open here stays as the base sheet
            says it.
          </p>
          <ul>
            {items.map((x) => (
              <li key={`${x.kind}/${x.at}`} className="border-b border-rule py-2">
                <h3 className="font-semibold">
                  {kinds[x.kind].title}: {known.get(`${x.kind}/${x.id}`)?.name ?? x.id}
                </h3>
                <div className="grid gap-2 border-l-4 border-sea pb-1 pl-3">
                  {x.kind === "parts" && <Part sheet={sheet} onEdit={onEdit} of={x} />}
                  {x.kind === "checks" && (
                    <Check sheet={sheet} onEdit={onEdit} of={x} how={known.get(`checks/${x.id}`)?.how} />
                  )}
                  {x.kind === "jobs" && <Job sheet={sheet} onEdit={onEdit} of={x} />}
                  <button
                    type="button"
                    className="btn justify-self-start"
                    onClick={() => onEdit(removeAdjusted(sheet, x.kind, x.at))}
                  >
                    As the base sheet says
                  </button>
                </div>
              </li>
            ))}
          </ul>
          <Another sheet={sheet} onEdit={onEdit} bases={bases} />
        </>
      )}
    </details>
  );
}
