import { readBack } from "../lib/format";

/** A field for a number as people type it; how it is understood stands below where that could be doubted. */
export function Figure({
  text,
  onType,
  invalid = false,
}: {
  text: string;
  onType: (text: string) => void;
  invalid?: boolean;
}) {
  const read = readBack(text);
  return (
    <>
      <input
        className="field reading"
        inputMode="decimal"
        value={text}
        aria-invalid={invalid}
        onChange={(e) => onType(e.target.value)}
      />
      {read && <span className="block text-sm text-soft">{read}</span>}
    </>
  );
}
