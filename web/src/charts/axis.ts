// The road strip's axis: build, now, the end of the plan and a little beyond. The plan is drawn
// wider than its share because decisions lie there; the change of scale is marked at "now".

import { scaleLinear, type ScaleLinear } from "d3-scale";
import type { UsageClock, YearMark } from "../lib/api";

export interface Axis {
  x: ScaleLinear<number, number>;
  width: number;
  now: number;
  end: number;
  last: number;
  clock: UsageClock;
}

export const BEYOND = 0.3;

export function makeAxis(width: number, now: number, horizon: number, clock: UsageClock): Axis {
  const end = now + horizon;
  const last = end + horizon * BEYOND;
  const past = now > 0 ? width * Math.min(0.4, Math.max(0.12, (0.9 * now) / last)) : 0;
  const planEnd = width * 0.9;
  const x = scaleLinear().domain([0, now, end, last]).range([0, past, planEnd, width]);
  if (now <= 0) x.domain([0, end, last]).range([0, planEnd, width]);
  return { x, width, now, end, last, clock };
}

/** One scale from build to a usage that several candidates share. */
export function sharedAxis(
  width: number,
  now: number,
  horizon: number,
  clock: UsageClock,
  last: number,
): Axis {
  const x = scaleLinear().domain([0, last]).range([0, width]);
  return { x, width, now, end: now + horizon, last, clock };
}

/** Round ticks on both stretches, kept apart by at least `room` pixels. */
export function usageTicks(axis: Axis, room: number): number[] {
  const out: number[] = [];
  const add = (from: number, to: number) => {
    const stretch = axis.x(to) - axis.x(from);
    if (stretch <= room) return;
    const ticks = scaleLinear()
      .domain([from, to])
      .ticks(Math.max(1, Math.floor(stretch / room)));
    for (const t of ticks) {
      const x = axis.x(t);
      const clear = out.every((o) => Math.abs(axis.x(o) - x) >= room * 0.8) && x < axis.width - 8;
      if (t >= from && t <= to && clear) out.push(t);
    }
  };
  add(0, axis.now);
  add(axis.now, axis.end);
  return out.sort((a, b) => a - b);
}

/** Calendar years far enough apart to be read. */
export function yearTicks(axis: Axis, years: YearMark[], room: number): YearMark[] {
  const out: YearMark[] = [];
  for (const y of years) {
    const x = axis.x(y.usage);
    const previous = out[out.length - 1];
    if (x > 10 && x < axis.x(axis.end) && (!previous || x - axis.x(previous.usage) >= room)) out.push(y);
  }
  return out;
}

/** Which of the ramp's five steps a chance falls in, were the whole plan like this bin. */
export function rampStep(chance: number): number {
  return [0.08, 0.22, 0.45, 0.75].filter((limit) => chance >= limit).length + 1;
}
