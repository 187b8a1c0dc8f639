// A point's claims as curves while it is edited, with the vehicles of the yard where they stand.

import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import { sourceDash } from "../../charts/ClaimChart";
import { api, type DraftPoint, type Family } from "../../lib/api";
import { usage as usageSays } from "../../lib/format";
import { useAnswer, useQuiet, useWidth } from "../../lib/hooks";

const HEIGHT = 150;

/** A point of a draft, drawn: its curves, what its signs come to, and where the yard's vehicles stand. */
export function useDrawn(base: Family, sheet: Family, id: string, currency: string): DraftPoint | undefined {
  const quiet = useQuiet(sheet, 120);
  const point = (quiet.points ?? []).find((p) => p.id === id);
  const looks = (quiet.checks ?? []).filter((c) => (c.links ?? []).some((l) => l.point === id));
  const question = JSON.stringify([base.id, base.version, id, point, looks]);
  return useAnswer("draft-point", question, () =>
    api.drawDraftPoint(base.id, id, { from: base.version, sheet: quiet, currency, moves: false }),
  ).data;
}

export function PointCurve({ sheet, drawn }: { sheet: Family; drawn: DraftPoint | undefined }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const sources = (sheet.sources ?? []).map((s) => s.id);
  const unit = sheet.clock === "km" ? "km" : "h";
  return (
    <div ref={ref} data-testid="point-curve" className="mt-3">
      {width > 100 &&
        (drawn?.clocks ?? []).map((c) => {
          const last = c.x.at(-1) ?? 1;
          const x = scaleLinear([0, last], [4, width - 8]);
          const y = scaleLinear([0, 1], [HEIGHT - 30, 8]);
          const path = (failed: number[]) =>
            line<number>(
              (_, i) => x(c.x[i] ?? 0),
              (f) => y(f),
            )(failed) ?? "";
          const onUsage = c.clock === "usage";
          const stand = (drawn?.vehicles ?? [])
            .map((v) => ({ ...v, at: onUsage ? v.usage : v.age }))
            .filter((v) => v.at <= last);
          const says = (at: number) => (onUsage ? usageSays(at, unit, 1000) : `${Math.round(at)} years`);
          return (
            <figure key={c.clock}>
              <svg
                width={width}
                height={HEIGHT}
                role="img"
                aria-label={`Share failed by ${onUsage ? "usage" : "age"}, of those that have it in them: each claim, and those heard pooled.`}
              >
                <line x1={4} x2={width - 8} y1={y(0)} y2={y(0)} stroke="var(--ink)" strokeWidth="2" />
                <line x1={4} x2={width - 8} y1={y(0.5)} y2={y(0.5)} stroke="var(--rule)" />
                <text x={6} y={y(0.5) - 5} className="sign" fontSize="13" fill="var(--ink-soft)">
                  half have failed
                </text>
                {c.claims.map((claim, i) => (
                  <path
                    key={i}
                    d={path(claim.failed)}
                    fill="none"
                    stroke="var(--ink)"
                    strokeWidth={claim.revised ? 1.2 : 2}
                    strokeDasharray={sourceDash(sources, claim.source)}
                  />
                ))}
                <path d={path(c.pooled)} fill="none" stroke="var(--sea)" strokeWidth="4" />
                {stand.map((v) => (
                  <g key={v.title}>
                    <title>{`${v.title}: ${says(v.at)}`}</title>
                    <line
                      x1={x(v.at)}
                      x2={x(v.at)}
                      y1={y(0) - 7}
                      y2={y(0) + 7}
                      stroke="var(--caution)"
                      strokeWidth="4"
                    />
                  </g>
                ))}
                {x
                  .ticks(Math.max(2, Math.floor(width / 110)))
                  .filter((t) => x(t) < width - 50)
                  .map((t) => (
                    <text key={t} x={x(t)} y={HEIGHT - 6} className="reading" fontSize="13" fill="var(--ink)">
                      {onUsage && unit === "km" ? `${Math.round(t / 1000)}k` : t}
                    </text>
                  ))}
                <text
                  x={width - 8}
                  y={HEIGHT - 6}
                  textAnchor="end"
                  className="sign"
                  fontSize="13"
                  fill="var(--ink-soft)"
                >
                  {onUsage ? unit : "years"}
                </text>
              </svg>
              {stand.length > 0 && (
                <figcaption className="text-sm text-soft">
                  Marks: {stand.map((v) => `${v.title}, ${says(v.at)}`).join("; ")}.
                </figcaption>
              )}
            </figure>
          );
        })}
      {drawn?.clocks.length === 0 && (
        <p className="text-sm text-soft">It does not concern a typical example built in the middle years.</p>
      )}
    </div>
  );
}
