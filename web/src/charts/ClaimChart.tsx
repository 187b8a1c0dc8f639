import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import type { ClockCurves, PointDetail, UsageClock } from "../lib/api";
import { rampStep } from "./axis";
import { useWidth } from "../lib/hooks";
import { clockUnit, percent, usage, whole } from "../lib/format";
import { FootAxis, SideAxis } from "./Axes";

const LEFT = 44;
const HEIGHT = 250;
const AHEAD = 92;
const dashes = ["none", "9 5", "2 4", "12 4 2 4", "5 3"];

/** The dash of a source, the same in every chart and list of a point. */
export function sourceDash(sources: string[], source: string): string {
  return dashes[Math.max(0, sources.indexOf(source)) % dashes.length] ?? "none";
}

/** A short stretch of a source's line. */
export function DashSample({ dash, heavy = false }: { dash: string; heavy?: boolean }) {
  return (
    <svg width="44" height="10" aria-hidden="true" className="inline-block shrink-0">
      <line
        x1="0"
        x2="44"
        y1="5"
        y2="5"
        stroke="var(--ink)"
        strokeWidth={heavy ? 5 : 2.2}
        strokeDasharray={dash}
      />
    </svg>
  );
}

/** Claims on one clock as curves, the pooled one heavy; on the usage clock, below them on the same axis,
 *  this vehicle's own chance. */
export function ClaimChart({
  curves,
  detail,
  clock,
  sources,
}: {
  curves: ClockCurves;
  detail: PointDetail;
  clock: UsageClock;
  sources: string[];
}) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const onUsage = curves.clock === "usage";
  const below = onUsage ? AHEAD : 0;
  const tall = HEIGHT + below + 30;
  const last = curves.x[curves.x.length - 1] ?? 1;
  const x = scaleLinear([0, last], [LEFT, Math.max(width - 14, LEFT + 40)]);
  const y = scaleLinear([0, 1], [HEIGHT - 4, 26]);
  const path = (failed: number[]) =>
    line<number>(
      (_, i) => x(curves.x[i] ?? 0),
      (f) => y(f),
    )(failed) ?? "";
  const thousands = onUsage && clock === "km";
  const unit = onUsage ? clockUnit(clock) : "years";
  const tick = (t: number) => (thousands ? whole(t / 1000) : whole(t));
  const now = x(curves.now);
  const end = x(Math.min(curves.end, last));
  const nowLabel = onUsage
    ? usage(curves.now, clockUnit(clock), clock === "km" ? 100 : 10)
    : `${curves.now.toFixed(1)} years`;
  const label = `Claims on the ${onUsage ? "usage" : "age"} clock: share failed of those that have it in them.`;
  const base = HEIGHT + below - 2;
  const own = scaleLinear([0, 1], [base, HEIGHT + 22]);
  const atEnd = detail.ahead.find((a) => a.usage >= curves.end - 1e-6);
  return (
    <div ref={ref} style={{ height: tall }}>
      {width > 120 && (
        <svg width={width} height={tall} role="img" aria-label={label} className="block overflow-visible">
          <rect x={now} y={26} width={end - now} height={base - 26} fill="var(--sunk)" />
          <SideAxis
            ticks={[0, 0.25, 0.5, 0.75, 1]}
            y={y}
            say={(p) => `${p * 100} %`}
            from={LEFT}
            to={width - 14}
          />
          {curves.claims.map((c, i) => (
            <path
              key={i}
              d={path(c.failed)}
              fill="none"
              stroke="var(--ink)"
              strokeWidth={c.revised ? 1.2 : 2.2}
              opacity={c.weight > 0 ? 1 : 0.35}
              strokeDasharray={sourceDash(sources, c.source)}
            />
          ))}
          <path d={path(curves.pooled)} fill="none" stroke="var(--sea)" strokeWidth="5" />
          {curves.revised && (
            <path
              d={path(curves.revised)}
              fill="none"
              stroke="var(--sea)"
              strokeWidth="5"
              strokeDasharray="3 5"
            />
          )}
          {onUsage && (
            <g>
              {detail.ahead.slice(1).map((a, i) => {
                const from = x(detail.ahead[i]?.usage ?? 0);
                if (from > width - 14) return null;
                return (
                  <rect
                    key={i}
                    x={from}
                    y={own(a.chance)}
                    width={Math.max(Math.min(x(a.usage), width - 14) - from + 0.4, 0.5)}
                    height={base - own(a.chance)}
                    fill={`var(--ramp-${rampStep(a.chance)})`}
                  />
                );
              })}
              <text
                x={LEFT}
                y={HEIGHT + 38}
                className="sign"
                fontSize="15"
                fontWeight="700"
                fill="var(--ink)"
              >
                This one
              </text>
              <text x={LEFT} y={HEIGHT + 56} className="sign" fontSize="14" fill="var(--ink-soft)">
                {now - LEFT > 190 ? "chance that it has come by then" : "by then"}
              </text>
              {atEnd && (
                <text
                  x={Math.min(end, width - 40) - 4}
                  y={own(atEnd.chance) - 6}
                  textAnchor="end"
                  className="reading"
                  fontSize="15"
                  fill="var(--ink)"
                >
                  {percent(atEnd.chance)}
                </text>
              )}
              <line x1={LEFT} x2={width - 14} y1={base} y2={base} stroke="var(--ink)" strokeWidth="2" />
            </g>
          )}
          <line x1={now} x2={now} y1={24} y2={base} stroke="var(--sea)" strokeWidth="3" />
          <line
            x1={end}
            x2={end}
            y1={24}
            y2={base}
            stroke="var(--ink)"
            strokeWidth="2"
            strokeDasharray="6 5"
          />
          <rect x={now - 42} y={0} width={84} height={22} rx={3} fill="var(--sea)" />
          <text x={now} y={16} textAnchor="middle" className="reading" fontSize="15" fill="var(--on-sea)">
            {nowLabel}
          </text>
          {end - now > 100 && (
            <text x={end} y={17} textAnchor="middle" className="sign" fontSize="14" fill="var(--ink)">
              plan ends
            </text>
          )}
          <FootAxis
            ticks={x.ticks(Math.max(2, Math.floor(width / 90))).filter((t) => x(t) < width - 76)}
            x={x}
            say={tick}
            at={base + 20}
            strong
          />
          <text
            x={width - 12}
            y={base + 20}
            textAnchor="end"
            className="sign"
            fontSize="14"
            fill="var(--ink-soft)"
          >
            {thousands ? "1000 km" : unit}
          </text>
        </svg>
      )}
    </div>
  );
}
