import type { Assessment, Summary, UsageClock, YearMark } from "../lib/api";
import { makeAxis, sharedAxis, usageTicks, yearTicks, type Axis } from "./axis";
import { useWidth } from "../lib/hooks";
import { clockUnit, money, usage, whole } from "../lib/format";

interface RoadData {
  clock: UsageClock;
  now: number;
  horizon: number;
  years: YearMark[];
  renewals: { usage: number; proved: boolean }[];
  due?: { usage: number; overdue: boolean }[];
  spend: number[];
  spendNow: number;
}

/** The road of a judgement, with the renewals of its points. */
export function roadOf(
  a: Assessment,
  points: { renewals?: { usage: number; proved: boolean }[] }[] = a.points ?? [],
): RoadData {
  const renewals = points.flatMap((p) =>
    (p.renewals ?? []).map((r) => ({ usage: r.usage, proved: r.proved })),
  );
  const seen = new Map(renewals.map((r) => [r.usage, r]));
  return {
    clock: a.clock,
    now: a.usage_now,
    horizon: a.horizon,
    years: a.years,
    renewals: [...seen.values()],
    due: a.due,
    spend: a.bill.spend,
    spendNow: a.bill.now,
  };
}

export function roadOfSummary(s: Summary): RoadData {
  const { strip } = s;
  return { ...strip, spendNow: strip.spend_now };
}

/** The road itself: driven solid, planned open with its centre line, beyond dotted. */
function Surface({ axis, y, height }: { axis: Axis; y: number; height: number }) {
  const now = axis.x(axis.now);
  const end = axis.x(axis.end);
  const middle = y + height / 2;
  return (
    <g>
      <rect x={0} y={y} width={now} height={height} fill="var(--ink)" />
      <rect
        x={now}
        y={y}
        width={end - now}
        height={height}
        fill="var(--raised)"
        stroke="var(--ink)"
        strokeWidth="2"
      />
      <line
        x1={now + 6}
        x2={end - 4}
        y1={middle}
        y2={middle}
        stroke="var(--ink)"
        strokeWidth="2"
        strokeDasharray="10 7"
      />
      <line
        x1={Math.min(end + 4, axis.width)}
        x2={axis.width}
        y1={middle}
        y2={middle}
        stroke="var(--rule-strong)"
        strokeWidth="2"
        strokeDasharray="2 5"
      />
    </g>
  );
}

/** A renewal: solid head when proved, broken when only said. */
export function Peg({ x, y, proved }: { x: number; y: number; proved: boolean }) {
  return (
    <g>
      <line x1={x} x2={x} y1={y} y2={y + 9} stroke="var(--ink)" strokeWidth="2" />
      <path
        d={`M${x} ${y + 7}l5 5-5 5-5-5z`}
        fill={proved ? "var(--ink)" : "var(--paper)"}
        stroke="var(--ink)"
        strokeWidth="1.6"
        strokeDasharray={proved ? undefined : "2.2 1.8"}
      />
    </g>
  );
}

/** Scheduled work due: a pennant; hollow when it is overdue. */
export function Flag({ x, y, overdue }: { x: number; y: number; overdue: boolean }) {
  return (
    <path
      d={`M${x} ${y}v-13h10l-3.5 3.5 3.5 3.5h-10`}
      fill={overdue ? "var(--paper)" : "var(--sea)"}
      stroke={overdue ? "var(--ink)" : "var(--sea)"}
      strokeWidth="2"
      strokeLinejoin="round"
    />
  );
}

/** Money that leaves along the plan, as a bank of bars under the road. */
function Spend({
  axis,
  data,
  y,
  height,
  most,
}: {
  axis: Axis;
  data: RoadData;
  y: number;
  height: number;
  /** What the tallest bar stands for, where several roads share it. */
  most?: number | undefined;
}) {
  const top = most ?? Math.max(...data.spend, 1);
  const width = (axis.x(axis.end) - axis.x(axis.now)) / data.spend.length;
  return (
    <g fill="var(--sea)">
      {data.spend.map((s, i) => {
        const h = Math.max(1, (s / top) * height);
        return (
          <rect
            key={i}
            x={axis.x(axis.now) + i * width}
            y={y + height - h}
            width={Math.max(1, width - 1)}
            height={h}
          />
        );
      })}
    </g>
  );
}

/** The axis of a candidate, with usage above, years below and the money that leaves. */
export function RoadHeader({ data, width }: { data: RoadData; width: number }) {
  if (width < 40) return <div style={{ height: 114 }} />;
  const axis = makeAxis(width, data.now, data.horizon, data.clock);
  const unit = clockUnit(data.clock);
  const thousands = data.clock === "km";
  const now = axis.x(axis.now);
  const end = axis.x(axis.end);
  const label = `From build to ${usage(data.now, unit)} now, and ${usage(data.horizon, unit, 100)} of plan to come.`;
  return (
    <svg width={width} height={114} role="img" aria-label={label} className="block overflow-visible">
      <g className="sign" fontSize="15" fill="var(--ink)">
        {usageTicks(axis, 54).map((t) => {
          const x = axis.x(t);
          const nearNow = Math.abs(x - now) < 62 || Math.abs(x - end) < 24;
          return (
            <g key={t}>
              <line x1={x} x2={x} y1={26} y2={33} stroke="var(--ink)" strokeWidth="1.5" />
              {!nearNow && (
                <text x={Math.max(x, 5)} y={20} textAnchor="middle">
                  {thousands ? whole(t / 1000) : whole(t)}
                </text>
              )}
            </g>
          );
        })}
        <text x={width} y={20} textAnchor="end" fill="var(--ink-soft)" fontSize="14">
          {thousands ? "1000 km" : "hours"}
        </text>
      </g>
      <Surface axis={axis} y={33} height={16} />
      <g className="reading" fontSize="16">
        <rect x={now - 40} y={2} width={80} height={22} rx={3} fill="var(--sea)" />
        <text x={now} y={18.5} textAnchor="middle" fill="var(--on-sea)">
          {usage(data.now, unit, thousands ? 100 : 10)}
        </text>
        <path d={`M${now - 6} 24h12l-6 9z`} fill="var(--sea)" />
      </g>
      <g>
        {data.renewals.map((r) => (
          <Peg key={r.usage} x={axis.x(r.usage)} y={49} proved={r.proved} />
        ))}
      </g>
      {data.due
        ?.filter((d) => !d.overdue && d.usage <= axis.last)
        .map((d, i) => (
          <Flag key={i} x={axis.x(d.usage)} y={63} overdue={d.overdue} />
        ))}
      <g className="sign" fontSize="14" fill="var(--ink-soft)">
        {yearTicks(axis, data.years, 40).map((y) => (
          <g key={y.year}>
            <line x1={axis.x(y.usage)} x2={axis.x(y.usage)} y1={49} y2={54} stroke="var(--rule-strong)" />
            <text x={axis.x(y.usage)} y={80} textAnchor="middle">
              {y.year}
            </text>
          </g>
        ))}
      </g>
      <Spend axis={axis} data={data} y={86} height={22} />
      <line x1={now} x2={end} y1={109} y2={109} stroke="var(--ink)" />
      <text x={now - 8} y={94} textAnchor="end" className="sign" fontSize="14" fill="var(--ink-soft)">
        money
      </text>
      <text x={now - 8} y={108} textAnchor="end" className="sign" fontSize="14" fill="var(--ink-soft)">
        leaving
      </text>
      {data.spendNow >= 0.5 && width > 500 && (
        <text x={now - 62} y={108} textAnchor="end" className="reading" fontSize="15" fill="var(--ink)">
          {money(data.spendNow)} at once, then
        </text>
      )}
    </svg>
  );
}

/** The strip in small, for lists. */
export function RoadThumb({ data, label }: { data: RoadData; label: string }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  return (
    <div ref={ref} className="w-full" style={{ height: 74 }}>
      {width > 40 && <Thumb data={data} width={width} label={label} />}
    </div>
  );
}

function Thumb({ data, width, label }: { data: RoadData; width: number; label: string }) {
  const axis = makeAxis(width, data.now, data.horizon, data.clock);
  const unit = clockUnit(data.clock);
  const now = axis.x(axis.now);
  const end = axis.x(axis.end);
  const years = yearTicks(axis, data.years, 46).filter((y) => Math.abs(axis.x(y.usage) - now) > 56);
  return (
    <svg width={width} height={74} role="img" aria-label={label} className="block overflow-visible">
      <Spend axis={axis} data={data} y={0} height={22} />
      <Surface axis={axis} y={24} height={12} />
      {data.renewals.map((r) => (
        <Peg key={r.usage} x={axis.x(r.usage)} y={36} proved={r.proved} />
      ))}
      <line x1={now} x2={now} y1={14} y2={58} stroke="var(--sea)" strokeWidth="3" />
      <g className="sign" fontSize="14" fill="var(--ink-soft)">
        {years.map((y) => (
          <text key={y.year} x={axis.x(y.usage)} y={70} textAnchor="middle">
            {y.year}
          </text>
        ))}
      </g>
      <text x={now} y={71} textAnchor="middle" className="reading" fontSize="15" fill="var(--sea)">
        {usage(data.now, unit, data.clock === "km" ? 100 : 10)}
      </text>
      <line x1={end} x2={end} y1={20} y2={42} stroke="var(--ink)" strokeWidth="2" />
    </svg>
  );
}

/** A road on a scale that several candidates share, with what is spent on the same scale too. */
export function RoadLane({
  data,
  until,
  most,
  label,
}: {
  data: RoadData;
  /** Usage at the right end; its own end where it shares none. */
  until: number | undefined;
  most: number | undefined;
  label: string;
}) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const last = until ?? data.now + data.horizon;
  const axis = sharedAxis(width - 2, data.now, data.horizon, data.clock, last);
  const unit = clockUnit(data.clock);
  const now = axis.x(axis.now);
  const ticks = axis.x
    .ticks(width < 500 ? 3 : 7)
    .filter((t) => axis.x(t) < width - 76 && Math.abs(axis.x(t) - now) > 60);
  return (
    <div ref={ref} className="w-full" style={{ height: 82 }}>
      {width > 40 && (
        <svg width={width} height={82} role="img" aria-label={label} className="block overflow-visible">
          <Spend axis={axis} data={data} y={0} height={26} most={most} />
          <Surface axis={axis} y={28} height={14} />
          {data.renewals.map((r) => (
            <Peg key={r.usage} x={axis.x(r.usage)} y={42} proved={r.proved} />
          ))}
          {data.due
            ?.filter((d) => !d.overdue && d.usage <= axis.end)
            .map((d, i) => (
              <Flag key={i} x={axis.x(d.usage)} y={56} overdue={false} />
            ))}
          <line x1={now} x2={now} y1={18} y2={62} stroke="var(--sea)" strokeWidth="3" />
          <g className="sign" fontSize="14" fill="var(--ink-soft)">
            {ticks.map((t) => (
              <text key={t} x={axis.x(t)} y={76} textAnchor={t === 0 ? "start" : "middle"}>
                {data.clock === "km" ? whole(t / 1000) : whole(t)}
              </text>
            ))}
            <text x={width} y={76} textAnchor="end">
              {data.clock === "km" ? "1000 km" : "hours"}
            </text>
          </g>
          <text
            x={Math.min(Math.max(now, 40), width - 90)}
            y={76}
            textAnchor="middle"
            className="reading"
            fontSize="15"
            fill="var(--sea)"
          >
            {usage(data.now, unit, data.clock === "km" ? 100 : 10)}
          </text>
        </svg>
      )}
    </div>
  );
}
