// Every sheet: what is known of which family, by whom, and whether its figures are those of the usual.

import { useMutation, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { api, type Family, type FamilyHead, type Sanity } from "../../lib/api";
import { sounds } from "../../lib/find";
import { ago, today } from "../../lib/format";
import { useFamilies } from "../../lib/hooks";
import { FileButton } from "../../parts/FileButton";
import { useSettings } from "../../parts/FirstStart";
import { SearchField } from "../../parts/SearchField";
import { Page } from "../../parts/Shell";
import { Trouble } from "../../parts/Trouble";
import { NewSheet } from "./NewSheet";

const kindWord: Record<string, string> = {
  engine: "engine",
  gearbox: "gearbox",
  body: "vehicle",
  motorcycle: "motorcycle",
  base_vehicle: "general checks",
  base_motorcycle: "general checks",
  base_engine: "general checks",
};

function usualSays(sanity: Sanity | undefined): string {
  if (!sanity?.usual) return "";
  return sanity.within ? "within the usual cost" : "outside the usual cost";
}

function judgedSays(n: number | null | undefined): string {
  if (!n) return "nothing in the yard is judged by it";
  return n === 1 ? "one in the yard is judged by it" : `${n} in the yard are judged by it`;
}

function Row({ f, sanity }: { f: FamilyHead; sanity: Sanity | undefined }) {
  const own = !f.kind.startsWith("base_");
  const usual = usualSays(sanity);
  return (
    <Link
      to={`/sheets/${f.id}`}
      className="grid min-h-14 items-baseline gap-x-6 gap-y-0 py-2 sm:grid-cols-[1.4fr_1fr_1fr]"
    >
      <span>
        <b className="sign text-xl underline decoration-2 underline-offset-4">{f.name}</b>
        {usual && (
          <span className={`block ${sanity?.within ? "text-soft" : "font-semibold text-caution"}`}>
            {usual}
          </span>
        )}
      </span>
      <span>
        {f.points} failure points
        {f.points_from_patterns > 0 && `, ${f.points_from_patterns} from patterns`}, {f.checks} checks
      </span>
      <span className="text-soft">
        {kindWord[f.kind]}, version {f.version}
        {f.changed && `, ${ago(f.changed.slice(0, 10), today())}`};{" "}
        {f.sources.length === 1 ? "one source" : `${f.sources.length} sources`}
        {own && <span className="block">{judgedSays(f.judged)}</span>}
      </span>
    </Link>
  );
}

const HERE = ["127.0.0.1", "localhost", "[::1]"];

/** On a paired phone every sheet is read once, so that it is there without a connection. */
function useKeptSheets(ids: string) {
  useEffect(() => {
    if (!navigator.serviceWorker?.controller || HERE.includes(location.hostname)) return;
    let on = true;
    const read = async () => {
      for (const id of ids.split(" ").filter(Boolean))
        if (on) await api.newestFamily(id).catch(() => undefined);
    };
    void read();
    return () => {
      on = false;
    };
  }, [ids]);
}

/** Takes a sheet from a file. */
function FromFile() {
  const client = useQueryClient();
  const [said, setSaid] = useState("");
  const take = useMutation({
    mutationFn: async (file: File) => {
      let sheet: unknown;
      try {
        sheet = JSON.parse(await file.text());
      } catch {
        throw new Error(`${file.name} is no sheet: it is not written in the open format.`);
      }
      return api.importFamily(sheet as Family);
    },
    onSuccess: (head) => {
      setSaid(`Taken: ${head.name}, version ${head.version}.`);
      void client.invalidateQueries({ queryKey: ["families"] });
    },
    onMutate: () => setSaid(""),
  });
  return (
    <>
      <FileButton
        label="Sheet in the open format"
        accept="application/json,.json"
        disabled={take.isPending}
        onChoose={([file]) => file && take.mutate(file)}
      >
        From a file
      </FileButton>
      <div className="basis-full">
        {said && <p role="status">{said}</p>}
        <Trouble error={take.error} />
      </div>
    </>
  );
}

/** What is commonly known of each way to build a part: sheets are put together from these. */
function Patterns({ typed }: { typed: string }) {
  const library = useQuery({ queryKey: ["patterns"], queryFn: api.patterns, staleTime: Infinity });
  const [open, setOpen] = useState(false);
  const all = [...(library.data?.patterns ?? [])].sort((a, b) => a.name.localeCompare(b.name));
  const shown = all.filter((p) => sounds(typed, `${p.name} ${p.summary}`));
  if (all.length === 0) return <Trouble error={library.error} />;
  const searching = typed.trim() !== "";
  return (
    <details
      className="mt-6"
      data-testid="patterns"
      open={open || (searching && shown.length > 0)}
      onToggle={(e) => {
        if (!searching) setOpen(e.currentTarget.open);
      }}
    >
      <summary className="sign min-h-11 cursor-pointer py-2 text-xl font-bold">
        Patterns, {shown.length === all.length ? all.length : `${shown.length} of ${all.length}`}
      </summary>
      <p className="text-soft">
        What is commonly known of each way to build a part: common practice, no published source. A new sheet
        begins with those that its answers name, and what it says itself takes their place.
      </p>
      <ul className="mt-2">
        {shown.map((p) => (
          <li key={p.id} className="grid gap-x-6 border-b border-rule py-2 sm:grid-cols-[1.4fr_2fr_1fr]">
            <b>{p.name}</b>
            <span>{p.summary}</span>
            <span className="text-soft">
              {p.points === 1 ? "one failure point" : `${p.points} failure points`},{" "}
              {p.checks === 1 ? "one check" : `${p.checks || "no"} checks`}
              {p.clock === "hours" && ", by hours"}
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}

export function Sheets() {
  const families = useFamilies();
  const [typed, setTyped] = useState("");
  const all = [...(families.data ?? [])].sort((a, b) => a.name.localeCompare(b.name));
  const shown = all.filter((f) => sounds(typed, `${f.name} ${f.summary}`));
  useKeptSheets(all.map((f) => f.id).join(" "));
  const settings = useSettings();
  const currency = settings.data?.currency ?? "EUR";
  const sanities = useQueries({
    queries: shown.map((f) => ({
      queryKey: ["sanity", f.id, currency],
      queryFn: () => api.sanity(f.id, currency),
      enabled: settings.isFetched && !f.kind.startsWith("base_"),
      staleTime: 60_000,
      retry: false,
    })),
  });
  return (
    <Page
      title="Sheets"
      lead="What is known of each family: which points fail, when, how one notices, what it costs."
    >
      <Trouble error={families.error} />
      <div className="mt-4 flex flex-wrap items-end gap-4">
        <SearchField label="Find a sheet" value={typed} onChange={setTyped} />
        <Link className="btn btn-main" to="/new">
          New, from how it is built
        </Link>
        <FromFile />
      </div>
      <NewSheet currency={currency} />
      <ul className="mt-4">
        {shown.map((f, i) => (
          <li key={f.id} className="border-b-2 border-rule">
            <Row f={f} sanity={sanities[i]?.data} />
          </li>
        ))}
      </ul>
      <Patterns typed={typed} />
      {families.data && shown.length === 0 && (
        <p role="status" className="py-3 text-lg">
          No sheet sounds like that.
        </p>
      )}
    </Page>
  );
}
