// A sheet on the road: a lane for each failure point, with what each source says of when it comes.

import { useMemo, useState } from "react";
import type { Family, PointLane } from "../../lib/api";
import { sourceDash } from "../../charts/ClaimChart";
import { sounds } from "../../lib/find";
import { money } from "../../lib/format";
import { systemWord } from "../../lib/words";
import { SearchField } from "../../parts/SearchField";
import { Tally } from "../../parts/Tally";
import { Builds } from "./Builds";
import { asBuilt, type Built } from "./builds";

type Claim = Built["life"][number];

/** Where a claim begins and ends on its own clock; an open end reaches a third further. */
function reach(c: Claim): [number, number] {
  const s = c.says;
  switch (s.form) {
    case "between":
      return [s.from, s.to];
    case "from_about":
      return [s.at, s.at * 1.6];
    case "at_least":
      return [s.at, s.at * 1.8];
    case "about":
      return [s.at * 0.8, s.at * 1.2];
    case "rarely_beyond":
      return [s.at * 0.5, s.at];
    case "quantiles": {
      const xs = s.points.map((p) => p.x);
      return [Math.min(...xs), Math.max(...xs)];
    }
    case "weibull":
      return [s.scale * 0.6, s.scale * 1.3];
  }
}

const shareWord: Record<string, string> = {
  rare: "rare",
  occasional: "now and then",
  common: "common",
  most: "most",
  all: "all",
};

/** How many, as the first source says it. */
function howMany(b: Built): string {
  const says = b.share[0]?.says;
  if (!says) return "all";
  if (says.form === "one_in") return `one in ${says.n}`;
  if (says.form === "share") return `${Math.round(says.share * 100)} %`;
  return shareWord[says.word] ?? says.word;
}

const orders = { system: "By system", source: "By source", soonest: "Soonest first" } as const;
type Order = keyof typeof orders;

interface Group {
  name: string;
  lanes: Built[];
}

const END = 1e12;

/** When the first claim on the usage clock begins; years come after. */
const begins = (b: Built) =>
  Math.min(...b.life.map((c) => (c.clock === "age" ? END + reach(c)[0] : reach(c)[0])));

function grouped(lanes: Built[], order: Order, family: Family): Group[] {
  if (order === "soonest")
    return [
      { name: "Every point, the soonest first", lanes: [...lanes].sort((a, b) => begins(a) - begins(b)) },
    ];
  if (order === "source")
    return (family.sources ?? [])
      .map((s) => ({
        name: s.name,
        lanes: lanes
          .map((b) => ({ ...b, life: b.life.filter((c) => c.source === s.id) }))
          .filter((b) => b.life.length > 0),
      }))
      .filter((g) => g.lanes.length > 0);
  return [...new Set(lanes.map((b) => b.point.system))].map((system) => ({
    name: systemWord[system] ?? system,
    lanes: lanes.filter((b) => b.point.system === system),
  }));
}

const COLUMNS = "grid-cols-[1fr_auto] sm:grid-cols-[15rem_1fr_7.5rem]";

/** Where those that have it in them fail, all sources heard: the higher, the more. */
function pooled(curve: PointLane["curves"][number], end: number): string {
  const most = Math.max(...curve.fails, 1e-9);
  const step = curve.to / curve.fails.length / end;
  const at = (i: number, fails: number) =>
    `${((i + 0.5) * step * 1000).toFixed(1)},${(36 - (fails / most) * 31).toFixed(1)}`;
  return `M0,36 L${curve.fails.map((f, i) => at(i, f)).join(" L")} L${(curve.fails.length * step * 1000).toFixed(1)},36 Z`;
}

/** One lane: the point's name, how many have it, what each source says of when it comes, and what it comes to. */
function Lane({
  built,
  lane,
  pale,
  chosen,
  sources,
  ends,
  onChoose,
}: {
  built: Built;
  lane: PointLane | undefined;
  pale: boolean;
  chosen: boolean;
  sources: string[];
  ends: { usage: number; years: number };
  onChoose: (id: string) => void;
}) {
  const { point } = built;
  return (
    <button
      type="button"
      aria-pressed={chosen}
      onClick={() => onChoose(point.id)}
      className={`grid min-h-11 w-full items-center gap-x-2 border-b border-rule text-left aria-pressed:bg-sunk ${COLUMNS}`}
    >
      <span className="leading-tight">
        <span className={pale ? "text-soft" : "font-semibold"}>{point.name}</span>
        <span className="block text-sm text-soft">
          {howMany(built)}
          {built.revised && `; ${built.revised}`}
        </span>
      </span>
      <svg
        viewBox="0 0 1000 36"
        preserveAspectRatio="none"
        className="h-9 w-full max-sm:order-last max-sm:col-span-2"
        aria-hidden="true"
        opacity={pale ? 0.45 : 1}
      >
        {[1, 2, 3].map((k) => (
          <line
            key={k}
            x1={k * 250}
            x2={k * 250}
            y1="0"
            y2="36"
            stroke="var(--rule)"
            vectorEffect="non-scaling-stroke"
          />
        ))}
        {lane?.curves.map((c) => (
          <path
            key={c.clock}
            d={pooled(c, c.clock === "age" ? ends.years : ends.usage)}
            fill="var(--sea)"
            fillOpacity="0.16"
            stroke="var(--sea)"
            strokeWidth="1.5"
            strokeDasharray={c.clock === "age" ? "3 3" : undefined}
            vectorEffect="non-scaling-stroke"
          />
        ))}
        {built.life.slice(0, 4).map((c, i) => {
          const [from, to] = reach(c);
          const end = c.clock === "age" ? ends.years : ends.usage;
          const x = (from / end) * 1000;
          const w = Math.max(6, ((Math.min(to, end) - from) / end) * 1000);
          const y = 4 + i * 8;
          return c.clock === "age" ? (
            <rect
              key={i}
              x={x}
              y={y}
              width={w}
              height="6"
              fill="var(--paper)"
              stroke="var(--ink)"
              strokeWidth="2"
              vectorEffect="non-scaling-stroke"
            />
          ) : (
            <line
              key={i}
              x1={x}
              x2={x + w}
              y1={y + 3}
              y2={y + 3}
              stroke="var(--ink)"
              strokeWidth="6"
              strokeDasharray={sourceDash(sources, c.source)}
              vectorEffect="non-scaling-stroke"
            />
          );
        })}
      </svg>
      <span className="flex items-center justify-end gap-1.5">
        {lane?.at_middling && (
          <>
            <span className="reading">{money(lane.at_middling.cost)}</span>
            <Tally grade={lane.at_middling.grade} />
          </>
        )}
      </span>
    </button>
  );
}

export function Lanes({
  family,
  lanes,
  chosen,
  onChoose,
}: {
  family: Family;
  /** What stands on the lanes; none while it is worked out. */
  lanes: PointLane[] | undefined;
  chosen: string | undefined;
  onChoose: (id: string) => void;
}) {
  const [order, setOrder] = useState<Order>("system");
  const [typed, setTyped] = useState("");
  const [day, setDay] = useState<string | null>(null);
  const given = useMemo(
    () => new Set((family.patterns ?? []).flatMap((p) => p.gives).filter((g) => g.startsWith("points/"))),
    [family.patterns],
  );
  const drawn = useMemo(() => new Map((lanes ?? []).map((l) => [l.point, l])), [lanes]);
  const sources = (family.sources ?? []).map((s) => s.id);
  // The axis stays as it is while a day is pulled: all that was ever claimed finds room.
  const claims = (family.points ?? []).flatMap((p) => [
    ...p.life,
    ...(p.revision?.life ?? []),
    ...(p.revisions ?? []).flatMap((r) => r.life ?? []),
  ]);
  // Four steps that can be read.
  const even = (x: number, step: number) => Math.ceil(x / (4 * step)) * 4 * step;
  const farthest = (age: boolean) =>
    Math.max(1, ...claims.filter((c) => (c.clock === "age") === age).map((c) => reach(c)[1]));
  const ends = {
    usage: even(farthest(false), family.clock === "km" ? 10_000 : 500),
    years: even(farthest(true), 1),
  };
  const built = asBuilt(family, day);
  const left = (family.points ?? []).length - built.length;
  const shown = built.filter((b) => sounds(typed, b.point.name));
  const unit = family.clock === "km" ? "km" : "h";
  const label = (x: number) => (family.clock === "km" ? `${Math.round(x / 1000)}k` : `${Math.round(x)}`);
  return (
    <div>
      <div className="mb-3 flex flex-wrap items-end gap-x-4 gap-y-2">
        <SearchField label="Find a point" value={typed} onChange={setTyped} />
        <div role="group" aria-label="Order of the lanes" className="flex flex-wrap gap-1">
          {(Object.keys(orders) as Order[]).map((o) => (
            <button
              key={o}
              type="button"
              aria-pressed={order === o}
              onClick={() => setOrder(o)}
              className="btn px-3 aria-pressed:border-sea aria-pressed:bg-sea aria-pressed:text-on-sea"
            >
              {orders[o]}
            </button>
          ))}
        </div>
      </div>
      <Builds family={family} day={day} onDay={setDay} />
      {left > 0 && (
        <p role="status" className="mb-2 text-soft">
          {left === 1 ? "One point does" : `${left} points do`} not concern this build.
        </p>
      )}
      <div className={`sticky top-0 z-10 grid items-end gap-x-2 bg-paper pb-1 text-sm ${COLUMNS}`}>
        <span className="text-soft">
          <span className="inline-block h-2 w-6 bg-ink" aria-hidden="true" /> {unit}{" "}
          <span className="ml-2 inline-block h-2 w-6 border-2 border-ink" aria-hidden="true" /> years{" "}
          <span
            className="ml-2 inline-block h-3 w-6 rounded-t-full border-2 border-b-0 border-sea bg-sea/15"
            aria-hidden="true"
          />{" "}
          all heard
        </span>
        <span
          className="reading flex justify-between border-b-2 border-ink max-sm:order-last max-sm:col-span-2"
          aria-hidden="true"
        >
          {[0, 1, 2, 3, 4].map((k) => (
            <span key={k}>
              {label((ends.usage / 4) * k)}
              <span className="text-soft"> · {Math.round((ends.years / 4) * k)} y</span>
            </span>
          ))}
        </span>
        <span className="text-right leading-tight text-soft">one repair, grade</span>
      </div>
      {grouped(shown, order, family).map((group) => (
        <section key={group.name} aria-label={group.name}>
          <h2 className="sign mt-3 text-lg font-bold">{group.name}</h2>
          <ul>
            {group.lanes.map((b) => (
              <li
                key={b.point.id}
                id={order === "source" ? undefined : `lane-${b.point.id}`}
                className="[contain-intrinsic-size:auto_3.25rem] [content-visibility:auto]"
              >
                <Lane
                  built={b}
                  lane={drawn.get(b.point.id)}
                  pale={given.has(`points/${b.point.id}`)}
                  chosen={chosen === b.point.id}
                  sources={sources}
                  ends={ends}
                  onChoose={onChoose}
                />
              </li>
            ))}
          </ul>
        </section>
      ))}
      {shown.length === 0 && (
        <p role="status" className="py-3">
          {typed ? "No point sounds like that." : "No failure point yet: say what you know, or add one."}
        </p>
      )}
    </div>
  );
}
