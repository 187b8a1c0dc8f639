import { useMutation } from "@tanstack/react-query";
import { api, type Moved } from "../../lib/api";
import { useFreshView } from "../../lib/hooks";
import { useDesk, usePaperMutations, type Told } from "./common";
import { clockUnit, money, percent, signed, usage } from "../../lib/format";
import { verdictWord } from "../../lib/words";
import { Trouble } from "../../parts/Trouble";

/** What moved, in plain words, the most telling first. */
export function movedSays(moved: Moved, clock: "km" | "hours"): string[] {
  const out: string[] = [];
  if (Math.abs(moved.usage.by) > 1)
    out.push(
      `judged at ${usage(moved.usage.after, clockUnit(clock))}, not ${usage(moved.usage.before, clockUnit(clock))}`,
    );
  const point = moved.points.find((p) => percent(p.chance.before) !== percent(p.chance.after));
  if (point)
    out.push(
      `${point.name}: ${percent(point.chance.before)} → ${percent(point.chance.after)} within your plan` +
        (moved.points.length > 1 ? `, ${moved.points.length - 1} more moved` : ""),
    );
  const work = moved.work[0];
  if (work && Math.abs(work.done.by) >= 0.005)
    out.push(`${work.name}: in date ${percent(work.done.before)} → ${percent(work.done.after)}`);
  if (Math.abs(moved.care.by) >= 0.01)
    out.push(`kept well: ${percent(moved.care.before)} → ${percent(moved.care.after)}`);
  if (moved.blockers.by < -0.5) out.push("a blocker cleared");
  if (moved.blockers.by > 0.5) out.push("a blocker raised");
  return out;
}

export function movedNothing(moved: Moved): boolean {
  return (
    Math.abs(moved.bill.by) < 0.5 &&
    Math.abs(moved.limit.by) < 0.5 &&
    moved.points.length === 0 &&
    Math.abs(moved.blockers.by) < 0.5 &&
    moved.verdict_before === moved.verdict_after
  );
}

/** The money of it: the bill, what it is worth, the verdict. */
export function MovedMoney({ moved }: { moved: Moved }) {
  return (
    <span className="sign text-[1.1rem]">
      bill <b className="reading">{signed(moved.bill.by)}</b>
      <span className="text-soft"> to {money(moved.bill.after)}</span>, worth to you{" "}
      <b className="reading">{signed(moved.limit.by)}</b>
      {moved.verdict_before !== moved.verdict_after && (
        <>
          ; {verdictWord[moved.verdict_before]} → <b>{verdictWord[moved.verdict_after]}</b>
        </>
      )}
    </span>
  );
}

/** The line that tells what the last entry moved. It keeps its room, so that nothing jumps. */
export function ToldLine({ told }: { told: Told | null }) {
  const { view } = useDesk();
  const { undo } = usePaperMutations();
  const { tell } = useDesk();
  const fresh = useFreshView();
  const back = useMutation({
    mutationFn: async (before: NonNullable<Told["before"]>) => {
      const stored = await api.edit(view.id, view.version, before);
      return { stored, moved: await api.compare(view.candidate, stored.candidate) };
    },
    onSuccess: ({ stored, moved }) => {
      fresh(stored);
      tell({ says: "Put back", moved, stored: [], undone: false, before: view.candidate });
    },
  });
  if (!told)
    return (
      <p className="flex min-h-[4.2rem] items-center border-l-8 border-rule-strong bg-sunk px-3 py-1 text-[0.95rem] leading-snug text-soft lg:min-h-[3.4rem]">
        What you enter moves the road above, the bill and the verdict. How far, it says here.
      </p>
    );
  const { moved } = told;
  const words = movedSays(moved, view.assessment.clock);
  const before = told.before;
  return (
    <div
      role="status"
      data-testid="moved"
      className="min-h-[4.2rem] border-l-8 border-sea bg-sunk px-3 py-1 leading-snug lg:min-h-[3.4rem]"
    >
      <div className="flex flex-wrap items-center justify-between gap-x-4">
        <p className="min-w-0 flex-1">
          <b className="sign text-[1.1rem]">{told.says}. </b>
          {movedNothing(moved) ? (
            <span>It moves nothing worth telling.</span>
          ) : (
            <>
              {words.length > 0 && <span>{words.join("; ")}; </span>}
              <MovedMoney moved={moved} />.
            </>
          )}
        </p>
        {(told.stored.length > 0 || before) && (
          <button
            type="button"
            className="btn px-3"
            disabled={undo.isPending || back.isPending}
            data-testid="take-back"
            onClick={() =>
              before
                ? back.mutate(before)
                : undo.mutate({
                    papers: told.stored,
                    undone: !told.undone,
                    says: told.undone ? "In force again" : "Taken back",
                  })
            }
          >
            {told.undone ? "Put in force again" : "Take it back"}
          </button>
        )}
      </div>
      <Trouble error={undo.error ?? back.error} />
    </div>
  );
}
