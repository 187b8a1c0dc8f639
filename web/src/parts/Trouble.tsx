import { ApiError } from "../lib/api";
import { FaultList } from "./FaultList";

/** Why something could not be stored; what was typed still stands. */
export function Trouble({ error }: { error: Error | null }) {
  if (!error) return null;
  return (
    <div role="alert" className="mt-2 border-2 border-caution bg-caution-bg p-3 text-caution">
      <p className="font-bold">{error.message}</p>
      {error instanceof ApiError && <FaultList faults={error.faults.length > 1 ? error.faults : []} />}
    </div>
  );
}
