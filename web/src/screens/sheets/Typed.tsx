// Figures and choices that are edited in place.

import { useState } from "react";

/** Thousands apart, so that nobody counts noughts. */
function inThrees(x: number): string {
  return x < 10_000
    ? String(x)
    : Math.round(x)
        .toString()
        .replace(/(?=(?:\d{3})+$)(?<=\d)/g, " ");
}

/** A figure that is typed; what makes no sense is said and changes nothing. */
export function Figure({
  label,
  value,
  onChange,
  onEmpty,
  least = 0,
  most = 10_000_000,
  grouped = true,
}: {
  label: string;
  value: number | undefined;
  onChange: (x: number) => void;
  /** Where it may be left open: what an empty field means. */
  onEmpty?: () => void;
  least?: number;
  most?: number;
  /** Whether long figures are written in threes; a year is not. */
  grouped?: boolean;
}) {
  const [typed, setTyped] = useState<string>();
  const [before, setBefore] = useState(value);
  if (before !== value) {
    setBefore(value);
    setTyped(undefined);
  }
  const read = typed === undefined ? undefined : Number(typed.replace(/[\s,’']/g, ""));
  const cleared = onEmpty !== undefined && typed?.trim() === "";
  const wrong =
    read !== undefined &&
    !cleared &&
    (typed?.trim() === "" || !Number.isFinite(read) || read < least || read > most);
  const rounded = value === undefined ? undefined : Math.round(value * 100) / 100;
  const shown = rounded === undefined ? "" : grouped ? inThrees(rounded) : String(rounded);
  return (
    <label className="inline-flex flex-col">
      <span className="sr-only">{label}</span>
      <input
        className="field reading w-28"
        inputMode="decimal"
        aria-label={label}
        aria-invalid={wrong}
        value={typed ?? shown}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={() => {
          if (cleared) {
            if (value !== undefined) onEmpty();
          } else if (read !== undefined && !wrong && read !== value) onChange(read);
          if (!wrong) setTyped(undefined);
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
        }}
      />
      {wrong && (
        <span role="alert" className="text-sm font-semibold text-caution">
          A figure from {least} to {most}
        </span>
      )}
    </label>
  );
}

export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (x: T) => void;
}) {
  return (
    <select
      className="field w-auto max-w-72"
      aria-label={label}
      value={value}
      onChange={(e) => onChange(e.target.value as T)}
    >
      {options.map(([id, word]) => (
        <option key={id} value={id}>
          {word}
        </option>
      ))}
    </select>
  );
}

/** A line of text that is typed; an empty one changes nothing. */
export function Text({
  label,
  value,
  onChange,
  most = 240,
  empty = false,
  long = false,
}: {
  label: string;
  value: string | null | undefined;
  onChange: (x: string) => void;
  most?: number;
  /** Whether it may be empty. */
  empty?: boolean;
  /** Whether it is a sentence or two. */
  long?: boolean;
}) {
  const [typed, setTyped] = useState<string>();
  const field = {
    className: "field",
    maxLength: most,
    value: typed ?? value ?? "",
    onChange: (e: { target: { value: string } }) => setTyped(e.target.value),
    onBlur: () => {
      const text = typed?.replace(/\s+/g, " ").trim();
      if (text !== undefined && text !== value && (text !== "" || empty)) onChange(text);
      setTyped(undefined);
    },
    onKeyDown: (e: { key: string; currentTarget: HTMLElement; preventDefault: () => void }) => {
      if (e.key !== "Enter") return;
      e.preventDefault();
      e.currentTarget.blur();
    },
  };
  return (
    <label className="block">
      <span className="text-sm text-soft">{label}</span>
      {long ? <textarea rows={2} {...field} /> : <input {...field} />}
    </label>
  );
}

export function Labelled({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <span className="inline-flex flex-col">
      <span className="text-sm text-soft" aria-hidden="true">
        {label}
      </span>
      {children}
    </span>
  );
}

export interface Range {
  low: number;
  likely: number;
  high: number;
}

/** The least, the likely and the most. */
export function Three({
  label,
  value,
  onChange,
}: {
  label: string;
  value: Range;
  onChange: (x: Range) => void;
}) {
  return (
    <div className="flex flex-wrap items-end gap-2">
      {(["low", "likely", "high"] as const).map((k) => (
        <Labelled key={k} label={`${label}, ${k}`}>
          <Figure
            label={`${label}, ${k}`}
            value={value[k]}
            least={k === "low" ? 0 : k === "likely" ? value.low : value.likely}
            most={k === "low" ? value.likely : k === "likely" ? value.high : undefined}
            onChange={(x) => onChange({ ...value, [k]: x })}
          />
        </Labelled>
      ))}
    </div>
  );
}
