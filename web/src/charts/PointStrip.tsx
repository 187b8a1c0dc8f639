import { memo } from "react";
import type { Due, RoadPoint } from "../lib/api";
import { rampStep, type Axis } from "./axis";
import { Flag, Peg } from "./Road";
import { bins } from "./strip";
import { evidenceWord } from "../lib/words";

export const STRIP_HEIGHT = 54;
const BASE = 33;
const TALL = 30;

/** A failure point along the axis: pale where its trouble would have come by now, on the ramp in the
 *  plan, in outline beyond; what is there now as a block at "now". */
export const PointStrip = memo(function PointStrip({
  point,
  axis,
  due,
}: {
  point: RoadPoint;
  axis: Axis;
  due?: Due | undefined;
}) {
  const [past, plan, beyond] = bins(point);
  const pastStep = axis.now / past.length;
  const planStep = (axis.end - axis.now) / plan.length;
  // Chance for each thousandth of the plan's length, so that the three stretches compare.
  const scale = (axis.end - axis.now) / 1000;
  const density = {
    past: past.map((m) => (pastStep > 0 ? (m / pastStep) * scale : 0)),
    plan: plan.map((m) => (m / planStep) * scale),
    beyond: beyond.map((m) => (m / ((axis.last - axis.end) / beyond.length || 1)) * scale),
  };
  const top = Math.max(...density.past, ...density.plan, ...density.beyond, 0.0004);
  const tall = (d: number) => (d / top) * TALL;
  const area = density.past
    .map((d, i) => `${axis.x((i + 0.5) * pastStep).toFixed(1)} ${(BASE - tall(d)).toFixed(1)}`)
    .join("L");
  // One path for each shade: a row of bars is many elements otherwise, and a road has fifty rows.
  const bar = (x: number, width: number, h: number) =>
    `M${x.toFixed(1)} ${BASE}v${(-h).toFixed(1)}h${width.toFixed(1)}v${h.toFixed(1)}z`;
  const bars = new Map<number, string>();
  density.plan.forEach((d, i) => {
    const x = axis.x(axis.now + i * planStep);
    const width = axis.x(axis.now + (i + 1) * planStep) - x;
    const step = rampStep(d * 1000);
    if (tall(d) >= 0.4) bars.set(step, (bars.get(step) ?? "") + bar(x, Math.max(width - 0.6, 0.8), tall(d)));
  });
  const beyondStep = (axis.last - axis.end) / density.beyond.length;
  const after = density.beyond
    .map((d, i) => {
      const x = axis.x(axis.end + i * beyondStep);
      const width = axis.x(axis.end + (i + 1) * beyondStep) - x;
      return tall(d) < 0.8 ? "" : bar(x + 0.5, Math.max(width - 1, 1), tall(d));
    })
    .join("");
  const now = axis.x(axis.now);
  const present = point.p_now;
  return (
    <svg width={axis.width} height={STRIP_HEIGHT} aria-hidden="true" className="block overflow-visible">
      {axis.now > 0 && (
        <path
          d={`M0 ${BASE}L${area}L${now} ${BASE}Z`}
          fill="var(--past)"
          stroke="var(--past-line)"
          strokeWidth="1"
          strokeLinejoin="round"
        />
      )}
      {[1, 2, 3, 4, 5].map((step) => (
        <path key={step} d={bars.get(step) ?? ""} fill={`var(--ramp-${step})`} />
      ))}
      <path d={after} fill="none" stroke="var(--past-line)" />
      <line x1={0} x2={axis.width} y1={BASE} y2={BASE} stroke="var(--rule-strong)" />
      {present > 0.02 && (
        <g>
          <rect
            x={now - 11}
            y={BASE - Math.max(4, present * TALL)}
            width={10}
            height={Math.max(4, present * TALL)}
            fill={`var(--ramp-${rampStep(present)})`}
            stroke="var(--ink)"
            strokeWidth="1.5"
          />
        </g>
      )}
      {due && due.usage <= axis.last && (
        <>
          <Flag x={axis.x(due.usage)} y={BASE + 14} overdue={due.overdue} />
          <text
            x={axis.x(due.usage) + (due.usage > axis.end ? -4 : 14)}
            y={BASE + 15}
            textAnchor={due.usage > axis.end ? "end" : "start"}
            className="sign"
            fontSize="14"
            fill="var(--ink-soft)"
          >
            {due.overdue ? "was due" : "due"}
          </text>
        </>
      )}
      {(point.renewals ?? []).map((r, i) => {
        const x = axis.x(r.usage);
        const left = x > axis.width * 0.25;
        return (
          <g key={i}>
            <Peg x={x} y={BASE} proved={r.proved} />
            <text
              x={left ? x - 10 : x + 10}
              y={BASE + 18}
              textAnchor={left ? "end" : "start"}
              className="sign"
              fontSize="14"
              fill="var(--ink-soft)"
            >
              {evidenceWord[r.evidence]} {r.date.slice(0, 4)}
            </text>
          </g>
        );
      })}
    </svg>
  );
});
