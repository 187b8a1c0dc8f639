import { useMemo } from "react";
import type { Due } from "../../lib/api";
import { makeAxis, type Axis } from "../../charts/axis";
import { useWidth } from "../../lib/hooks";
import { Flag, Peg } from "../../charts/Road";
import { useDesk } from "./common";
import { lateAtMost } from "../../lib/words";
import { clockUnit, day, money, percent, span, usage, whole } from "../../lib/format";

/** One interval on the road: when it was done, how long that holds, and how far it is overdue. */
function WorkStrip({ due, axis }: { due: Due; axis: Axis }) {
  const start = axis.x(due.last ?? 0);
  const flag = axis.x(Math.min(due.usage, axis.last));
  const now = axis.x(axis.now);
  const late = due.overdue;
  const end = Math.min(axis.x(Math.min(due.usage, axis.end)), axis.width);
  return (
    <svg width={axis.width} height={40} aria-hidden="true" className="block overflow-visible">
      <line x1={0} x2={axis.width} y1={20} y2={20} stroke="var(--rule)" strokeWidth="2" />
      <rect
        x={start}
        y={16}
        width={Math.max(1, Math.min(end, late ? flag : end) - start)}
        height={8}
        fill="var(--ink)"
      />
      {late && (
        <g stroke="var(--ink)" strokeWidth="2">
          <rect x={flag} y={14} width={Math.max(2, now - flag)} height={12} fill="var(--paper)" />
          {Array.from({ length: Math.max(1, Math.floor((now - flag) / 8)) }, (_, i) => (
            <line key={i} x1={flag + i * 8 + 2} x2={flag + i * 8 + 8} y1={26} y2={14} />
          ))}
        </g>
      )}
      {due.said.map((s, i) => (
        <Peg key={i} x={axis.x(s.usage)} y={20} proved={s.proved} />
      ))}
      {due.usage <= axis.last && <Flag x={flag} y={16} overdue={late} />}
      <line x1={now} x2={now} y1={4} y2={36} stroke="var(--sea)" strokeWidth="3" />
    </svg>
  );
}

function every(d: Due, unit: string): string {
  const parts = [
    d.every_usage ? `${whole(d.every_usage)} ${unit}` : "",
    d.every_years ? span(d.every_years) : "",
  ].filter(Boolean);
  return parts.join(" or ");
}

export function Work() {
  const { view } = useDesk();
  const { assessment } = view;
  const { due, clock, bill } = assessment;
  const unit = clockUnit(clock);
  const [ref, width] = useWidth<HTMLDivElement>();
  const axis = useMemo(
    () => makeAxis(Math.max(width, 60), assessment.usage_now, assessment.horizon, clock),
    [width, assessment.usage_now, assessment.horizon, clock],
  );
  const sorted = [...due].sort((a, b) => b.now - a.now || a.usage - b.usage);
  const lateBy = (d: Due) => {
    const over = assessment.usage_now - d.usage;
    const years = (Date.parse(assessment.as_of) - Date.parse(d.date)) / (365.25 * 864e5);
    return d.by === "age"
      ? `by ${span(Math.max(years, 0))}`
      : `by ${usage(Math.max(over, 0), unit, clock === "km" ? 100 : 1)}`;
  };
  return (
    <section aria-label="Scheduled work">
      <h2 className="text-2xl">Scheduled work</h2>
      <p>
        {due.length === 0
          ? "The sheets of its families schedule nothing on it."
          : bill.overdue >= 0.5
            ? `About ${money(bill.overdue)} ${assessment.currency} of it is overdue so far as papers show, and counts at once; ${money(bill.scheduled - bill.overdue)} more falls due within your plan.`
            : `Nothing is overdue; about ${money(bill.scheduled)} ${assessment.currency} falls due within your plan.`}{" "}
        An interval says when work is due, not when a part would fail.
      </p>
      <div ref={ref} aria-hidden="true" />
      <ul className="mt-2" data-testid="work">
        {sorted.map((d) => (
          <li key={`${d.family}/${d.interval}`} className="border-b border-rule py-2">
            <div className="flex flex-wrap items-baseline justify-between gap-x-4 leading-tight">
              <h3 className="sign text-[1.2rem] font-bold">
                {d.name} <span className="text-[1rem] font-normal text-soft">every {every(d, unit)}</span>
              </h3>
              <p className="sign text-[1.1rem] font-semibold">
                {d.overdue ? (
                  <span className={lateAtMost(d) ? "" : "border-2 border-ink px-1.5"}>
                    {lateAtMost(d) ? "perhaps overdue" : `overdue ${lateBy(d)}`}
                  </span>
                ) : (
                  `due ${d.by === "age" ? day(d.date, "month") : `at ${usage(d.usage, unit, clock === "km" ? 100 : 1)}`}`
                )}
              </p>
            </div>
            {width > 60 && <WorkStrip due={d} axis={axis} />}
            <p className="flex flex-wrap gap-x-5 text-[0.95rem] leading-snug">
              <span>
                {d.said.length === 0 ? (
                  "Nothing says it was ever done."
                ) : (
                  <>
                    Last {d.last === null || d.last === undefined ? "said" : "believed"}{" "}
                    {usage(d.last ?? d.said[0]?.usage ?? 0, unit)}.
                  </>
                )}
              </span>
              <span>
                {lateAtMost(d) ? "Nothing is due" : "In date"} with a chance of{" "}
                <b className="reading">{percent(d.chance_done)}</b>.
              </span>
              <span>
                Costs <b className="reading">{money(d.cost.mean)}</b>; counts{" "}
                <b className="reading">{money(d.now)}</b> at once
                {d.in_plan >= 0.5 && (
                  <>
                    {" "}
                    and <b className="reading">{money(d.in_plan)}</b> within your plan
                  </>
                )}
                .
              </span>
            </p>
          </li>
        ))}
      </ul>
      <p className="mt-3 text-sm text-soft">
        Estimates from stated assumptions. Work that is renewed within your plan is paid for here; that it
        also prevents failures is not counted yet. The maker’s book and a licensed technician take precedence.
      </p>
    </section>
  );
}
