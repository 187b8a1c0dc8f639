import type { Fault } from "../../lib/api";
import { FaultList } from "../../parts/FaultList";

/** A refusal, with the faults that belong to no field. */
export function Refused({ error, rest }: { error: Error | null; rest: Fault[] }) {
  if (!error) return null;
  return (
    <div role="alert" className="mt-3 border-2 border-caution bg-caution-bg p-3 text-caution">
      <p className="font-bold">{error.message}</p>
      <FaultList faults={rest} />
    </div>
  );
}
