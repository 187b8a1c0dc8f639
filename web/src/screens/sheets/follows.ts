// What follows from a point, changed item by item.

import type { Family } from "../../lib/api";
import type { Point } from "./draft";

type Routes = NonNullable<Point["routes"]>;
type Stages = NonNullable<Point["stages"]>;

/** A list with one of it changed, or taken out. */
export const kept = <T>(list: readonly T[] | undefined, at: number, item: T | undefined): T[] =>
  (list ?? []).flatMap((x, i) => (i === at ? (item === undefined ? [] : [item]) : [x]));

export const added = <T>(list: readonly T[] | undefined, item: T): T[] => [...(list ?? []), item];

/** A price as two figures. */
export function spanOf(price: unknown): [number, number] | [undefined, undefined] {
  if (typeof price === "number") return [price, price];
  if (Array.isArray(price) && typeof price[0] === "number")
    return [price[0], typeof price[1] === "number" ? price[1] : price[0]];
  return [undefined, undefined];
}

/** One more way. Of the first two one is what the point had: where there are ways, they say what it costs. */
export function newRoute(sheet: Family, p: Point): Partial<Point> {
  const more: Routes = [{ name: "Another way", price: [200, 300] }];
  const had = p.routes ?? [];
  if (had.length > 0) return { routes: [...had, ...more] };
  const job = (sheet.jobs ?? []).find((j) => j.id === p.job);
  const [low, high] = spanOf(p.price);
  const own: Routes = job
    ? [{ name: job.name.slice(0, 80), job: job.id }]
    : low === undefined
      ? []
      : [{ name: "As it is mostly done", price: [low, high] }];
  return { routes: [...own, ...more], job: "", price: null };
}

/** Takes a way out; the last that is left is the point's own job or price again. */
export function without(p: Point, at: number): Partial<Point> {
  const routes = kept(p.routes, at, undefined);
  const [last] = routes;
  if (!last || routes.length > 1) return { routes };
  return last.job ? { routes: [], job: last.job } : { routes: [], price: last.price ?? null };
}

/** One more stage, dearer than the one before; the first two begin together, since one stage is none. */
export function newStage(p: Point): Stages {
  const stages = p.stages ?? [];
  const next = (n: number) => ({
    name: `Stage ${n}`,
    tolerable: 10_000,
    price: [300 * n, 400 * n] as [number, number],
  });
  if (stages.length === 0) return [{ name: "Stage 1", tolerable: 10_000 }, next(2)];
  return [...stages, next(stages.length + 1)];
}

/** Takes a stage out; one that is left alone is none. */
export function withoutStage(p: Point, at: number): Stages {
  const stages = kept(p.stages, at, undefined);
  return stages.length < 2 ? [] : stages;
}
