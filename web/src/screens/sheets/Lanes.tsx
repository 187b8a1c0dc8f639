// A sheet on the road: a lane for each failure point, with what each source says of when it comes.

import { useMemo } from "react";
import type { Family } from "../../lib/api";
import { sourceDash } from "../../charts/ClaimChart";
import { systemWord } from "../../lib/words";

type Point = Family["points"] extends (infer P)[] | undefined ? P : never;
type Claim = Point["life"][number];

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
function howMany(p: Point): string {
  const says = p.share?.[0]?.says;
  if (!says) return "all";
  if (says.form === "one_in") return `one in ${says.n}`;
  if (says.form === "share") return `${Math.round(says.share * 100)} %`;
  return shareWord[says.word] ?? says.word;
}

export function Lanes({
  family,
  chosen,
  onChoose,
}: {
  family: Family;
  chosen: string | undefined;
  onChoose: (id: string) => void;
}) {
  const given = useMemo(
    () => new Set((family.patterns ?? []).flatMap((p) => p.gives).filter((g) => g.startsWith("points/"))),
    [family.patterns],
  );
  const sources = (family.sources ?? []).map((s) => s.id);
  const points = family.points ?? [];
  // Four steps that can be read.
  const even = (x: number, step: number) => Math.ceil(x / (4 * step)) * 4 * step;
  const usageEnd = even(
    Math.max(1, ...points.flatMap((p) => p.life.filter((c) => c.clock !== "age").map((c) => reach(c)[1]))),
    family.clock === "km" ? 10_000 : 500,
  );
  const yearsEnd = even(
    Math.max(1, ...points.flatMap((p) => p.life.filter((c) => c.clock === "age").map((c) => reach(c)[1]))),
    1,
  );
  const systems = [...new Set(points.map((p) => p.system))];
  const unit = family.clock === "km" ? "km" : "h";
  const step = usageEnd / 4;
  const label = (x: number) => (family.clock === "km" ? `${Math.round(x / 1000)}k` : `${Math.round(x)}`);
  return (
    <div>
      <div className="sticky top-0 z-10 grid bg-paper pb-1 text-sm sm:grid-cols-[15rem_1fr]">
        <span className="text-soft">
          <span className="inline-block h-2 w-6 bg-ink" aria-hidden="true" /> {unit}{" "}
          <span className="ml-2 inline-block h-2 w-6 border-2 border-ink" aria-hidden="true" /> years
        </span>
        <span className="reading flex justify-between border-b-2 border-ink" aria-hidden="true">
          {[0, 1, 2, 3, 4].map((k) => (
            <span key={k}>
              {label(k * step)}
              <span className="text-soft"> · {Math.round((yearsEnd / 4) * k)} y</span>
            </span>
          ))}
        </span>
      </div>
      {systems.map((system) => (
        <section key={system} aria-label={systemWord[system] ?? system}>
          <h2 className="sign mt-3 text-lg font-bold">{systemWord[system] ?? system}</h2>
          <ul>
            {points
              .filter((p) => p.system === system)
              .map((p) => (
                <li key={p.id}>
                  <button
                    type="button"
                    aria-pressed={chosen === p.id}
                    onClick={() => onChoose(p.id)}
                    className="grid min-h-11 w-full items-center gap-x-2 sm:grid-cols-[15rem_1fr] border-b border-rule text-left aria-pressed:bg-sunk"
                  >
                    <span className="leading-tight">
                      <span className={given.has(`points/${p.id}`) ? "text-soft" : "font-semibold"}>
                        {p.name}
                      </span>
                      <span className="block text-sm text-soft">{howMany(p)}</span>
                    </span>
                    <svg
                      viewBox="0 0 1000 36"
                      preserveAspectRatio="none"
                      className="h-9 w-full"
                      aria-hidden="true"
                      opacity={given.has(`points/${p.id}`) ? 0.45 : 1}
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
                      {p.life.slice(0, 4).map((c, i) => {
                        const [from, to] = reach(c);
                        const end = c.clock === "age" ? yearsEnd : usageEnd;
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
                  </button>
                </li>
              ))}
          </ul>
        </section>
      ))}
    </div>
  );
}
