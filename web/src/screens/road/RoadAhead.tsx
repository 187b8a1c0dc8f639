import { useEffect, useMemo, useState, type ReactNode } from "react";
import type { Due, RoadPoint } from "../../lib/api";
import { makeAxis } from "../../charts/axis";
import { useMedia, usePoints, useWidth } from "../../lib/hooks";
import type { WhatIf } from "../../lib/whatIf";
import { Care } from "../../parts/Care";
import { PointStrip, STRIP_HEIGHT } from "../../charts/PointStrip";
import { Flag, Peg, RoadHeader, roadOf } from "../../charts/Road";
import { isTyping } from "../../parts/Shell";
import { Tally } from "../../parts/Tally";
import { WhenNear } from "../../parts/WhenNear";
import { WhatIfControls } from "../../parts/WhatIfPanel";
import { Why } from "../../parts/Why";
import { WouldMove } from "../../parts/WouldMove";
import { clockUnit, money, percent, usage } from "../../lib/format";
import { late, systemWord } from "../../lib/words";

const keyOf = (p: Pick<RoadPoint, "at">) => `${p.at.family}/${p.at.point}`;

type Filter = "all" | "disputed" | "ends_engine" | "unseen";

const filters: [Filter, string, (p: RoadPoint) => boolean][] = [
  ["all", "Everything", () => true],
  ["disputed", "They disagree", (p) => p.apart != null],
  ["ends_engine", "Can end the engine", (p) => p.ends_engine],
  ["unseen", "Not looked at", (p) => p.seen !== "yes"],
];

function disagreement(p: RoadPoint): string | null {
  const [least, most] = p.apart ?? [];
  return least === undefined || most === undefined
    ? null
    : `they disagree: ${percent(least)} to ${percent(most)}`;
}

function state(p: RoadPoint): string {
  if (p.seen !== "yes") return p.seen === "not" ? "not looked at" : "no check speaks of it";
  if (p.p_now > 0.5) return "likely there now";
  return "looked at";
}

/** So long after the first frame what stands below the window is drawn, too. */
const WHOLE_MS = 120;

/** So long after the first drawing the rest of the road is laid out, so that all of it can be copied and searched. */
const LAID_OUT_MS = 800;

/** About how tall a row and a heading are, for what is not laid out yet. */
const ROW = 62;
const HEADING = 32;

/** How wide the road will be: what the page's margins, and beside it the two columns, leave of the window. It is measured
 *  as soon as it stands. */
function roadWidth(): number {
  const page = Math.min(document.documentElement.clientWidth, 1500);
  if (page >= 1024) return page - 2 * 24 - 2 * (232 + 20);
  return page - 2 * (page >= 640 ? 24 : 12);
}

/** Rows that a window shows at first: what stands above them takes some 430 pixels of it, 300 on a phone. */
const rowsInView = (wide: boolean) => Math.max(4, Math.ceil((innerHeight - (wide ? 430 : 300)) / ROW) + 1);

/** Systems in order of what matters most in them, points by what they may cost. */
function bySystem(points: RoadPoint[]): [string, RoadPoint[]][] {
  const groups = new Map<string, RoadPoint[]>();
  for (const p of points) groups.set(p.system, [...(groups.get(p.system) ?? []), p]);
  return [...groups.entries()];
}

/** What the strip's shapes and shades mean. */
function Key() {
  const swatch = (x: number, fill: string, stroke = "var(--ink)") => (
    <rect key={x} x={x} y={1} width={13} height={11} fill={fill} stroke={stroke} />
  );
  const row = (drawing: ReactNode, says: string) => (
    <li className="flex items-center gap-2 leading-[1.15]">
      <svg width="68" height="13" aria-hidden="true" className="shrink-0">
        {drawing}
      </svg>
      {says}
    </li>
  );
  return (
    <ul
      className="hidden flex-col justify-end gap-0.5 pb-0.5 text-[0.85rem] text-soft lg:flex"
      aria-label="Key to the strip"
    >
      {row(
        <path d="M1 12Q20 12 34 3T67 12Z" fill="var(--past)" stroke="var(--past-line)" />,
        "would have come by now",
      )}
      {row(swatch(27, "var(--ramp-4)"), "there now")}
      {row(
        [1, 2, 3, 4, 5].map((n) => swatch((n - 1) * 13.5 + 0.5, `var(--ramp-${n})`, "none")),
        "likelihood in your plan",
      )}
      {row(
        <>
          <Peg x={20} y={-5} proved />
          <Peg x={46} y={-5} proved={false} />
        </>,
        "proved renewal; only said",
      )}
      {row(<Flag x={28} y={13} overdue={false} />, "scheduled work due")}
      {row(
        [0.5, 14, 27.5, 41, 54.5].map((x) => swatch(x, "none", "var(--past-line)")),
        "after your plan",
      )}
    </ul>
  );
}

/** Scheduled work that starts this point afresh. */
const dueOf = (due: Due[], p: RoadPoint) =>
  due.find((d) => d.renews.some((r) => r.family === p.at.family && r.point === p.at.point));

export function RoadAhead({ tried }: { tried: WhatIf }) {
  const { view } = tried;
  const { assessment, road: lines } = view;
  const [filter, setFilter] = useState<Filter>("all");
  const [system, setSystem] = useState("all");
  const [controls, setControls] = useState(false);
  const [chosen, setChosen] = useState<string | null>(null);
  const [hovered, setHovered] = useState<string | null>(null);
  const [whole, setWhole] = useState(false);
  const [laidOut, setLaidOut] = useState(false);
  const wide = useMedia("(min-width: 1024px)");
  const [inView] = useState(() => rowsInView(wide));
  const [ref, width] = useWidth<HTMLDivElement>(roadWidth);
  const axis = useMemo(
    () => makeAxis(Math.max(width, 60), assessment.usage_now, assessment.horizon, assessment.clock),
    [width, assessment.usage_now, assessment.horizon, assessment.clock],
  );
  const road = useMemo(() => roadOf(assessment, lines.points), [assessment, lines]);
  const keep = filters.find((f) => f[0] === filter)?.[2] ?? (() => true);
  const inSystem = (p: RoadPoint) => system === "all" || p.system === system;
  const namesOf = (which: ReturnType<typeof late>) =>
    assessment.due.filter((d) => late(d) === which).map((d) => d.name);
  const [overdue, perhaps] = [namesOf("yes"), namesOf("perhaps")];
  const shown = lines.points.filter((p) => keep(p) && inSystem(p));
  const groups = bySystem(shown);
  const order = groups.flatMap((g) => g[1]);
  const first = new Set(order.slice(0, inView).map(keyOf));
  const dockKey = hovered ?? chosen ?? (order[0] ? keyOf(order[0]) : null);
  const docked = lines.points.find((p) => keyOf(p) === dockKey);
  // What stands behind the lines, where any of it is shown.
  const { part: points, away } = usePoints(view, (wide && !controls) || (!wide && chosen !== null));
  const why = (line: RoadPoint) => (
    <Why
      line={line}
      point={points?.find((p) => keyOf(p) === keyOf(line))}
      away={away}
      assessment={assessment}
      id={view.id}
    />
  );

  useEffect(() => {
    // Once what the window shows first is on the screen: the second frame begins when the first has been shown.
    let rest: ReturnType<typeof setTimeout> | undefined;
    let frame = requestAnimationFrame(() => {
      frame = requestAnimationFrame(() => {
        rest = setTimeout(() => setWhole(true), WHOLE_MS);
      });
    });
    const layout = setTimeout(() => setLaidOut(true), LAID_OUT_MS);
    return () => {
      cancelAnimationFrame(frame);
      clearTimeout(rest);
      clearTimeout(layout);
    };
  }, []);

  useEffect(() => {
    const listener = (e: KeyboardEvent) => {
      if (isTyping(e) || (e.key !== "ArrowDown" && e.key !== "ArrowUp")) return;
      e.preventDefault();
      const at = order.findIndex((p) => keyOf(p) === chosen) + (e.key === "ArrowDown" ? 1 : -1);
      const next = order[Math.min(order.length - 1, Math.max(0, at))];
      if (next) document.getElementById(keyOf(next))?.focus();
    };
    addEventListener("keydown", listener);
    return () => removeEventListener("keydown", listener);
  });

  const columns = "lg:grid-cols-[14.5rem_1fr_14.5rem]";
  return (
    <div className={wide ? (controls ? "pb-[40vh]" : "pb-40") : ""}>
      <div className="grid items-end gap-x-10 gap-y-3 lg:grid-cols-[1fr_22rem]">
        <div>
          <h1 className="text-3xl lg:sr-only">Road ahead</h1>
          <p>
            {lines.points.length} failure points; about{" "}
            <b className="reading">{money(assessment.bill.mean)}</b> {assessment.currency} to be spent in your{" "}
            {usage(assessment.horizon, clockUnit(assessment.clock), 100)}. An estimate from stated
            assumptions.
            {assessment.approximate && " Findings that touch too many points were weighed one by one."}
          </p>
          {overdue.length + perhaps.length > 0 && (
            <p className="text-[0.95rem] leading-snug" data-testid="overdue">
              {overdue.length > 0 && (
                <>
                  Overdue, as far as papers show: <b className="sign text-[1.05rem]">{overdue.join(", ")}</b>.
                </>
              )}
              {perhaps.length > 0 && ` Perhaps overdue: ${perhaps.join(", ")}.`}
            </p>
          )}
          <div role="group" aria-label="Show" className="mt-2 flex flex-wrap gap-1.5">
            {filters.map(([id, name, test]) => (
              <button
                key={id}
                type="button"
                aria-pressed={filter === id}
                onClick={() => setFilter(id)}
                className="btn px-3 aria-pressed:border-sea aria-pressed:bg-sea aria-pressed:text-on-sea"
              >
                {name} <span className="font-normal">{lines.points.filter(test).length}</span>
              </button>
            ))}
            <label className="flex items-center gap-2">
              <span className="sr-only">System</span>
              <select
                className="field sign w-auto font-semibold"
                value={system}
                onChange={(e) => setSystem(e.target.value)}
              >
                <option value="all">All systems</option>
                {assessment.systems.map((x) => (
                  <option key={x.system} value={x.system}>
                    {systemWord[x.system]} ({x.points})
                  </option>
                ))}
              </select>
            </label>
            <button
              type="button"
              className="btn px-3"
              aria-expanded={controls}
              aria-controls="trial-controls"
              onClick={() => setControls(!controls)}
            >
              Sources and use {controls ? "▴" : "▾"}
            </button>
          </div>
        </div>
        <Care assessment={assessment} />
      </div>
      <div id="trial-controls">
        {controls && !wide && (
          <div className="mt-3 border-2 border-ink bg-raised p-4">
            <WhatIfControls tried={tried} />
          </div>
        )}
      </div>

      <div>
        <div className={`sticky top-[5.9rem] z-10 grid bg-paper pt-2 lg:top-[8.6rem] lg:gap-x-5 ${columns}`}>
          <Key />
          <div ref={ref} className="min-w-0">
            <RoadHeader data={road} width={width} />
          </div>
          <div className="sign hidden grid-cols-[4.2rem_1fr_2.8rem] items-end gap-2 pb-1 text-right text-[0.95rem] leading-tight text-soft lg:grid">
            <span>within your plan</span>
            <span>if it comes, {assessment.currency}</span>
            <span />
          </div>
        </div>

        {shown.length === 0 && (
          <p className="mt-6 text-lg">
            No failure point answers to that. Choose “Everything” and “All systems”.
          </p>
        )}
        {bySystem(whole ? order : order.slice(0, inView)).map(([system, points]) => (
          <section
            key={system}
            className={laidOut ? "mt-3" : "when-near mt-3"}
            style={laidOut ? undefined : { containIntrinsicSize: `auto ${points.length * ROW + HEADING}px` }}
            aria-label={systemWord[system]}
          >
            <h2 className="stretch text-sea">{systemWord[system]}</h2>
            <ul>
              {points.map((p) => {
                const key = keyOf(p);
                const open = chosen === key;
                const dispute = disagreement(p);
                return (
                  <li key={key} className="border-b border-rule">
                    <button
                      type="button"
                      id={key}
                      aria-expanded={wide ? undefined : open}
                      className={`grid w-full items-center pt-1 text-left lg:gap-x-5 ${columns} ${
                        dockKey === key && wide ? "bg-sunk" : ""
                      }`}
                      onFocus={() => wide && setChosen(key)}
                      onClick={() => setChosen(open && !wide ? null : key)}
                      onMouseEnter={() => wide && setHovered(key)}
                      onMouseLeave={() => setHovered(null)}
                    >
                      <span className="flex items-baseline justify-between gap-3 lg:block">
                        <span className="min-w-0">
                          <span className="sign block text-[1.2rem] leading-tight font-bold">{p.name}</span>
                          <span className="block text-[0.9rem] leading-tight text-soft lg:line-clamp-2">
                            {dispute ?? p.shows}
                          </span>
                        </span>
                        <span className="reading text-right text-[1.45rem] leading-none whitespace-nowrap lg:hidden">
                          {percent(p.p_plan)}
                        </span>
                      </span>
                      <WhenNear height={STRIP_HEIGHT} atOnce={first.has(key)}>
                        {() =>
                          width > 60 && <PointStrip point={p} axis={axis} due={dueOf(assessment.due, p)} />
                        }
                      </WhenNear>
                      <span className="grid grid-cols-[1fr_auto_auto] items-center gap-2 pb-2 text-right lg:grid-cols-[4.2rem_1fr_2.8rem] lg:pb-0">
                        <span
                          className="reading hidden text-[1.6rem] leading-none lg:block"
                          data-testid={`chance-${key}`}
                        >
                          {percent(p.p_plan)}
                        </span>
                        <span className="text-left text-[0.9rem] text-soft lg:hidden">{state(p)}</span>
                        <span className="leading-tight">
                          <span className="sign text-[1.15rem] font-semibold">
                            <span className="font-normal lg:hidden">if it comes </span>
                            {money(p.cost)}
                          </span>
                          <span className="hidden text-sm text-soft lg:block">{state(p)}</span>
                        </span>
                        <Tally grade={p.grade} />
                      </span>
                    </button>
                    {open && !wide && <div className="border-l-8 border-sea bg-sunk p-3">{why(p)}</div>}
                  </li>
                );
              })}
            </ul>
          </section>
        ))}
        {!whole && <div style={{ height: Math.max(0, order.length - inView) * ROW }} />}
      </div>
      <WouldMove view={view} />

      {wide && controls && (
        <aside
          aria-label="Sources and use"
          className="no-print fixed inset-x-0 bottom-0 z-10 border-t-4 border-sea bg-sunk"
        >
          <div className="mx-auto max-h-[38vh] max-w-[1500px] overflow-y-auto px-6 pt-2 pb-3">
            <WhatIfControls tried={tried} onClose={() => setControls(false)} />
          </div>
        </aside>
      )}
      {wide && docked && !controls && (
        <aside
          aria-label="Why"
          data-testid="why"
          className="no-print fixed inset-x-0 bottom-0 z-10 border-t-4 border-sea bg-sunk"
        >
          <div className="mx-auto h-[8.4rem] max-w-[1500px] overflow-y-auto px-6 pt-2">{why(docked)}</div>
        </aside>
      )}
    </div>
  );
}
