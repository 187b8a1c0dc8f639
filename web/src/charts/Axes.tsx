// The axes of every chart but the road's own: figures at the left with a line across, figures along the foot.

/** Figures at the left, each with a line across the chart. */
export function SideAxis<T extends number>({
  ticks,
  y,
  say,
  from,
  to,
  gap = 6,
}: {
  ticks: readonly T[];
  y: (tick: T) => number;
  say: (tick: T) => string;
  /** Where the lines begin and end. */
  from: number;
  to: number;
  /** Between figure and line. */
  gap?: number;
}) {
  return (
    <g className="sign" fontSize="14" fill="var(--ink-soft)" textAnchor="end">
      {ticks.map((t) => (
        <g key={t}>
          <line x1={from} x2={to} y1={y(t)} y2={y(t)} stroke="var(--rule)" />
          <text x={from - gap} y={y(t) + 5}>
            {say(t)}
          </text>
        </g>
      ))}
    </g>
  );
}

/** Figures along the foot. */
export function FootAxis<T extends number | Date>({
  ticks,
  x,
  say,
  at,
  strong = false,
}: {
  ticks: readonly T[];
  x: (tick: T) => number;
  say: (tick: T) => string;
  /** Height at which they stand. */
  at: number;
  strong?: boolean;
}) {
  return (
    <g
      className="sign"
      fontSize={strong ? 15 : 14}
      fill={strong ? "var(--ink)" : "var(--ink-soft)"}
      textAnchor="middle"
    >
      {ticks.map((t) => (
        <text key={Number(t)} x={x(t)} y={at}>
          {say(t)}
        </text>
      ))}
    </g>
  );
}
