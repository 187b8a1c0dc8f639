// One sheet: its points on the road, talk beside it, and whether it makes sense.

import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { api, type Family, type Sanity } from "../../lib/api";
import { useFamilies } from "../../lib/hooks";
import { Field } from "../../parts/Field";
import { Page } from "../../parts/Shell";
import { Trouble } from "../../parts/Trouble";
import { DraftBar } from "./DraftBar";
import { EditPoint } from "./EditPoint";
import { EditRest } from "./EditRest";
import { Sane } from "./Sane";
import { Lanes } from "./Lanes";
import { Talk } from "./Talk";
import { addPoint, freeId } from "./draft";
import { useDraft } from "./useDraft";
import { useSheet } from "./useSheet";

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

/** What makes sense in it and is odd all the same, so that nobody overlooks it. */
function Odd({ id }: { id: string }) {
  const notices = useFamilies().data?.find((f) => f.id === id)?.notices ?? [];
  if (notices.length === 0) return null;
  return (
    <section aria-label="Odd in this sheet" className="mt-4 border-l-4 border-caution pl-3" data-testid="odd">
      <h2 className="font-bold">Odd, but allowed</h2>
      <ul>
        {notices.map((n) => (
          <li key={n.path}>{n.message}.</li>
        ))}
      </ul>
    </section>
  );
}

/** A new point by its name. */
function NewPoint({ onAdd }: { onAdd: (name: string) => void }) {
  const [name, setName] = useState("");
  return (
    <form
      className="mt-4 flex flex-wrap items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (name.trim() === "") return;
        onAdd(name.trim());
        setName("");
      }}
    >
      <Field label="A failure point that is missing">
        <input
          className="field"
          maxLength={80}
          placeholder="its name"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
      </Field>
      <button type="submit" className="btn" disabled={name.trim() === ""}>
        Add it
      </button>
    </form>
  );
}

/** A sheet of one's own from a copy: what it says, under another name. */
function Copy({ family }: { family: Family }) {
  const go = useNavigate();
  const families = useFamilies();
  const client = useQueryClient();
  const [name, setName] = useState(`${family.name}, copy`);
  const copy = useMutation({
    mutationFn: () => {
      const taken = (families.data ?? []).map((f) => f.id);
      const kind = family.kind === "base_vehicle" ? "body" : family.kind;
      const own = kind === "base_motorcycle" ? "motorcycle" : kind === "base_engine" ? "engine" : kind;
      return api.importFamily({
        ...family,
        kind: own,
        id: freeId(name, taken),
        version: 1,
        name: name.trim(),
      });
    },
    onSuccess: async (head) => {
      await client.invalidateQueries({ queryKey: ["families"] });
      void go(`/sheets/${head.id}`);
    },
  });
  return (
    <details className="mt-4">
      <summary className="min-h-11 cursor-pointer py-2 underline underline-offset-4">
        Make a copy of it
      </summary>
      <Field label="Name of the copy">
        <input className="field" maxLength={80} value={name} onChange={(e) => setName(e.target.value)} />
      </Field>
      <button
        type="button"
        className="btn mt-2"
        disabled={name.trim() === "" || copy.isPending}
        onClick={() => copy.mutate()}
      >
        Copy it
      </button>
      <Trouble error={copy.error} />
    </details>
  );
}

/** The sheet with its draft: what is edited is what is shown. */
function Open({
  family,
  currency,
  sanity,
  said,
  setSaid,
}: {
  family: Family;
  currency: string;
  sanity: Sanity | undefined;
  said: string;
  setSaid: (says: string) => void;
}) {
  const draft = useDraft(family);
  const [params] = useSearchParams();
  const asked = params.get("point") ?? undefined;
  const [chosen, setChosen] = useState(asked);
  const [editing, setEditing] = useState(false);
  const [ofDraft, setOfDraft] = useState<Sanity>();
  // Asked for by name while the sheet is open.
  const [before, setBefore] = useState(asked);
  if (asked !== before) {
    setBefore(asked);
    setChosen(asked);
    setEditing(false);
  }
  useEffect(() => {
    if (asked) document.getElementById(`lane-${asked}`)?.scrollIntoView({ block: "center" });
  }, [asked]);
  const f = draft.sheet;
  const own = !family.kind.startsWith("base_");
  const point = (f.points ?? []).find((p) => p.id === chosen);
  const choose = (id: string) => {
    setChosen(id);
    setSaid("");
  };
  return (
    <>
      {(draft.drafted || draft.canRedo) && (
        <DraftBar
          family={family}
          draft={draft}
          currency={currency}
          onLook={setOfDraft}
          onPublished={setSaid}
        />
      )}
      <div className="mt-4 grid gap-x-12 gap-y-8 lg:grid-cols-[1fr_27rem]">
        <div className="min-w-0">
          <Lanes
            family={f}
            lanes={(draft.drafted ? (ofDraft ?? sanity) : sanity)?.lanes}
            chosen={chosen}
            onChoose={choose}
          />
          {own && (
            <NewPoint
              onAdd={(name) => {
                const [sheet, id] = addPoint(f, name, point?.system ?? "engine");
                draft.edit(sheet);
                setChosen(id);
                setEditing(true);
              }}
            />
          )}
          {own && <EditRest sheet={f} onEdit={draft.edit} />}
        </div>
        <div className="max-lg:order-first lg:sticky lg:top-2 lg:max-h-[96vh] lg:self-start lg:overflow-y-auto lg:pr-1">
          {said && (
            <p role="status" className="mb-2 font-semibold">
              {said}
            </p>
          )}
          {point && editing ? (
            <>
              <button type="button" className="btn" onClick={() => setEditing(false)}>
                Done with this point
              </button>
              <EditPoint
                key={point.id}
                sheet={f}
                base={family}
                currency={currency}
                id={point.id}
                onEdit={draft.edit}
                onGone={() => {
                  setChosen(undefined);
                  setEditing(false);
                }}
              />
            </>
          ) : (
            <>
              {own ? (
                <Talk
                  key={family.id}
                  family={family}
                  draft={draft.drafted ? f : undefined}
                  onDraft={draft.edit}
                  onWritten={setSaid}
                />
              ) : (
                <p>
                  It ships with the application. What a sheet of your own says of the same part takes its
                  place.
                </p>
              )}
              {point && <About family={f} id={point.id} />}
              {point && own && (
                <button type="button" className="btn btn-main mt-2 ml-3" onClick={() => setEditing(true)}>
                  Edit this point
                </button>
              )}
              {sanity && !draft.drafted && <Sane sanity={sanity} />}
              {!draft.drafted && <Odd id={family.id} />}
              <Copy family={family} />
            </>
          )}
        </div>
      </div>
    </>
  );
}

export function Sheet() {
  const { id = "" } = useParams();
  const { sheet, sanity, currency } = useSheet(id);
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
            ·{" "}
            <Link to={`/sheets/${id}/compare`} className="text-ink underline underline-offset-4">
              Compare or merge
            </Link>{" "}
            ·{" "}
            <Link to={`/sheets/${id}/card`} className="text-ink underline underline-offset-4">
              Field card
            </Link>{" "}
            · version {f.version} · {(f.sources ?? []).map((s) => s.name).join(", ")}
          </span>
        )}
      </p>
      <Trouble error={sheet.error} />
      {f && (
        <Open
          key={`${f.id}-${f.version}`}
          family={f}
          currency={currency}
          sanity={sanity.data}
          said={said}
          setSaid={setSaid}
        />
      )}
    </Page>
  );
}
