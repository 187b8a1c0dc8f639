// Every sheet: what is known of which family, by whom.

import { useState } from "react";
import { Link } from "react-router";
import { sounds } from "../../lib/find";
import { useFamilies } from "../../lib/hooks";
import { Page } from "../../parts/Shell";
import { Trouble } from "../../parts/Trouble";

const kindWord: Record<string, string> = {
  engine: "engine",
  gearbox: "gearbox",
  body: "vehicle",
  motorcycle: "motorcycle",
  base_vehicle: "general checks",
  base_motorcycle: "general checks",
  base_engine: "general checks",
};

export function Sheets() {
  const families = useFamilies();
  const [typed, setTyped] = useState("");
  const all = [...(families.data ?? [])].sort((a, b) => a.name.localeCompare(b.name));
  const shown = all.filter((f) => sounds(typed, `${f.name} ${f.summary}`));
  return (
    <Page
      title="Sheets"
      lead="What is known of each family: which points fail, when, how one notices, what it costs."
    >
      <Trouble error={families.error} />
      <div className="mt-4 flex flex-wrap items-end gap-4">
        <label className="block grow">
          <span className="sign text-[1.1rem] font-semibold">Find a sheet</span>
          <input
            type="search"
            className="field"
            placeholder="part of a name"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
          />
        </label>
        <Link className="btn" to="/new">
          New, from how it is built
        </Link>
      </div>
      <ul className="mt-4">
        {shown.map((f) => (
          <li key={f.id} className="border-b-2 border-rule">
            <Link
              to={`/sheets/${f.id}`}
              className="grid min-h-14 items-baseline gap-x-6 gap-y-0 py-2 sm:grid-cols-[1.4fr_1fr_1fr]"
            >
              <b className="sign text-xl underline decoration-2 underline-offset-4">{f.name}</b>
              <span>
                {f.points} failure points
                {f.points_from_patterns > 0 && `, ${f.points_from_patterns} from patterns`}, {f.checks} checks
              </span>
              <span className="text-soft">
                {kindWord[f.kind]}, version {f.version},{" "}
                {f.sources.length === 1 ? "one source" : `${f.sources.length} sources`}
              </span>
            </Link>
          </li>
        ))}
      </ul>
      {families.data && shown.length === 0 && (
        <p role="status" className="py-3 text-lg">
          No sheet sounds like that.
        </p>
      )}
    </Page>
  );
}
