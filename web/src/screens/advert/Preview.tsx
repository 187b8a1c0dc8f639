import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { api, type Candidate } from "../../lib/api";
import { RoadHeader, roadOf } from "../../charts/Road";
import { money, percent } from "../../lib/format";
import { useQuiet, useWidth } from "../../lib/hooks";
import { Milestone } from "../../parts/Milestone";

/** The first assessment, while typing. */
export function Preview({
  candidate,
  stored = false,
}: {
  candidate: Candidate | undefined;
  stored?: boolean;
}) {
  const quiet = useQuiet(candidate, 150);
  const key = useMemo(() => JSON.stringify(quiet ?? null), [quiet]);
  const query = useQuery({
    queryKey: ["try", key],
    queryFn: () => (quiet ? api.tryOut(quiet) : Promise.reject(new Error("nothing typed"))),
    enabled: quiet !== undefined,
    placeholderData: (previous) => previous,
    retry: false,
    staleTime: Infinity,
  });
  const [ref, width] = useWidth<HTMLDivElement>();
  const { assessment: a, road } = (candidate && query.data) ?? {};
  return (
    <div ref={ref} data-testid="preview">
      <h2 className="stretch mb-2">{stored ? "With these figures" : "First assessment"}</h2>
      {!a && (
        <p className="text-lg">
          {query.error && candidate
            ? query.error.message
            : "Name, family, usage, build date, price and plan are enough: it appears here while you type."}
        </p>
      )}
      {a && road && (
        <>
          {!stored && (
            <div className="max-lg:fixed max-lg:inset-x-0 max-lg:bottom-0 max-lg:z-20">
              <Milestone assessment={a} />
            </div>
          )}
          <div className="mt-4">
            <RoadHeader data={roadOf(a, road.points)} width={width} />
          </div>
          <p className="sign mt-3 text-lg font-semibold">What may cost most within your plan</p>
          <ul>
            {road.points.slice(0, 5).map((p) => (
              <li
                key={`${p.at.family}/${p.at.point}`}
                className="flex justify-between gap-3 border-b border-rule py-1"
              >
                <span>{p.name}</span>
                <span className="reading whitespace-nowrap">
                  {percent(p.p_plan)} · {money(p.cost)}
                </span>
              </li>
            ))}
          </ul>
          <p className="mt-2 text-sm text-soft">
            An estimate from stated assumptions
            {stored ? "." : "; it knows nothing yet of papers and findings."}
          </p>
        </>
      )}
    </div>
  );
}
