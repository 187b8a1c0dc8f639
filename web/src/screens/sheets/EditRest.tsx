// Checks, jobs, access, scheduled work, campaigns, advice and rules of care of a sheet, each edited where it stands.

import { useState } from "react";
import type { Family } from "../../lib/api";
import { phaseWord } from "../../lib/words";
import {
  addItem,
  called,
  editItem,
  lists,
  removeItem,
  usedBy,
  type Editing,
  type Item,
  type List,
} from "./rest";
import { EditAlteration } from "./EditAlteration";
import { EditAdjusts } from "./EditAdjusts";
import { Choice, Figure, Labelled, Text, Three, type Range } from "./Typed";

const titles: Record<List, string> = {
  checks: "Checks",
  jobs: "Jobs",
  access: "What must come off first",
  intervals: "Scheduled work",
  campaigns: "Recalls and campaigns",
  advice: "Which to buy",
  care_rules: "How to treat it",
  supply: "Parts and hands by age",
  alterations: "More power, and what it breaks",
};

const adviceWords = [
  ["prefer", "prefer"],
  ["avoid", "avoid"],
  ["praise", "praise"],
] as const;

function EditCheck({ item, change }: Editing<"checks">) {
  return (
    <>
      <Text label="Name" most={80} value={item.name} onChange={(name) => change({ name })} />
      <Text long label="What to do" value={item.how} onChange={(how) => change({ how })} />
      <div className="flex flex-wrap items-end gap-2">
        <Labelled label="When">
          <Choice
            label="When"
            value={item.phase}
            options={Object.entries(phaseWord) as [typeof item.phase, string][]}
            onChange={(phase) => change({ phase })}
          />
        </Labelled>
        <Labelled label="Minutes">
          <Figure
            label="Minutes"
            value={item.minutes}
            least={0.1}
            most={600}
            onChange={(minutes) => change({ minutes })}
          />
        </Labelled>
      </div>
      {item.outcomes.map((o, i) => (
        <Text
          key={i}
          label={i === 0 ? "Outcome, nothing amiss" : `Outcome ${i + 1}`}
          most={60}
          value={o.label}
          onChange={(label) =>
            change({ outcomes: item.outcomes.map((x, k) => (k === i ? { ...x, label } : x)) })
          }
        />
      ))}
    </>
  );
}

function EditJob({ item, change }: Editing<"jobs">) {
  const parts = Object.entries(item.parts ?? {}) as [string, Range][];
  const { price } = item;
  return (
    <>
      <Text label="Name" most={80} value={item.name} onChange={(name) => change({ name })} />
      {typeof price === "number" && (
        <Labelled label="Done, parts and hours included">
          <Figure label="Price" value={price} onChange={(x) => change({ price: x })} />
        </Labelled>
      )}
      {item.hours && <Three label="Hours" value={item.hours} onChange={(hours) => change({ hours })} />}
      {parts.map(([grade, range]) => (
        <Three
          key={grade}
          label={`Parts, ${grade}`}
          value={range}
          onChange={(x) => change({ parts: { ...item.parts, [grade]: x } })}
        />
      ))}
    </>
  );
}

/** How often: by usage, by years, or both. */
function Every({
  sheet,
  item,
  change,
}: {
  sheet: Family;
  item: { usage?: number | null; years?: number | null };
  change: (x: { usage?: number; years?: number }) => void;
}) {
  return (
    <>
      <Labelled label={`Every so many ${sheet.clock === "km" ? "km" : "hours"}`}>
        <Figure
          label="Every, usage"
          value={item.usage ?? undefined}
          least={10}
          onChange={(usage) => change({ usage })}
        />
      </Labelled>
      <Labelled label="Or years">
        <Figure
          label="Every, years"
          value={item.years ?? undefined}
          least={0.1}
          most={50}
          onChange={(years) => change({ years })}
        />
      </Labelled>
    </>
  );
}

function EditInterval({ sheet, item, change }: Editing<"intervals">) {
  return (
    <>
      <Text label="Name" most={80} value={item.name} onChange={(name) => change({ name })} />
      <div className="flex flex-wrap items-end gap-2">
        <Every sheet={sheet} item={item} change={change} />
        <Labelled label="Job">
          <Choice
            label="Job"
            value={item.job}
            options={(sheet.jobs ?? []).map((j) => [j.id, j.name] as const)}
            onChange={(job) => change({ job })}
          />
        </Labelled>
      </div>
    </>
  );
}

function EditAdvice({ item, change }: Editing<"advice">) {
  return (
    <>
      {item.kind === "only_if" ? (
        <p className="text-soft">Only with proof of a renewal.</p>
      ) : (
        <Choice
          label="What is advised"
          value={item.kind}
          options={adviceWords as readonly (readonly [typeof item.kind, string])[]}
          onChange={(kind) => change({ kind })}
        />
      )}
      <Text long label="What is said" value={item.says} onChange={(says) => change({ says })} />
    </>
  );
}

function EditCampaign({ item, change }: Editing<"campaigns">) {
  return (
    <>
      <Text label="Name" most={80} value={item.name} onChange={(name) => change({ name })} />
      <Text long label="What it was for" value={item.about} onChange={(about) => change({ about })} />
      <Text
        long
        label="What remains exposed where it was not done"
        value={item.exposes}
        empty
        onChange={(exposes) => change({ exposes })}
      />
      <Text label="How it is proved" value={item.proof} empty onChange={(proof) => change({ proof })} />
    </>
  );
}

function EditRule({ sheet, item, change }: Editing<"care_rules">) {
  return (
    <>
      <Text
        label="What to do, or never to do"
        most={160}
        value={item.says}
        onChange={(says) => change({ says })}
      />
      <Text long label="Why" value={item.why} empty onChange={(why) => change({ why })} />
      <div className="flex flex-wrap items-end gap-2">
        <Every sheet={sheet} item={item} change={change} />
      </div>
    </>
  );
}

function EditAccess({ item, change }: Editing<"access">) {
  return (
    <>
      <Text label="Name" most={80} value={item.name} onChange={(name) => change({ name })} />
      <Labelled label="Hours off and on again">
        <Figure label="Hours" value={item.hours} most={500} onChange={(hours) => change({ hours })} />
      </Labelled>
    </>
  );
}

function EditSupply({ item, change }: Editing<"supply">) {
  const times = (key: "parts" | "hours", label: string) => (
    <Labelled label={label}>
      <Figure
        label={label}
        value={item[key] ?? 1}
        least={0.1}
        most={20}
        onChange={(x) => change({ [key]: x })}
      />
    </Labelled>
  );
  return (
    <>
      <Text label="What is so" most={160} value={item.says} onChange={(says) => change({ says })} />
      <div className="flex flex-wrap items-end gap-3">
        <Labelled label="From an age of, years">
          <Figure
            label="Years"
            value={item.from_age}
            most={120}
            onChange={(from_age) => change({ from_age })}
          />
        </Labelled>
        {times("parts", "Parts cost, times their price")}
        {times("hours", "Work takes, times its hours")}
      </div>
      <p className="text-soft">
        {(item.points ?? []).length > 0 ? "Of the points that it names." : "Of every job of this sheet."}
      </p>
    </>
  );
}

const editors: { [L in List]: (p: Editing<L>) => React.ReactNode } = {
  checks: EditCheck,
  jobs: EditJob,
  access: EditAccess,
  intervals: EditInterval,
  campaigns: EditCampaign,
  advice: EditAdvice,
  care_rules: EditRule,
  supply: EditSupply,
  alterations: EditAlteration,
};

function OneList<L extends List>({
  list,
  sheet,
  onEdit,
}: {
  list: L;
  sheet: Family;
  onEdit: (f: Family) => void;
}) {
  const [open, setOpen] = useState(false);
  const [chosen, setChosen] = useState<string>();
  const [name, setName] = useState("");
  const items = (sheet[list] ?? []) as Item<L>[];
  const Editor = editors[list] as (p: Editing<L>) => React.ReactNode;
  return (
    <details onToggle={(e) => setOpen(e.currentTarget.open)} data-testid={`edit-${list}`}>
      <summary className="sign min-h-11 cursor-pointer py-2 text-lg font-bold">
        {titles[list]}, {items.length}
      </summary>
      {open && (
        <>
          <ul>
            {items.map((item) => {
              const users = item.id === chosen ? usedBy(sheet, list, item.id) : [];
              return (
                <li key={item.id} className="border-b border-rule">
                  <button
                    type="button"
                    className="min-h-11 w-full text-left aria-expanded:font-semibold"
                    aria-expanded={item.id === chosen}
                    onClick={() => setChosen(item.id === chosen ? undefined : item.id)}
                  >
                    {called(item)}
                  </button>
                  {item.id === chosen && (
                    <div className="grid gap-2 border-l-4 border-sea pb-3 pl-3">
                      <Editor
                        sheet={sheet}
                        item={item}
                        change={(x) => onEdit(editItem(sheet, list, item.id, x))}
                      />
                      {users.length > 0 ? (
                        <p className="text-soft">Needed by {users.slice(0, 4).join(", ")}.</p>
                      ) : (
                        <button
                          type="button"
                          className="btn justify-self-start"
                          onClick={() => {
                            onEdit(removeItem(sheet, list, item.id));
                            setChosen(undefined);
                          }}
                        >
                          Take it out
                        </button>
                      )}
                    </div>
                  )}
                </li>
              );
            })}
          </ul>
          <form
            className="mt-2 flex flex-wrap items-end gap-2 pb-3"
            onSubmit={(e) => {
              e.preventDefault();
              if (name.trim() === "") return;
              const [next, id] = addItem(sheet, list, name.trim());
              onEdit(next);
              setChosen(id);
              setName("");
            }}
          >
            <label className="block grow">
              <span className="text-sm text-soft">Another one</span>
              <input
                className="field"
                maxLength={160}
                value={name}
                onChange={(e) => setName(e.target.value)}
              />
            </label>
            <button type="submit" className="btn" disabled={name.trim() === ""}>
              Add
            </button>
          </form>
        </>
      )}
    </details>
  );
}

export function EditRest({ sheet, onEdit }: { sheet: Family; onEdit: (f: Family) => void }) {
  return (
    <section aria-label="The rest of the sheet" className="mt-8 border-t-2 border-ink pt-2">
      {lists.map((list) => (
        <OneList key={list} list={list} sheet={sheet} onEdit={onEdit} />
      ))}
      <EditAdjusts sheet={sheet} onEdit={onEdit} />
    </section>
  );
}
