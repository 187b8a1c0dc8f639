// What the form of an advert holds, and the candidate that it means.

import { zodResolver } from "@hookform/resolvers/zod";
import type { Resolver } from "react-hook-form";
import { z } from "zod";
import type { Candidate, FamilyHead, Fault, UsageUnit, YardSettings } from "../../lib/api";
import { numberOf, today } from "../../lib/format";

/** What the form holds: text as typed, so that nothing typed is lost. */
export interface Draft {
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
  /** How it is built, where no sheet fits: question to answer. */
  answers: Record<string, string>;
  /** Whether these questions are open. */
  builtOpen: boolean;
  /** What the sheet made from them is called. */
  builtName: string;
  /** The sheet whose answers are changed. */
  changing: { id: string; version: number } | undefined;
  /** Sheets that are taken at their newest version, where an earlier one judged so far. */
  moved: string[];
  labour: "self" | "independent" | "dealer" | "specialist";
  parts: "original" | "equivalent" | "used";
  /** Whether it gives more power than its maker gave it. */
  tuned: "no" | "yes";
  power: string;
  powerUnit: "kW" | "hp" | "bhp";
  tuneQuality: "documented" | "unknown" | "rough";
  tuneSince: string;
  tunePutBack: boolean;
}

/** Kilowatts in one of each. Metric horsepower is 75 kgf·m/s, British 550 ft·lbf/s. */
const kilowatts = { kW: 1, hp: 0.73549875, bhp: 0.745699872 };

const left = (name: string) =>
  z
    .string()
    .trim()
    .refine((t) => t === "" || (numberOf(t) ?? NaN) >= 0, `${name} is not a number: write it as 110.`);

const number = (name: string) =>
  z
    .string()
    .trim()
    .min(1, `${name} is missing.`)
    .refine((t) => !/^-/.test(t), `${name} cannot be below 0.`)
    .transform((t) => numberOf(t) ?? NaN)
    .refine((n) => Number.isFinite(n), `${name} is not a number: write it as 120500.`);

/** What makes sense; the rest of the form is text as typed. */
const shape = z.looseObject({
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
  power: left("The power").refine((t) => t === "" || (numberOf(t) ?? 0) > 0, "The power is above 0."),
  tuneSince: left("The reading"),
});

/** The schema gives figures; the form keeps the text as typed. */
export const resolver = zodResolver(shape, undefined, { raw: true }) as unknown as Resolver<Draft>;

/** Where a fault of the server's belongs in the form. */
const fieldOf: [string, keyof Draft][] = [
  ["/title", "title"],
  ["/families", "families"],
  ["/built", "built"],
  ["/as_of", "asOf"],
  ["/usage", "usage"],
  ["/tune/power_kw", "power"],
  ["/tune/since", "tuneSince"],
  ["/asking", "asking"],
  ["/plan/years", "years"],
  ["/plan/usage_a_year", "ayear"],
];

/** The server's faults by field, and those that belong to none. */
export function byField(faults: Fault[]): { errors: [keyof Draft, string][]; rest: Fault[] } {
  const errors: [keyof Draft, string][] = [];
  const rest: Fault[] = [];
  for (const f of faults) {
    const field = fieldOf.find(([path]) => f.path.startsWith(path))?.[1];
    if (field) errors.push([field, f.message]);
    else rest.push(f);
  }
  return { errors, rest };
}

export const isBase = (f: FamilyHead) => f.kind.startsWith("base_");

/** The currency that a candidate of these families is counted in: base sheets have none of their own. */
export function currencyOf(ids: string[], families: FamilyHead[], settings?: YardSettings | null): string {
  const own = families.filter((f) => !isBase(f));
  return own.find((f) => ids.includes(f.id))?.currency ?? settings?.currency ?? "EUR";
}

/** The base sheet that goes with the families chosen. */
export function baseFor(chosen: FamilyHead[], all: FamilyHead[]): string[] {
  // A sheet of the whole thing needs none beside it.
  if (chosen.length === 0 || chosen.some((f) => f.built_as && (f.built_as.patterns ?? []).length === 0))
    return [];
  const has = (kind: string) => chosen.some((f) => f.kind === kind);
  const kind = has("motorcycle") ? "base_motorcycle" : has("body") ? "base_vehicle" : "base_engine";
  const base = all.find((f) => f.kind === kind && f.clock === chosen[0]?.clock);
  return base ? [base.id] : [];
}

/** What a draft says of a tune. */
function tuneOf(draft: Draft): Pick<Candidate, "tune"> {
  if (draft.tuned === "no") return { tune: undefined };
  const power = numberOf(draft.power) ?? undefined;
  const since = numberOf(draft.tuneSince) ?? undefined;
  return {
    tune: {
      ...(power === undefined
        ? {}
        : { power_kw: Math.round(power * kilowatts[draft.powerUnit] * 100) / 100 }),
      quality: draft.tuneQuality,
      ...(since === undefined ? {} : { since: { value: since, unit: draft.unit } }),
      put_back: draft.tunePutBack,
    },
  };
}

/** The candidate that a draft means; none while something is missing or wrong. `base` is what is stored. */
export function candidateOf(
  draft: Draft,
  families: FamilyHead[],
  base?: Candidate,
  settings?: YardSettings | null,
): Candidate | undefined {
  const parsed = shape.safeParse(draft);
  if (!parsed.success) return undefined;
  const d = parsed.data;
  const known = base?.families ?? [];
  const chosen = d.families.map(
    (id) =>
      known.find((r) => r.id === id && !draft.moved.includes(id)) ?? {
        id,
        version: families.find((f) => f.id === id)?.version ?? 1,
      },
  );
  const currency = base?.currency ?? currencyOf(d.families, families, settings);
  // Rates are told in the yard's currency.
  const rates = !base && settings?.currency === currency ? { rates: settings.rates ?? {} } : {};
  const asked = new Set(
    families.filter((f) => d.families.includes(f.id)).flatMap((f) => f.facts.map((x) => x.id)),
  );
  const facts = Object.fromEntries(Object.entries(draft.facts).filter(([k, v]) => v !== "" && asked.has(k)));
  const serials = Object.fromEntries(
    Object.entries(draft.serials).filter(([family, v]) => v.trim() !== "" && d.families.includes(family)),
  );
  const candidate: Candidate = {
    ...(base ?? {
      format: "ticksage-candidate/2",
      as_of: today(),
      past_use: {},
      provenance: [],
      readings: [],
      ledger: [],
      comparables: [],
      findings: [],
      papers_seen: false,
    }),
    ...tuneOf(draft),
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
      ...rates,
      ...base?.buyer,
      labour: draft.labour,
      parts: draft.parts,
    },
  };
  return candidate;
}

export const blank: Draft = {
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
  answers: {},
  builtOpen: false,
  builtName: "",
  changing: undefined,
  moved: [],
  labour: "independent",
  parts: "equivalent",
  tuned: "no",
  power: "",
  powerUnit: "kW",
  tuneQuality: "unknown",
  tuneSince: "",
  tunePutBack: false,
};

/** The draft of a stored candidate. */
export function draftOf(c: Candidate): Draft {
  const parts = c.buyer?.parts;
  return {
    ...blank,
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
    ...(c.tune && {
      tuned: "yes" as const,
      power: c.tune.power_kw == null ? "" : String(c.tune.power_kw),
      tuneQuality: c.tune.quality ?? "unknown",
      tuneSince: c.tune.since == null ? "" : String(c.tune.since.value),
      tunePutBack: c.tune.put_back ?? false,
    }),
  };
}
