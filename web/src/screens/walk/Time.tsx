import { useState } from "react";
import type { Action, Walk, WalkPlan } from "../../lib/api";
import { money, whole } from "../../lib/format";

const leftOutWord: Record<string, string> = {
  dropped: "left out by you",
  no_lift: "needs a lift, or stands on firm ground",
  no_drive: "needs a drive first, and there is no time for one",
  no_longer_cold: "needs it cold, and it has been driven",
  not_its_fee: "a workshop’s job; so far not worth its fee",
  dangerous: "not before what is dangerous has been mended",
  no_time: "more telling ones take the time",
};

const budgets = [20, 45, 90];

/** How much time there is, and whether anything can be lifted. */
export function TimeThereIs({
  walk,
  plan,
  onPlan,
  pending,
}: {
  walk: Walk;
  plan: WalkPlan;
  onPlan: (plan: WalkPlan) => void;
  pending: boolean;
}) {
  const [own, setOwn] = useState(plan.minutes && !budgets.includes(plan.minutes) ? String(plan.minutes) : "");
  const [noLift, setNoLift] = useState(plan.no_lift ?? false);
  const minutes = Number(own.replace(",", "."));
  const good = own.trim() !== "" && Number.isFinite(minutes) && minutes > 0 && minutes <= 1440;
  const key = "btn px-3 aria-pressed:border-sea aria-pressed:bg-sea aria-pressed:text-on-sea";
  return (
    <section aria-label="Time at the vehicle" className="mt-2 border-y-2 border-ink py-2">
      <div className="flex flex-wrap items-end gap-2">
        <span className="sign basis-full text-[1.05rem] leading-none font-semibold sm:basis-auto sm:self-center">
          Time at the vehicle
        </span>
        {budgets.map((b) => (
          <button
            key={b}
            type="button"
            className={key}
            aria-pressed={plan.minutes === b}
            disabled={pending}
            onClick={() => onPlan({ ...plan, minutes: b })}
          >
            {b} min
          </button>
        ))}
        <button
          type="button"
          className={key}
          aria-pressed={plan.minutes === null || plan.minutes === undefined}
          disabled={pending}
          onClick={() => onPlan({ ...plan, minutes: null })}
        >
          All it takes
        </button>
        <form
          className="flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (good) onPlan({ ...plan, minutes });
          }}
        >
          <input
            className="field w-20!"
            inputMode="decimal"
            aria-label="Own minutes"
            placeholder="own"
            value={own}
            aria-invalid={own !== "" && !good}
            onChange={(e) => setOwn(e.target.value)}
          />
          <button type="submit" className="btn px-3" disabled={!good || pending}>
            min
          </button>
        </form>
        <label className="flex min-h-11 items-center gap-2">
          <input
            type="checkbox"
            className="h-6 w-6 accent-(--sea)"
            checked={noLift}
            disabled={pending}
            onChange={(e) => {
              setNoLift(e.target.checked);
              onPlan({ ...plan, no_lift: e.target.checked });
            }}
          />
          No lift, no stands
        </label>
      </div>
      <p className="mt-1" data-testid="time-left">
        {walk.budget === null || walk.budget === undefined ? (
          <>
            <b className="reading">{whole(walk.all)}</b> min for all that can be done at it.
          </>
        ) : (
          <>
            <b className="reading">{whole(walk.left)}</b> min planned of the{" "}
            <b className="reading">{whole(Math.max(0, walk.budget - walk.spent))}</b> left of your{" "}
            {whole(walk.budget)}
            {walk.spent > 0 && ` (${whole(walk.spent)} went into what is done)`}; everything would take{" "}
            {whole(walk.all)}. What is chosen tells most for its time.
          </>
        )}
      </p>
    </section>
  );
}

/** What is not in the plan, and why. */
export function LeftOut({
  actions,
  nameOf,
  onAdd,
  pending,
}: {
  actions: Action[];
  nameOf: (a: Action) => string;
  onAdd: (a: Action) => void;
  pending: boolean;
}) {
  if (actions.length === 0) return null;
  return (
    <section className="mt-6" aria-label="Left out">
      <h2 className="stretch">Left out ({actions.length})</h2>
      <ul data-testid="left-out">
        {actions.map((a) => (
          <li key={a.key} className="flex flex-wrap items-center gap-x-3 border-b border-rule">
            <span className="min-w-0 flex-1 leading-tight">
              <span className="sign text-[1.15rem] font-semibold">{nameOf(a)}</span>
              <span className="block text-[0.92rem] text-soft">
                {a.minutes} min; {leftOutWord[a.left_out ?? ""] ?? ""}
                {a.moves >= 1 && `; could move the bill by ${money(a.moves)}`}
              </span>
            </span>
            {a.left_out !== "no_longer_cold" && a.left_out !== "dangerous" && (
              <button type="button" className="btn btn-quiet" disabled={pending} onClick={() => onAdd(a)}>
                Put it in
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
