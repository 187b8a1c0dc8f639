import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import {
  api,
  ApiError,
  type CandidateView,
  type Finding,
  type Measured,
  type TypedReading,
} from "../../lib/api";
import { useQuiet } from "../../lib/hooks";
import { figure, type CheckEntry, type Extra, type Result } from "./common";

const UNITS = "ticksage.units";
/** Places shown before the person asks for more. */
const FEW = 4;

/** The unit a person last read something in, by the check's own. */
function usualUnit(own: string): string {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(UNITS) ?? "{}");
    const unit = typeof kept === "object" && kept !== null ? (kept as Record<string, unknown>)[own] : null;
    return typeof unit === "string" ? unit : own;
  } catch {
    return own;
  }
}

function keepUnit(own: string, unit: string) {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(UNITS) ?? "{}");
    localStorage.setItem(UNITS, JSON.stringify({ ...(kept as object), [own]: unit }));
  } catch {
    // Without storage the unit is chosen again next time.
  }
}

/** What a measured check comes to, place by place. */
function Comes({ told, entry }: { told: Measured; entry: CheckEntry }) {
  const { measure, outcomes } = entry.check;
  const label = outcomes[told.outcome]?.label ?? "";
  const single = told.places.length < 2 && (measure?.by === undefined || measure.by.kind === "single");
  return (
    <p data-testid="comes-to">
      {!single && (
        <>
          {measure?.quantity} <b className="reading text-xl">{figure(told.reading)}</b> {measure?.unit}:{" "}
        </>
      )}
      <b className="sign text-xl">{label}</b>
    </p>
  );
}

/** How the bands of a check lie, in words. */
function bands(entry: CheckEntry): string {
  const m = entry.check.measure;
  if (!m) return "";
  return `Bands at ${m.limits.map(String).join(" and ")} ${m.unit}; ${m.source}.`;
}

/** The fields of a measured check; worked out while they are filled. */
export function Reading({
  view,
  entry,
  held,
  onOutcome,
  blocked,
}: {
  view: CandidateView;
  entry: CheckEntry;
  held: Finding | undefined;
  onOutcome: (entry: CheckEntry, result: Result, extra: Extra) => void;
  blocked: boolean;
}) {
  const { check, family, fields } = entry;
  const own = fields.map((f) => f.units[0] ?? "");
  const [texts, setTexts] = useState<string[]>(() =>
    fields.map(
      (_, i) =>
        held?.inputs?.[i]?.text ?? (i === 0 && fields.length === 1 ? (held?.reading?.toString() ?? "") : ""),
    ),
  );
  const [units, setUnits] = useState<string[]>(() =>
    fields.map((_, i) => held?.inputs?.[i]?.unit || usualUnit(own[i] ?? "")),
  );
  const inputs: TypedReading[] = fields.map((_, i) => ({
    text: (texts[i] ?? "").trim(),
    unit: units[i] ?? "",
  }));
  const quiet = useQuiet(JSON.stringify(inputs), 250);
  const complete = fields.every((f, i) => f.optional || inputs[i]?.text !== "");
  const any = inputs.some((x) => x.text !== "");
  const told = useQuery({
    queryKey: ["measure", view.id, family, check.id, quiet],
    queryFn: () => api.measure(view.id, family, check.id, JSON.parse(quiet) as TypedReading[]),
    enabled: any && complete,
    retry: false,
    staleTime: Infinity,
  });
  const refusal = told.error instanceof ApiError ? told.error : null;
  const offline = refusal?.passing ?? false;
  const faultAt = (i: number) =>
    offline ? undefined : refusal?.faults.find((f) => f.path === `/inputs/${i}`);
  // Without a connection the reading is kept as typed, and worked out when it is sent.
  const ready = any && complete && !blocked && (told.data !== undefined || offline);
  const same = fields.length > 0 && fields.every((f) => f.units.join() === fields[0]?.units.join());
  const choices = same ? [0] : fields.map((_, i) => i);
  const setUnit = (i: number, unit: string) => {
    keepUnit(own[i] ?? "", unit);
    setUnits(units.map((u, k) => ((same ? true : k === i) ? unit : u)));
  };
  const many = fields.length > 2;
  // Sheets list every place that there may be: most engines have four cylinders.
  const [all, setAll] = useState(false);
  const last = texts.findLastIndex((t) => t !== "") + 1;
  const shown =
    all || fields.length <= FEW + 2 || fields.some((f) => !f.optional) ? fields.length : Math.max(FEW, last);
  return (
    <form
      className="mt-2 border-y border-rule py-2"
      aria-label={`Reading of ${check.name}`}
      onSubmit={(e) => {
        e.preventDefault();
        if (ready) onOutcome(entry, { kind: "measured" }, { inputs });
      }}
    >
      <div
        className={`grid gap-x-3 gap-y-2 ${many ? "grid-cols-2 sm:grid-cols-3 xl:grid-cols-4" : "grid-cols-2"}`}
      >
        {fields.slice(0, shown).map((f, i) => {
          const fault = faultAt(i);
          return (
            <label key={f.name} className={`block ${many ? "" : "col-span-2 sm:col-span-1"}`}>
              <span className="sign block text-base leading-tight font-semibold first-letter:uppercase">
                {f.name}
                {f.units.length === 1 && `, ${f.units[0] ?? ""}`}
              </span>
              <input
                className="field reading"
                inputMode={f.units.length === 0 ? "text" : "decimal"}
                placeholder={f.units.length === 0 ? "3519" : f.optional ? "—" : ""}
                autoComplete="off"
                value={texts[i] ?? ""}
                aria-invalid={fault !== undefined}
                aria-describedby={fault ? `fault-${family}-${check.id}` : undefined}
                onChange={(e) => setTexts(texts.map((t, k) => (k === i ? e.target.value : t)))}
              />
            </label>
          );
        })}
        {shown < fields.length && (
          <button type="button" className="btn self-end" onClick={() => setAll(true)}>
            {fields.length - shown} more places
          </button>
        )}
        {choices.map((i) => {
          const list = fields[i]?.units ?? [];
          if (list.length < 2) return null;
          return (
            <label key={`unit-${i}`} className="block">
              <span className="sign text-base leading-tight font-semibold">
                {same ? "Read in" : `${fields[i]?.name ?? ""} in`}
              </span>
              <select className="field" value={units[i]} onChange={(e) => setUnit(i, e.target.value)}>
                {list.map((u) => (
                  <option key={u}>{u}</option>
                ))}
              </select>
            </label>
          );
        })}
      </div>
      <div className="mt-2 flex min-h-12 flex-wrap items-center gap-x-4 gap-y-1">
        <button type="submit" className="btn btn-main" disabled={!ready}>
          Enter reading
        </button>
        <div className="min-w-0 flex-1" aria-live="polite">
          {told.data && <Comes told={told.data} entry={entry} />}
          {offline && any && <p>No connection: kept as typed, and worked out when it is sent.</p>}
          {refusal && !offline && (
            <p id={`fault-${family}-${check.id}`} role="alert" className="text-caution">
              {refusal.faults.map((f) => f.message).join("; ") || refusal.message}
            </p>
          )}
        </div>
      </div>
      <p className="text-[0.92rem] text-soft">{bands(entry)}</p>
    </form>
  );
}
