import { useWidth } from "../../lib/hooks";
import { scaleLinear, scaleTime } from "d3-scale";
import { line } from "d3-shape";
import type { Odometer, UsageClock } from "../../lib/api";
import { clockUnit, day, onClock, whole } from "../../lib/format";
import { FootAxis, SideAxis } from "../../charts/Axes";

/** Usage against time: what the clock showed, and the path that is believed. */
export function ClockChart({
  odometer,
  built,
  clock,
}: {
  odometer: Odometer;
  built: string;
  clock: UsageClock;
}) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const height = 270;
  const { readings, anomalies } = odometer;
  const shownOf = (i: number) => {
    const r = readings[i];
    return r ? onClock(r.shown) : 0;
  };
  const last = readings[readings.length - 1];
  if (!last) return null;
  const top = Math.max(odometer.high, ...readings.map((_, i) => shownOf(i))) * 1.06;
  const x = scaleTime([new Date(built), new Date(last.date)], [44, Math.max(60, width - 12)]);
  const y = scaleLinear([0, top], [height - 26, 34]);
  const unit = clockUnit(clock);
  const path = line<[number, number]>()([
    [x(new Date(built)), y(0)],
    ...readings
      .filter((r) => r.usage !== null && r.usage !== undefined)
      .map((r): [number, number] => [x(new Date(r.date)), y(r.usage ?? 0)]),
  ]);
  return (
    <div ref={ref} className="mt-2">
      {width > 60 && (
        <svg
          width={width}
          height={height}
          role="img"
          aria-label={`What the clock showed, from ${day(built)} to ${day(last.date)}; ${anomalies.filter((a) => !a.note).length} things to look at.`}
          className="block overflow-visible"
        >
          <g className="sign" fontSize="14" fill="var(--ink-soft)">
            <SideAxis
              ticks={y.ticks(5)}
              y={y}
              say={(t) => (clock === "km" ? whole(t / 1000) : whole(t))}
              from={44}
              to={width - 12}
            />
            <FootAxis
              ticks={x.ticks(Math.max(2, Math.floor(width / 90)))}
              x={x}
              say={(t) => String(t.getFullYear())}
              at={height - 6}
            />
            <text x={0} y={10}>
              {clock === "km" ? "1000 km" : "hours"}
            </text>
          </g>
          {anomalies.map((a, i) => {
            const from = readings[a.from];
            const to = readings[a.to];
            if (!from || !to || a.note) return null;
            const [x0, x1] = [x(new Date(from.date)), x(new Date(to.date))];
            return (
              <g key={i}>
                <rect
                  x={x0}
                  y={16}
                  width={Math.max(2, x1 - x0)}
                  height={height - 50}
                  fill="var(--ramp-1)"
                  opacity="0.55"
                />
                <line
                  x1={x0}
                  x2={x0}
                  y1={16}
                  y2={height - 26}
                  stroke="var(--rule-strong)"
                  strokeDasharray="3 3"
                />
                <line
                  x1={x1}
                  x2={x1}
                  y1={16}
                  y2={height - 26}
                  stroke="var(--rule-strong)"
                  strokeDasharray="3 3"
                />
              </g>
            );
          })}
          {path && <path d={path} fill="none" stroke="var(--ink)" strokeWidth="3" />}
          {odometer.high > odometer.low + 1 && (
            <g stroke="var(--sea)" strokeWidth="5">
              <line
                x1={x(new Date(last.date))}
                x2={x(new Date(last.date))}
                y1={y(odometer.low)}
                y2={y(odometer.high)}
              />
              <line
                x1={x(new Date(last.date)) - 6}
                x2={x(new Date(last.date)) + 6}
                y1={y(odometer.high)}
                y2={y(odometer.high)}
              />
            </g>
          )}
          {readings.map((r, i) => {
            const [cx, cy] = [x(new Date(r.date)), y(shownOf(i))];
            const moved = r.usage !== null && r.usage !== undefined && Math.abs(r.usage - shownOf(i)) > 1;
            const set = r.usage === null || r.usage === undefined;
            return (
              <g key={i}>
                {moved && (
                  <line
                    x1={cx}
                    x2={cx}
                    y1={cy}
                    y2={y(r.usage ?? 0)}
                    stroke="var(--sea)"
                    strokeWidth="2"
                    strokeDasharray="4 3"
                  />
                )}
                {r.origin.kind === "entry" ? (
                  <path
                    d={`M${cx} ${cy - 6}l6 6-6 6-6-6z`}
                    fill={moved || set ? "var(--paper)" : "var(--ink)"}
                    stroke="var(--ink)"
                    strokeWidth="2"
                  />
                ) : (
                  <circle
                    cx={cx}
                    cy={cy}
                    r={r.origin.kind === "now" ? 7 : 5}
                    fill={moved || set ? "var(--paper)" : "var(--ink)"}
                    stroke="var(--ink)"
                    strokeWidth="2.5"
                  />
                )}
                {set && (
                  <path
                    d={`M${cx - 8} ${cy + 8}L${cx + 8} ${cy - 8}`}
                    stroke="var(--ink)"
                    strokeWidth="2.5"
                  />
                )}
              </g>
            );
          })}
          {anomalies.map((a, i) => {
            const from = readings[a.from];
            const to = readings[a.to];
            if (!from || !to || a.note) return null;
            const at = (x(new Date(from.date)) + x(new Date(to.date))) / 2;
            const same = anomalies.slice(0, i).filter((b) => b.to === a.to && b.from === a.from).length;
            return (
              <g key={i}>
                <rect x={at - 9 + same * 22} y={2} width={18} height={20} rx={2} fill="var(--ink)" />
                <text
                  x={at + same * 22}
                  y={17}
                  textAnchor="middle"
                  className="reading"
                  fontSize="14"
                  fill="var(--paper)"
                >
                  {i + 1}
                </text>
              </g>
            );
          })}
        </svg>
      )}
      <p className="text-[0.85rem] text-soft">
        Round: a reading. Diamond: a ledger entry. Hollow: taken for another figure, where the line runs.
        Struck: set aside. The thick bar: what the usage today may be. {clock === "km" ? "" : `In ${unit}.`}
      </p>
    </div>
  );
}
