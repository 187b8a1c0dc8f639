import { useMutation, useQuery } from "@tanstack/react-query";
import { useMemo, useState, type ReactNode } from "react";
import { useNavigate } from "react-router";
import { z } from "zod";
import {
  api,
  Refusal,
  type Candidate,
  type CandidateView,
  type FamilyHead,
  type Fault,
  type UsageUnit,
} from "../lib/api";
import { money, percent } from "../lib/format";
import { useFamilies, useFreshView, useQuiet } from "../lib/hooks";
import { FaultList } from "../parts/FaultList";
import { Milestone } from "../parts/Milestone";
import { RoadHeader, roadOf } from "../parts/Road";
import { Page } from "../parts/Shell";
import { useWidth } from "../lib/hooks";

/** What the form holds: text as typed, so that nothing typed is lost. */
interface Draft {
  title: string;
  note: string;
  families: string[];
  /** Whether the person chose the base sheet; else it follows the families. */
  ownBase: boolean;
  facts: Record<string, string>;
  serials: Record<string, string>;
  built: string;
  asOf: string;
  usage: string;
  unit: UsageUnit;
  asking: string;
  years: string;
  ayear: string;
  labour: "self" | "independent" | "dealer" | "specialist";
  parts: "original" | "equivalent" | "used";
}

type Errors = Partial<Record<string, string>>;

const today = () => new Date().toISOString().slice(0, 10);

const number = (name: string) =>
  z
    .string()
    .trim()
    .min(1, `${name} is missing.`)
    .transform((t) => Number(t.replace(/[\s\u202f\u00a0']/g, "").replace(",", ".")))
    .refine((n) => Number.isFinite(n), `${name} is not a number: write it as 120500.`)
    .refine((n) => n >= 0, `${name} cannot be below 0.`);

const shape = z.object({
  title: z.string().trim().min(1, "Give it a name to know it by."),
  families: z.array(z.string()).min(1, "Choose a family, or what kind of thing it is."),
  built: z
    .string()
    .min(1, "The build date is missing.")
    .refine((d) => d <= today(), "The build date lies in the future."),
  asOf: z.string().refine((d) => d <= today(), "The day of judgement lies in the future."),
  usage: number("Usage"),
  asking: number("The asking price"),
  years: number("Years"),
  ayear: number("Usage a year"),
});

/** Where a fault of the server's belongs in the form. */
const fieldOf: [string, string][] = [
  ["/title", "title"],
  ["/families", "families"],
  ["/built", "built"],
  ["/as_of", "asOf"],
  ["/usage", "usage"],
  ["/asking", "asking"],
  ["/plan/years", "years"],
  ["/plan/usage_a_year", "ayear"],
];

function toErrors(faults: Fault[]): { errors: Errors; rest: Fault[] } {
  const errors: Errors = {};
  const rest: Fault[] = [];
  for (const f of faults) {
    const field = fieldOf.find(([path]) => f.path.startsWith(path))?.[1];
    if (field) errors[field] = f.message;
    else rest.push(f);
  }
  return { errors, rest };
}

function read(
  draft: Draft,
  families: FamilyHead[],
  base?: Candidate,
): { candidate?: Candidate; errors: Errors } {
  const parsed = shape.safeParse(draft);
  if (!parsed.success) {
    const errors: Errors = {};
    for (const issue of parsed.error.issues) errors[String(issue.path[0])] ??= issue.message;
    return { errors };
  }
  const d = parsed.data;
  const known = base?.families ?? [];
  const chosen = d.families.map(
    (id) =>
      known.find((r) => r.id === id) ?? { id, version: families.find((f) => f.id === id)?.version ?? 1 },
  );
  const currency = base?.currency ?? currencyOf(d.families, families);
  const asked = new Set(
    families.filter((f) => d.families.includes(f.id)).flatMap((f) => f.facts.map((x) => x.id)),
  );
  const facts = Object.fromEntries(Object.entries(draft.facts).filter(([k, v]) => v !== "" && asked.has(k)));
  const serials = Object.fromEntries(
    Object.entries(draft.serials).filter(([family, v]) => v.trim() !== "" && d.families.includes(family)),
  );
  const candidate: Candidate = {
    ...(base ?? {
      format: "ticksage-candidate/1",
      as_of: today(),
      past_use: {},
      provenance: [],
      readings: [],
      ledger: [],
      comparables: [],
      findings: [],
      papers_seen: false,
    }),
    title: d.title,
    note: draft.note,
    families: chosen,
    facts,
    serials,
    built: d.built,
    as_of: d.asOf === "" ? today() : d.asOf,
    usage: { value: d.usage, unit: draft.unit },
    asking: Math.round(d.asking * 100) / 100,
    currency,
    plan: {
      ...(base?.plan ?? { use: {} }),
      years: d.years,
      usage_a_year: { value: d.ayear, unit: draft.unit },
    },
    buyer: {
      accepts_structural: false,
      ...base?.buyer,
      labour: draft.labour,
      parts: draft.parts,
    },
  };
  return { candidate, errors: {} };
}

function Labelled({
  label,
  error,
  hint,
  children,
}: {
  label: string;
  error?: string | undefined;
  hint?: string;
  children: ReactNode;
}) {
  return (
    <label className="block">
      <span className="sign text-[1.1rem] font-semibold">{label}</span>
      {children}
      {error ? (
        <span role="alert" className="block font-semibold text-caution">
          {error}
        </span>
      ) : (
        hint && <span className="block text-sm text-soft">{hint}</span>
      )}
    </label>
  );
}

const kindWord: Record<string, string> = {
  engine: "engine",
  gearbox: "gearbox",
  body: "body",
  motorcycle: "motorcycle",
};

/** The currency that a candidate of these families is counted in: base sheets have none of their own. */
function currencyOf(ids: string[], families: FamilyHead[]): string {
  const own = families.filter((f) => !isBase(f));
  return (own.find((f) => ids.includes(f.id)) ?? own[0])?.currency ?? "EUR";
}

const isBase = (f: FamilyHead) => f.kind.startsWith("base_");

/** What the base sheets are for, as people say it. */
const baseWord: Record<string, string> = {
  base_vehicle: "car or van",
  base_motorcycle: "motorcycle",
  base_engine: "bare engine",
};

/** The base sheet that goes with the families chosen. */
function baseFor(chosen: FamilyHead[], all: FamilyHead[]): string[] {
  if (chosen.length === 0) return [];
  const has = (kind: string) => chosen.some((f) => f.kind === kind);
  const kind = has("motorcycle") ? "base_motorcycle" : has("body") ? "base_vehicle" : "base_engine";
  const base = all.find((f) => f.kind === kind && f.clock === chosen[0]?.clock);
  return base ? [base.id] : [];
}

function Form({
  draft,
  set,
  errors,
  families,
}: {
  draft: Draft;
  set: (change: Partial<Draft>) => void;
  errors: Errors;
  families: FamilyHead[];
}) {
  const chosen = families.filter((f) => draft.families.includes(f.id));
  const own = families.filter((f) => !isBase(f));
  const clock = chosen.find((f) => !isBase(f))?.clock;
  const bases = families.filter((f) => isBase(f) && (clock === undefined || f.clock === clock));
  const baseChosen = bases.find((f) => draft.families.includes(f.id))?.id ?? "";
  const facts = chosen.flatMap((f) => f.facts);
  const setFamilies = (ids: string[]) => {
    const picked = own.filter((f) => ids.includes(f.id));
    const base = draft.ownBase
      ? draft.families.filter((id) => bases.some((b) => b.id === id))
      : baseFor(picked, families);
    const first = picked[0];
    set({
      families: [...ids.filter((id) => picked.some((f) => f.id === id)), ...base],
      ...(first && draft.families.length === 0 ? { unit: first.clock === "hours" ? "h" : "km" } : {}),
    });
  };
  const text = (key: "title" | "usage" | "asking" | "years" | "ayear", props: object = {}) => ({
    className: "field",
    value: draft[key],
    "aria-invalid": errors[key] !== undefined,
    onChange: (e: { target: { value: string } }) => set({ [key]: e.target.value }),
    ...props,
  });
  const choice = <K extends "labour" | "parts">(key: K, label: string, options: [Draft[K], string][]) => (
    <Labelled label={label}>
      <select
        className="field"
        value={draft[key]}
        onChange={(e) => set({ [key]: e.target.value } as Partial<Draft>)}
      >
        {options.map(([id, name]) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
    </Labelled>
  );
  return (
    <div className="grid gap-x-5 gap-y-3 sm:grid-cols-2">
      <div className="sm:col-span-2">
        <Labelled label="What you call it" error={errors["title"]}>
          <input {...text("title", { maxLength: 120, placeholder: "white one at the ferry landing" })} />
        </Labelled>
      </div>
      <fieldset className="sm:col-span-2">
        <legend className="sign text-[1.1rem] font-semibold">Families it is made of</legend>
        <div className="mt-1 grid gap-2 sm:grid-cols-2">
          {own.map((f) => (
            <label
              key={f.id}
              className="flex min-h-14 items-center gap-3 border-2 border-strong bg-raised px-3 py-1 has-checked:border-sea has-checked:shadow-[inset_6px_0_0_var(--sea)]"
            >
              <input
                type="checkbox"
                className="h-6 w-6 accent-(--sea)"
                checked={draft.families.includes(f.id)}
                onChange={(e) =>
                  setFamilies(
                    e.target.checked ? [...draft.families, f.id] : draft.families.filter((x) => x !== f.id),
                  )
                }
              />
              <span className="leading-tight">
                <b className="sign text-lg">{f.name}</b>
                <span className="block text-sm text-soft">
                  {kindWord[f.kind]}, {f.points} failure points
                </span>
              </span>
            </label>
          ))}
        </div>
        <div
          role="radiogroup"
          aria-label="What kind of thing it is"
          className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1"
        >
          <span className="sign text-[1.05rem] font-semibold">Also what every</span>
          {[...bases.map((b) => [b.id, baseWord[b.kind] ?? b.name, b.clock] as const)].map(
            ([id, word, counts]) => (
              <label key={id} className="flex min-h-11 items-center gap-2">
                <input
                  type="radio"
                  name="base"
                  className="h-6 w-6 accent-(--sea)"
                  checked={baseChosen === id}
                  onChange={() =>
                    set({
                      ownBase: true,
                      families: [
                        ...draft.families.filter((x) => !families.some((f) => f.id === x && isBase(f))),
                        id,
                      ],
                      ...(chosen.every(isBase) ? { unit: counts === "hours" ? "h" : "km" } : {}),
                    })
                  }
                />
                {word}
                {clock === undefined &&
                  word === "bare engine" &&
                  (counts === "hours" ? ", by the hour" : ", by the km")}
              </label>
            ),
          )}
          <label className="flex min-h-11 items-center gap-2">
            <input
              type="radio"
              name="base"
              className="h-6 w-6 accent-(--sea)"
              checked={baseChosen === "" && chosen.length > 0}
              onChange={() =>
                set({
                  ownBase: true,
                  families: draft.families.filter((x) => !families.some((f) => f.id === x && isBase(f))),
                })
              }
            />
            nothing more
          </label>
          <span className="basis-full text-sm text-soft">
            needs looked at: body, lamps, tyres, brakes, fluids, codes. It makes way for what a family’s own
            sheet knows, and serves alone where no family fits.
          </span>
        </div>
        {errors["families"] && (
          <p role="alert" className="font-semibold text-caution">
            {errors["families"]}
          </p>
        )}
      </fieldset>
      <Labelled label="Usage now" error={errors["usage"]}>
        <span className="grid grid-cols-[1fr_auto] gap-2">
          <input {...text("usage", { inputMode: "decimal" })} />
          <select
            className="field w-auto!"
            aria-label="Unit"
            value={draft.unit}
            onChange={(e) => set({ unit: e.target.value as UsageUnit })}
          >
            <option value="km">km</option>
            <option value="mi">miles</option>
            <option value="h">hours</option>
          </select>
        </span>
      </Labelled>
      <Labelled label="Built, or first registered" error={errors["built"]}>
        <input
          className="field"
          type="date"
          max={today()}
          value={draft.built}
          aria-invalid={errors["built"] !== undefined}
          onChange={(e) => set({ built: e.target.value })}
        />
      </Labelled>
      {draft.asOf !== "" && (
        <Labelled
          label="Day of judgement"
          error={errors["asOf"]}
          hint="Usage and age are counted to it; later papers wait for a later day."
        >
          <input
            className="field"
            type="date"
            max={today()}
            value={draft.asOf}
            aria-invalid={errors["asOf"] !== undefined}
            onChange={(e) => set({ asOf: e.target.value })}
          />
        </Labelled>
      )}
      <Labelled
        label={`Asking price${chosen[0] ? `, ${currencyOf(draft.families, families)}` : ""}`}
        error={errors["asking"]}
      >
        <input {...text("asking", { inputMode: "decimal" })} />
      </Labelled>
      <div className="grid grid-cols-2 gap-3">
        <Labelled label="Years to keep it" error={errors["years"]}>
          <input {...text("years", { inputMode: "decimal" })} />
        </Labelled>
        <Labelled
          label={`${draft.unit === "mi" ? "Miles" : draft.unit === "h" ? "Hours" : "Kilometres"} a year`}
          error={errors["ayear"]}
        >
          <input {...text("ayear", { inputMode: "decimal" })} />
        </Labelled>
      </div>
      {facts.map((fact) => (
        <Labelled key={fact.id} label={fact.label} hint={fact.how}>
          <select
            className="field"
            value={draft.facts[fact.id] ?? ""}
            onChange={(e) => set({ facts: { ...draft.facts, [fact.id]: e.target.value } })}
          >
            <option value="">not known yet</option>
            {fact.values.map((v) => (
              <option key={v.id} value={v.id}>
                {v.label}
              </option>
            ))}
          </select>
        </Labelled>
      ))}
      {chosen
        .filter((f) => f.serial_decides)
        .map((f) => (
          <Labelled
            key={f.id}
            label={`Serial number: ${f.name}`}
            hint="As stamped. It tells which parts it was built with."
          >
            <input
              className="field"
              maxLength={40}
              autoCapitalize="characters"
              value={draft.serials[f.id] ?? ""}
              onChange={(e) => set({ serials: { ...draft.serials, [f.id]: e.target.value } })}
            />
          </Labelled>
        ))}
      <div className="grid gap-3 sm:col-span-2 sm:grid-cols-2">
        {choice("labour", "Who does the work", [
          ["self", "Myself"],
          ["independent", "Independent workshop"],
          ["dealer", "Dealer"],
          ["specialist", "Specialist"],
        ])}
        {choice("parts", "Parts", [
          ["original", "Original"],
          ["equivalent", "Equivalent"],
          ["used", "Used"],
        ])}
      </div>
      <div className="sm:col-span-2">
        <Labelled label="What the advert and the seller say">
          <textarea
            className="field"
            rows={3}
            maxLength={4000}
            value={draft.note}
            onChange={(e) => set({ note: e.target.value })}
          />
        </Labelled>
      </div>
    </div>
  );
}

/** The first assessment, while typing. */
function Preview({ candidate, stored = false }: { candidate: Candidate | undefined; stored?: boolean }) {
  const quiet = useQuiet(candidate, 150);
  const key = useMemo(() => JSON.stringify(quiet ?? null), [quiet]);
  const query = useQuery({
    queryKey: ["try", key],
    queryFn: () => (quiet ? api.tryOut(quiet) : Promise.reject(new Error("nothing typed"))),
    enabled: quiet !== undefined,
    placeholderData: (previous) => previous,
    retry: false,
    staleTime: Infinity,
  });
  const [ref, width] = useWidth<HTMLDivElement>();
  const a = candidate ? query.data : undefined;
  return (
    <div ref={ref} data-testid="preview">
      <h2 className="stretch mb-2">{stored ? "With these figures" : "First assessment"}</h2>
      {!a && (
        <p className="text-lg">
          {query.error && candidate
            ? query.error.message
            : "Name, family, usage, build date, price and plan are enough: it appears here while you type."}
        </p>
      )}
      {a && (
        <>
          {!stored && (
            <div className="max-lg:fixed max-lg:inset-x-0 max-lg:bottom-0 max-lg:z-20">
              <Milestone assessment={a} />
            </div>
          )}
          <div className="mt-4">
            <RoadHeader data={roadOf(a)} width={width} />
          </div>
          <p className="sign mt-3 text-lg font-semibold">What may cost most within your plan</p>
          <ul>
            {a.points.slice(0, 5).map((p) => (
              <li
                key={`${p.at.family}/${p.at.point}`}
                className="flex justify-between gap-3 border-b border-rule py-1"
              >
                <span>{p.name}</span>
                <span className="reading whitespace-nowrap">
                  {percent(p.p_plan)} · {money(p.cost.mean)}
                </span>
              </li>
            ))}
          </ul>
          <p className="mt-2 text-sm text-soft">
            An estimate from stated assumptions
            {stored ? "." : "; it knows nothing yet of papers and findings."}
          </p>
        </>
      )}
    </div>
  );
}

function Refused({ error, rest }: { error: Error | null; rest: Fault[] }) {
  if (!error) return null;
  return (
    <div role="alert" className="mt-3 border-2 border-caution bg-caution-bg p-3 text-caution">
      <p className="font-bold">{error.message}</p>
      <FaultList faults={rest} />
    </div>
  );
}

const DRAFT_KEY = "ticksage.draft";
const blank: Draft = {
  title: "",
  note: "",
  families: [],
  ownBase: false,
  facts: {},
  serials: {},
  built: "",
  asOf: "",
  usage: "",
  unit: "km",
  asking: "",
  years: "4",
  ayear: "12000",
  labour: "independent",
  parts: "equivalent",
};

function keptDraft(): Draft {
  try {
    return { ...blank, ...(JSON.parse(localStorage.getItem(DRAFT_KEY) ?? "{}") as Partial<Draft>) };
  } catch {
    return blank;
  }
}

export function NewAdvert() {
  const families = useFamilies();
  const navigate = useNavigate();
  const fresh = useFreshView();
  const [draft, setDraft] = useState<Draft>(keptDraft);
  const [tried, setTried] = useState(false);
  const set = (change: Partial<Draft>) => {
    const next = { ...draft, ...change };
    setDraft(next);
    localStorage.setItem(DRAFT_KEY, JSON.stringify(next));
  };
  const { candidate, errors } = read(draft, families.data ?? []);
  const create = useMutation({
    mutationFn: (c: Candidate) => api.create(c),
    onSuccess: (view) => {
      localStorage.removeItem(DRAFT_KEY);
      fresh(view);
      void navigate(`/c/${view.id}/road`);
    },
  });
  const server = toErrors(create.error instanceof Refusal ? create.error.faults : []);
  const shown = { ...server.errors, ...(tried ? errors : {}) };
  return (
    <Page title="New candidate" lead="What the advert gives is enough to begin.">
      <div className="mt-4 grid gap-x-12 gap-y-8 lg:grid-cols-[1fr_26rem]">
        <form
          noValidate
          onSubmit={(e) => {
            e.preventDefault();
            setTried(true);
            if (candidate) create.mutate(candidate);
          }}
        >
          {families.error && <Refused error={families.error} rest={[]} />}
          <Form draft={draft} set={set} errors={shown} families={families.data ?? []} />
          <Refused error={create.error} rest={server.rest} />
          <div className="mt-5 flex gap-3">
            <button type="submit" className="btn btn-main" disabled={create.isPending || !families.data}>
              Put it in the yard
            </button>
            <button type="button" className="btn" onClick={() => set(blank)}>
              Clear
            </button>
          </div>
        </form>
        <Preview candidate={candidate} />
      </div>
    </Page>
  );
}

function draftOf(c: Candidate): Draft {
  const parts = c.buyer?.parts;
  return {
    title: c.title,
    note: c.note ?? "",
    families: c.families.map((f) => f.id),
    ownBase: true,
    facts: c.facts ?? {},
    serials: c.serials ?? {},
    built: c.built,
    asOf: c.as_of,
    usage: String(c.usage.value),
    unit: c.usage.unit,
    asking: String(c.asking),
    years: String(c.plan.years),
    ayear: String(c.plan.usage_a_year.value),
    labour: c.buyer?.labour ?? "independent",
    parts: parts === "original" || parts === "used" ? parts : "equivalent",
  };
}

export function EditAdvert({ view }: { view: CandidateView }) {
  const families = useFamilies();
  const fresh = useFreshView();
  const [base, setBase] = useState(view);
  const [draft, setDraft] = useState<Draft>(() => draftOf(view.candidate));
  const [tried, setTried] = useState(false);
  const { candidate, errors } = read(draft, families.data ?? [], base.candidate);
  const changed = JSON.stringify(draft) !== JSON.stringify(draftOf(base.candidate));
  const save = useMutation({
    mutationFn: ({ version, c }: { version: number; c: Candidate }) => api.edit(view.id, version, c),
    onSuccess: (stored) => {
      setBase(stored);
      setDraft(draftOf(stored.candidate));
      fresh(stored);
    },
  });
  const theirs = useMutation({
    mutationFn: () => api.candidate(view.id),
    onSuccess: (stored) => {
      setBase(stored);
      fresh(stored);
      save.reset();
    },
  });
  const conflict = save.error instanceof Refusal && save.error.code === "conflict";
  const server = toErrors(save.error instanceof Refusal ? save.error.faults : []);
  const shown = { ...server.errors, ...(tried ? errors : {}) };
  return (
    <div className="grid gap-x-12 gap-y-8 lg:grid-cols-[1fr_26rem]">
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          setTried(true);
          if (candidate) save.mutate({ version: base.version, c: candidate });
        }}
      >
        <h1 className="mb-2 text-3xl">Advert and plan</h1>
        <Form
          draft={draft}
          set={(change) => setDraft({ ...draft, ...change })}
          errors={shown}
          families={families.data ?? []}
        />
        <Refused error={save.error} rest={server.rest} />
        {conflict && (
          <div className="mt-3 flex flex-wrap gap-3">
            <button type="button" className="btn" onClick={() => theirs.mutate()}>
              Keep my figures, on top of theirs
            </button>
            <button
              type="button"
              className="btn"
              onClick={() =>
                theirs.mutate(undefined, { onSuccess: (stored) => setDraft(draftOf(stored.candidate)) })
              }
            >
              Take theirs
            </button>
          </div>
        )}
        <div className="mt-5 flex flex-wrap items-center gap-3">
          <button
            type="submit"
            className="btn btn-main"
            disabled={!changed || save.isPending || theirs.isPending || conflict || !families.data}
          >
            Save
          </button>
          <button
            type="button"
            className="btn"
            disabled={!changed}
            onClick={() => setDraft(draftOf(base.candidate))}
          >
            Put back
          </button>
          <span role="status">{save.isSuccess && !changed ? "Saved." : changed ? "Not saved yet." : ""}</span>
        </div>
      </form>
      <Preview candidate={candidate} stored />
    </div>
  );
}
