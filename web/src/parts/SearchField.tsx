/** A field in which part of a name is typed. */
export function SearchField({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (typed: string) => void;
}) {
  return (
    <label className="block grow">
      <span className="sign text-[1.1rem] font-semibold">{label}</span>
      <input
        type="search"
        className="field"
        placeholder="part of a name"
        value={value}
        onChange={(e) => onChange(e.target.value)}
      />
    </label>
  );
}
