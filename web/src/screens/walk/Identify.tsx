import { useMutation } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, type CandidateView } from "../../lib/api";
import { useFamilies, useFreshView } from "../../lib/hooks";

/** Names, each once: two sheets may call a point the same. */
function list(all: string[]): string {
  const names = [...new Set(all)];
  return names.length > 4 ? `${names.slice(0, 3).join(", ")} and ${names.length - 3} more` : names.join(", ");
}

/** Variant facts that are not known yet: one tap when they are found out. */
export function Identify({ view }: { view: CandidateView }) {
  const families = useFamilies();
  const fresh = useFreshView();
  const set = useMutation({
    mutationFn: ({ fact, value }: { fact: string; value: string }) =>
      api.edit(
        view.id,
        view.version,
        { ...view.candidate, facts: { ...view.candidate.facts, [fact]: value } },
        "walk",
      ),
    onSuccess: fresh,
  });
  const { identify } = view.assessment.walk;
  if (identify.length === 0) return null;
  return (
    <section className="mt-4" aria-label="Find out which one it is">
      <h2 className="stretch">Find out which one it is</h2>
      {set.error && (
        <p role="alert" className="mt-1 text-caution">
          {set.error.message}
        </p>
      )}
      <ul>
        {identify.map((x) => {
          const family = families.data?.find((f) => f.id === x.family);
          const fact = family?.facts.find((f) => f.id === x.fact);
          const hangs = [
            x.points.length > 0 && `Decides: ${list(x.points)}.`,
            x.checks.length > 0 && `Checks that hang on it: ${list(x.checks)}.`,
          ].filter((t): t is string => typeof t === "string");
          return (
            <li key={`${x.family}/${x.fact}`} className="border-b border-rule py-2">
              <p className="sign text-[1.2rem] leading-tight font-semibold">
                {fact?.label ?? `Serial or engine number, ${family?.name ?? x.family}`}
              </p>
              {fact?.how && <p className="max-w-prose">{fact.how}</p>}
              <p className="text-[0.95rem] text-soft">{hangs.join(" ")}</p>
              <div
                className="mt-1 flex flex-wrap gap-2"
                role="group"
                aria-label={fact?.label ?? "Serial number"}
              >
                {fact ? (
                  fact.values.map((v) => (
                    <button
                      key={v.id}
                      type="button"
                      className="btn"
                      disabled={set.isPending}
                      onClick={() => set.mutate({ fact: fact.id, value: v.id })}
                    >
                      {v.label}
                    </button>
                  ))
                ) : (
                  <Link className="btn" to={`/c/${view.id}/papers/provenance`}>
                    Enter it among the papers
                  </Link>
                )}
              </div>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
