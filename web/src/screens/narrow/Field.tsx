// Adverts drawn on price against usage or age: each with its surplus, the line of the market, the budget as an edge; what
// is swept with the pointer filters the list.

import { memo, useRef, useState } from "react";
import type { Ranked } from "../../lib/api";
import { money } from "../../lib/format";
import { useWidth } from "../../lib/hooks";
import { foot, line } from "./list";

export type Box = { x: [number, number]; y: [number, number] };

const HEIGHT = 320;
const PAD = { left: 56, right: 12, top: 10, bottom: 30 };

/** Round steps that end just beyond the largest value. */
function ticks(most: number): number[] {
  const raw = most / 5;
  const ten = 10 ** Math.floor(Math.log10(Math.max(1, raw)));
  const step = [1, 2, 2.5, 5, 10].map((k) => k * ten).find((k) => k >= raw) ?? ten;
  return Array.from({ length: Math.ceil(most / step) + 1 }, (_, i) => i * step);
}

/** Worth more than asked: solid; worth less: open. The larger, the more it is about. */
const sizeOf = (r: Ranked, worst: number) => 4 + 7 * Math.sqrt(Math.abs(r.surplus) / worst);

/** Every advert's mark. Two outlines hold them: ten thousand elements of their own would make each look at the page slow. */
const Marks = memo(function Marks({
  all,
  xOf,
  worst,
  xEnd,
  yEnd,
  w,
  h,
}: {
  all: Ranked[];
  xOf: (r: Ranked) => number;
  worst: number;
  xEnd: number;
  yEnd: number;
  w: number;
  h: number;
}) {
  const mark = (r: Ranked) => {
    // To a tenth, so that both halves meet and it stays round.
    const size = Math.round(10 * sizeOf(r, worst)) / 10;
    const [x, y] = [PAD.left + (xOf(r) / xEnd) * w - size, PAD.top + h - (r.asking / yEnd) * h];
    const half = `a${size.toFixed(1)},${size.toFixed(1)} 0 1,0`;
    return `M${x.toFixed(1)},${y.toFixed(1)}${half} ${(2 * size).toFixed(1)},0${half} ${(-2 * size).toFixed(1)},0`;
  };
  const outline = (more: boolean) =>
    all
      .filter((r) => r.surplus > 0 === more)
      .map(mark)
      .join("");
  return (
    <>
      <path d={outline(false)} fill="var(--paper)" stroke="var(--ink)" strokeWidth="1.5" />
      <path d={outline(true)} fill="var(--sea)" fillOpacity="0.85" stroke="var(--ink)" strokeWidth="1.5" />
    </>
  );
});

export function AdvertField({
  all,
  xOf,
  unit,
  budget,
  box,
  onBox,
  chosen,
  onChoose,
}: {
  all: Ranked[];
  xOf: (r: Ranked) => number;
  unit: string;
  budget: number | undefined;
  box: Box | undefined;
  onBox: (box: Box | undefined) => void;
  chosen: number | undefined;
  onChoose: (line: number) => void;
}) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const svg = useRef<SVGSVGElement>(null);
  const [from, setFrom] = useState<[number, number]>();
  const xs = ticks(all.reduce((most, r) => Math.max(most, xOf(r)), 1));
  const ys = ticks(all.reduce((most, r) => Math.max(most, r.asking), Math.max(1, budget ?? 0)));
  const xEnd = xs.at(-1) ?? 1;
  const yEnd = ys.at(-1) ?? 1;
  const w = Math.max(200, width) - PAD.left - PAD.right;
  const h = HEIGHT - PAD.top - PAD.bottom;
  const px = (x: number) => PAD.left + (x / xEnd) * w;
  const py = (y: number) => PAD.top + h - (y / yEnd) * h;
  const market = line(all.map((r) => [xOf(r), r.going]));
  const at = (e: React.PointerEvent): [number, number] => {
    const r = svg.current?.getBoundingClientRect();
    const x = ((e.clientX - (r?.left ?? 0) - PAD.left) / w) * xEnd;
    const y = ((PAD.top + h - (e.clientY - (r?.top ?? 0))) / h) * yEnd;
    return [Math.min(xEnd, Math.max(0, x)), Math.min(yEnd, Math.max(0, y))];
  };
  const boxOf = (a: [number, number], b: [number, number]): Box => ({
    x: [Math.min(a[0], b[0]), Math.max(a[0], b[0])],
    y: [Math.min(a[1], b[1]), Math.max(a[1], b[1])],
  });
  const worst = all.reduce((most, r) => Math.max(most, Math.abs(r.surplus)), 1);
  const picked = all.find((r) => r.line === chosen);
  return (
    <div ref={ref} data-testid="advert-field">
      <svg
        ref={svg}
        width="100%"
        height={HEIGHT}
        role="img"
        aria-label={`${all.length} adverts by price and ${unit}`}
        className="touch-none select-none"
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          setFrom(at(e));
        }}
        onPointerMove={(e) => from && onBox(boxOf(from, at(e)))}
        onPointerUp={(e) => {
          if (from) {
            const b = boxOf(from, at(e));
            const near = b.x[1] - b.x[0] < xEnd / 60 && b.y[1] - b.y[0] < yEnd / 60;
            if (near) {
              const hit = all
                .map((r) => [Math.hypot(px(xOf(r)) - px(from[0]), py(r.asking) - py(from[1])), r] as const)
                .sort((p, q) => p[0] - q[0])[0];
              onBox(undefined);
              if (hit && hit[0] < 22) onChoose(hit[1].line);
            } else onBox(b);
          }
          setFrom(undefined);
        }}
      >
        {xs.map((x) => (
          <g key={`x${x}`}>
            <line x1={px(x)} x2={px(x)} y1={PAD.top} y2={PAD.top + h} stroke="var(--rule)" />
            <text
              x={px(x)}
              y={HEIGHT - 10}
              textAnchor={x === xEnd ? "end" : "middle"}
              fontSize="13"
              fill="var(--ink)"
            >
              {foot(x, unit, x === xEnd)}
            </text>
          </g>
        ))}
        {ys.map((y) => (
          <g key={`y${y}`}>
            <line x1={PAD.left} x2={PAD.left + w} y1={py(y)} y2={py(y)} stroke="var(--rule)" />
            <text x={PAD.left - 6} y={py(y) + 4} textAnchor="end" fontSize="13" fill="var(--ink)">
              {money(y)}
            </text>
          </g>
        ))}
        {market && (
          <line
            x1={px(0)}
            x2={px(xEnd)}
            y1={py(market(0))}
            y2={py(market(xEnd))}
            stroke="var(--ink)"
            strokeWidth="2"
            strokeDasharray="8 5"
          />
        )}
        {budget !== undefined && (
          <line
            x1={PAD.left}
            x2={PAD.left + w}
            y1={py(budget)}
            y2={py(budget)}
            stroke="var(--caution)"
            strokeWidth="3"
          />
        )}
        <Marks all={all} xOf={xOf} worst={worst} xEnd={xEnd} yEnd={yEnd} w={w} h={h} />
        {picked && (
          <circle
            cx={px(xOf(picked))}
            cy={py(picked.asking)}
            r={sizeOf(picked, worst)}
            fill={picked.surplus > 0 ? "var(--sea)" : "var(--paper)"}
            stroke="var(--caution)"
            strokeWidth="4"
          />
        )}
        {box && (
          <rect
            x={px(box.x[0])}
            y={py(box.y[1])}
            width={px(box.x[1]) - px(box.x[0])}
            height={py(box.y[0]) - py(box.y[1])}
            fill="var(--sea)"
            fillOpacity="0.12"
            stroke="var(--sea)"
            strokeWidth="2"
          />
        )}
      </svg>
      <p className="text-sm text-soft">
        Solid: worth more than is asked; open: less. Dashed: what such a thing goes for in this list
        {budget !== undefined && "; across: your budget"}. Sweep over it to look at a part.
      </p>
    </div>
  );
}
