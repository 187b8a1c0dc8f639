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
  least = 0,
  most = 10_000_000,
}: {
  label: string;
  value: number | undefined;
  onChange: (x: number) => void;
  least?: number;
  most?: number;
}) {
  const [typed, setTyped] = useState<string>();
  const [before, setBefore] = useState(value);
  if (before !== value) {
    setBefore(value);
    setTyped(undefined);
  }
  const read = typed === undefined ? undefined : Number(typed.replace(/[\s,’']/g, ""));
  const wrong =
    read !== undefined && (typed?.trim() === "" || !Number.isFinite(read) || read < least || read > most);
  return (
    <label className="inline-flex flex-col">
      <span className="sr-only">{label}</span>
      <input
        className="field reading w-28"
        inputMode="decimal"
        aria-label={label}
        aria-invalid={wrong}
        value={typed ?? (value === undefined ? "" : inThrees(Math.round(value * 100) / 100))}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={() => {
          if (read !== undefined && !wrong && read !== value) onChange(read);
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
      className="field w-auto"
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
