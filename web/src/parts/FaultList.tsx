import type { Fault } from "../lib/api";

/** Every fault with the path to it. */
export function FaultList({ faults }: { faults: Fault[] }) {
  if (faults.length === 0) return null;
  return (
    <ul className="mt-1 list-disc pl-5">
      {faults.map((f, i) => (
        <li key={i}>
          {f.path && <b className="sign">{f.path} </b>}
          {f.message}
        </li>
      ))}
    </ul>
  );
}
