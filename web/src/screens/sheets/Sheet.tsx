// One sheet: its points on the road, talk beside it, and whether it makes sense.

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, type Family, type Sanity } from "../../lib/api";
import { money, usage as usageSays } from "../../lib/format";
import { useSettings } from "../../parts/FirstStart";
import { Page } from "../../parts/Shell";
import { Trouble } from "../../parts/Trouble";
import { Lanes } from "./Lanes";
import { Talk } from "./Talk";

/** What typical examples cost against what such things usually cost. */
function Sane({ sanity }: { sanity: Sanity }) {
  const dearest = [...sanity.examples].sort((a, b) => b.a_year - a.a_year)[0];
  return (
    <section
      aria-label="What a typical example costs"
      className="mt-4 border-2 border-rule bg-raised px-4 py-3"
      data-testid="sanity"
    >
      <h2 className="stretch">What a typical example costs a year</h2>
      <ul className="mt-2 grid grid-cols-3 gap-3">
        {sanity.examples.map((e) => (
          <li key={e.usage.value}>
            <b className="reading text-2xl">{money(e.a_year)}</b>
            <span className="block text-sm text-soft">at {usageSays(e.usage.value, e.usage.unit, 1000)}</span>
          </li>
        ))}
      </ul>
      {sanity.usual ? (
        <p className="mt-2">
          {sanity.within ? "Within the usual: " : "Outside the usual: "}
          {money(sanity.usual[0] ?? 0)} to {money(sanity.usual[1] ?? 0)} {sanity.currency} a year (common
          practice, from memory).
          {!sanity.within && " Look at how many have each point first: talk remembers failures."}
        </p>
      ) : (
        <p className="mt-2 text-soft">A part of a vehicle: no usual figure to hold it to.</p>
      )}
      {dearest && (
        <p className="mt-1 text-soft">
          Most of it: {dearest.most.map((m) => `${m.name} ${money(m.a_year)}`).join(", ")}.
        </p>
      )}
    </section>
  );
}

/** What is known of one point, and where each claim comes from. */
function About({ family, id }: { family: Family; id: string }) {
  const p = (family.points ?? []).find((x) => x.id === id);
  if (!p) return null;
  const from = (family.patterns ?? []).find((x) => x.gives.includes(`points/${id}`));
  const name = (s: string) => (family.sources ?? []).find((x) => x.id === s)?.name ?? s;
  const lines = [...p.life, ...(p.share ?? [])].flatMap((c) =>
    c.stands?.line
      ? [`“${c.stands.line}” (${[name(c.source), c.stands.title, c.stands.time].filter(Boolean).join(", ")})`]
      : [],
  );
  return (
    <section aria-label={p.name} className="mt-4 border-l-4 border-sea pl-3" data-testid="about">
      <h2 className="sign text-xl font-bold">{p.name}</h2>
      {p.shows && <p>Shows: {p.shows}.</p>}
      {p.why && <p>{p.why}</p>}
      {p.prevention && <p>{p.prevention}</p>}
      <p className="text-soft">
        {from
          ? `From the pattern “${from.name}”, common practice. A line on it makes it this sheet’s own.`
          : "This sheet’s own."}
      </p>
      {[...new Set(lines)].map((l) => (
        <p key={l}>{l}</p>
      ))}
    </section>
  );
}

export function Sheet() {
  const { id = "" } = useParams();
  const settings = useSettings();
  const currency = settings.data?.currency ?? "EUR";
  const sheet = useQuery({ queryKey: ["sheet", id], queryFn: () => api.newestFamily(id), retry: false });
  const sanity = useQuery({
    queryKey: ["sanity", id, currency],
    queryFn: () => api.sanity(id, currency),
    retry: false,
  });
  const [chosen, setChosen] = useState<string>();
  const [said, setSaid] = useState("");
  const f = sheet.data;
  return (
    <Page title={f?.name ?? "Sheet"} lead={f?.summary ?? ""}>
      <p className="mt-1">
        <Link to="/sheets" className="underline underline-offset-4">
          All sheets
        </Link>
        {f && (
          <span className="text-soft">
            {" "}
            ·{" "}
            <a
              href={`/api/families/${id}`}
              download={`${id}-${f.version}.json`}
              className="text-ink underline underline-offset-4"
            >
              Keep as a file
            </a>{" "}
            · version {f.version} · {(f.sources ?? []).map((s) => s.name).join(", ")}
          </span>
        )}
      </p>
      <Trouble error={sheet.error} />
      {f && (
        <div className="mt-4 grid gap-x-12 gap-y-8 lg:grid-cols-[1fr_27rem]">
          <div className="min-w-0">
            <Lanes family={f} chosen={chosen} onChoose={setChosen} />
          </div>
          <div className="max-lg:order-first lg:sticky lg:top-2 lg:max-h-[96vh] lg:self-start lg:overflow-y-auto lg:pr-1">
            {f.kind.startsWith("base_") ? (
              <p>
                It ships with the application. What a sheet of your own says of the same part takes its place.
              </p>
            ) : (
              <Talk key={f.id} family={f} onWritten={setSaid} />
            )}
            {said && (
              <p role="status" className="mt-2 font-semibold">
                {said}
              </p>
            )}
            {chosen && <About family={f} id={chosen} />}
            {sanity.data && <Sane sanity={sanity.data} />}
          </div>
        </div>
      )}
    </Page>
  );
}
