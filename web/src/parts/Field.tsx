import type { ReactNode } from "react";

/** A labelled field with its error, or a hint. */
export function Field({
  label,
  error,
  hint,
  children,
}: {
  label: string;
  error?: string | undefined;
  hint?: string | undefined;
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
