// Two sheets, or two versions of one, point by point and by how much money; another person's sheet as one more voice.

import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { api, type Family } from "../../lib/api";
import { money } from "../../lib/format";
import { useFamilies } from "../../lib/hooks";
import { Field } from "../../parts/Field";
import { FileButton } from "../../parts/FileButton";
import { useSettings } from "../../parts/FirstStart";
import { Page } from "../../parts/Shell";
import { Trouble } from "../../parts/Trouble";

/** Between two versions of one sheet. */
const changeWord: Record<string, string> = {
  new: "new",
  gone: "gone",
  moved: "said otherwise",
  follows: "follows from another",
};

/** Between the sheets of two families. */
const betweenWord: Record<string, string> = {
  ...changeWord,
  new: "only in this sheet",
  gone: "only in the other",
};

const differsWord: Record<string, string> = {
  how_many: "how many",
  when: "when",
  signs: "signs",
  cost: "cost",
  which: "which builds",
  cause: "the cause is disputed",
  rest: "what it takes along, ways of mending",
};

/** Another person's sheet becomes one more source; the draft is looked at before it is published. */
function Merge({ family }: { family: Family }) {
  const families = useFamilies();
  const go = useNavigate();
  const [other, setOther] = useState<{ name: string; sheet: Family }>();
  const [source, setSource] = useState("");
  const [weight, setWeight] = useState(1);
  const [wrong, setWrong] = useState<string>();
  const take = async (id: string) => {
    const sheet = await api.newestFamily(id);
    setOther({ name: sheet.name, sheet });
    setSource((s) => s || sheet.name);
  };
  const merge = useMutation({
    mutationFn: (sheet: Family) =>
      api.mergeSheet(family.id, {
        from: family.version,
        sheet,
        source: source.trim(),
        ...(weight < 1 && { discount: weight }),
      }),
    onSuccess: (sheet) => {
      localStorage.setItem(
        `ticksage.sheet.${family.id}`,
        JSON.stringify({ from: family.version, past: [family], now: sheet, future: [] }),
      );
      void go(`/sheets/${family.id}`);
    },
  });
  return (
    <section className="mt-8" aria-label="Merge a sheet">
      <h2 className="stretch">One more voice: merge another sheet</h2>
      <p>
        Its claims stand beside those that are here, under a name of their own; its further points come with
        their jobs and checks. Nothing is published before you have looked at it.
      </p>
      <div className="mt-2 flex flex-wrap items-end gap-3">
        <Field label="A sheet of this yard">
          <select className="field" value="" onChange={(e) => e.target.value && void take(e.target.value)}>
            <option value="">choose</option>
            {(families.data ?? [])
              .filter((f) => f.id !== family.id && f.clock === family.clock)
              .map((f) => (
                <option key={f.id} value={f.id}>
                  {f.name}
                </option>
              ))}
          </select>
        </Field>
        <FileButton
          label="Sheet file"
          accept="application/json,.json"
          onChoose={([file]) => {
            void file?.text().then((text) => {
              try {
                const sheet = JSON.parse(text) as Family;
                setOther({ name: sheet.name, sheet });
                setSource((s) => s || sheet.name);
                setWrong(undefined);
              } catch {
                setWrong(`${file.name} is no sheet: it is not JSON.`);
              }
            });
          }}
        >
          Or from a file
        </FileButton>
      </div>
      {wrong && (
        <p role="alert" className="font-semibold text-caution">
          {wrong}
        </p>
      )}
      {other && (
        <div className="mt-3 grid max-w-xl gap-2">
          <p>
            <b>{other.name}</b>, {(other.sheet.points ?? []).length} points.
          </p>
          <Field label="Who says it" hint="The source that its claims get here.">
            <input
              className="field"
              maxLength={80}
              value={source}
              onChange={(e) => setSource(e.target.value)}
            />
          </Field>
          <Field label={`Weight: ${Math.round(weight * 100)} %`} hint="Less where its talk overstates.">
            <input
              type="range"
              min={0.1}
              max={1}
              step={0.1}
              value={weight}
              onChange={(e) => setWeight(Number(e.target.value))}
            />
          </Field>
          <button
            type="button"
            className="btn btn-main"
            disabled={source.trim() === "" || merge.isPending}
            onClick={() => merge.mutate(other.sheet)}
          >
            Merge it into a draft
          </button>
        </div>
      )}
      <Trouble error={merge.error} />
    </section>
  );
}

export function Compare() {
  const { id = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const settings = useSettings();
  const families = useFamilies();
  const currency = settings.data?.currency ?? "EUR";
  const sheet = useQuery({ queryKey: ["sheet", id], queryFn: () => api.newestFamily(id), retry: false });
  const f = sheet.data;
  const other = params.get("with") ?? id;
  const version = params.get("other");
  const first = version ? Number(version) : other === id ? Math.max(1, (f?.version ?? 1) - 1) : undefined;
  const compared = useQuery({
    queryKey: ["compare", id, f?.version, other, first, currency],
    queryFn: () => api.compareSheets(id, { with: other, ...(first && { other: first }), currency }),
    enabled: f !== undefined && (other !== id || f.version > 1),
    retry: false,
  });
  const c = compared.data;
  const name =
    other === id ? `version ${first}` : (families.data?.find((x) => x.id === other)?.name ?? other);
  return (
    <Page title="Two sheets" lead={f ? `${f.name}, version ${f.version}, beside ${name}` : ""}>
      <p>
        <Link to={`/sheets/${id}`} className="underline underline-offset-4">
          Back to the sheet
        </Link>
      </p>
      <Trouble error={sheet.error ?? compared.error} />
      {f && (
        <>
          <div className="mt-3 flex flex-wrap items-end gap-4">
            <Field label="Beside">
              <select
                className="field"
                value={other}
                onChange={(e) => setParams(e.target.value === id ? {} : { with: e.target.value })}
              >
                <option value={id}>an earlier version of it</option>
                {(families.data ?? [])
                  .filter((x) => x.id !== id && x.clock === f.clock)
                  .map((x) => (
                    <option key={x.id} value={x.id}>
                      {x.name}
                    </option>
                  ))}
              </select>
            </Field>
            {other === id && f.version > 1 && (
              <Field label="Version">
                <select
                  className="field"
                  value={first}
                  onChange={(e) => setParams({ other: e.target.value })}
                >
                  {Array.from({ length: f.version - 1 }, (_, i) => f.version - 1 - i).map((v) => (
                    <option key={v} value={v}>
                      {v}
                    </option>
                  ))}
                </select>
              </Field>
            )}
          </div>
          {other === id && f.version === 1 && (
            <p className="mt-3">This is its first version: choose another sheet to compare it with.</p>
          )}
          {c && (
            <>
              <p className="mt-4" data-testid="compared">
                A typical middling example costs <b className="reading text-xl">{money(c.after)}</b>{" "}
                {c.currency} a year by {f.name}, version {f.version};{" "}
                <b className="reading text-xl">{money(c.before)}</b> by {name}.{" "}
                {c.points.length === 0
                  ? "Nothing differs."
                  : `${c.points.length === 1 ? "One point differs" : `${c.points.length} points differ`}, ${c.same} say the same.`}
              </p>
              <ul className="mt-3">
                {c.points.map((p) => (
                  <li
                    key={`${p.point}-${p.change}`}
                    className="grid items-baseline gap-x-4 border-b border-rule py-2 sm:grid-cols-[1.4fr_1.4fr_12rem]"
                  >
                    <b>{p.name}</b>
                    <span>
                      {(other === id ? changeWord : betweenWord)[p.change]}
                      {p.differs.length > 0 && `: ${p.differs.map((d) => differsWord[d]).join(", ")}`}
                    </span>
                    <span className="reading sm:text-right">
                      {money(p.before)} → {money(p.after)} a year
                    </span>
                  </li>
                ))}
              </ul>
            </>
          )}
          {!f.kind.startsWith("base_") && <Merge family={f} />}
        </>
      )}
    </Page>
  );
}
