// The draft of a sheet on this device.

import { useEffect, useReducer } from "react";
import type { Family } from "../../lib/api";
import { step, type Drafting } from "./draft";

const keyOf = (id: string) => `ticksage.sheet.${id}`;

/** What was kept on this device. */
function kept(id: string): Drafting | undefined {
  try {
    const text = localStorage.getItem(keyOf(id));
    return text === null ? undefined : (JSON.parse(text) as Drafting);
  } catch {
    return undefined;
  }
}

export function useDraft(base: Family) {
  const [state, dispatch] = useReducer(
    step(base),
    undefined,
    () => kept(base.id) ?? { from: base.version, past: [], now: undefined, future: [] },
  );
  useEffect(() => {
    const key = keyOf(base.id);
    if (state.past.length === 0 && state.future.length === 0) {
      localStorage.removeItem(key);
      return;
    }
    // The sheet itself first; as many steps back as the device holds.
    for (const steps of [40, 8, 0]) {
      try {
        localStorage.setItem(
          key,
          JSON.stringify({ ...state, past: state.past.slice(-steps), future: state.future.slice(0, steps) }),
        );
        return;
      } catch {
        localStorage.removeItem(key);
      }
    }
  }, [base.id, state]);
  return {
    sheet: state.now ?? base,
    from: state.now ? state.from : base.version,
    drafted: state.past.length > 0,
    steps: state.past.length,
    canRedo: state.future.length > 0,
    edit: (sheet: Family) => dispatch({ kind: "edit", sheet }),
    undo: () => dispatch({ kind: "undo" }),
    redo: () => dispatch({ kind: "redo" }),
    drop: () => dispatch({ kind: "drop" }),
  };
}
