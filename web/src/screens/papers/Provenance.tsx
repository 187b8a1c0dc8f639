import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useFamilies } from "../../lib/hooks";
import { api, type HistoryAnswer, type ProvenanceKind, type ProvenanceState } from "../../lib/api";
import { FileButton } from "../../parts/FileButton";
import { Choice, Labelled, useDesk, useSetting, usePaperMutations } from "./common";
import { day } from "../../lib/format";
import { provenanceItem, provenanceMeans, provenanceSay } from "../../lib/words";
import { Trouble } from "../../parts/Trouble";

/** Every item, what could stop the purchase first. */
export const items: ProvenanceKind[] = [
  "stolen",
  "scrapped",
  "identity",
  "written_off_structural",
  "finance",
  "third_party",
  "mileage",
  "written_off",
  "imported",
  "plate",
  "colour",
];

const stateWord: Record<ProvenanceState, string> = {
  clear: "clear",
  marked: "marked",
  settled: "settled",
  not_asked: "not asked",
};

const answers: [ProvenanceState, string][] = [
  ["clear", "Clear"],
  ["marked", "Marked"],
  ["settled", "Settled"],
  ["not_asked", "Not asked"],
];

/** What to do about a marker that can be cleared, step by step. */
const steps: Partial<Record<ProvenanceKind, string[]>> = {
  finance: [
    "Ask the seller who the lender is, and for the lender’s letter that nothing is owed.",
    "Ring the lender yourself, by a number that you looked up, with the agreement’s number.",
    "A marker paid off and forgotten clears in 3 to 4 days once the lender has written. Ask the register again before you pay.",
    "If money is owed, pay the lender, not the seller; take the receipt before the keys.",
  ],
  third_party: [
    "Ask who holds the right, and why.",
    "See it given up in writing, signed by them.",
    "Ask the register again before you pay.",
  ],
  mileage: [
    "Enter every reading under “The clock”.",
    "Find the paper that explains the one that does not fit.",
  ],
};

function useItem(item: ProvenanceKind) {
  const { candidate } = useDesk().view;
  const found = (candidate.provenance ?? []).filter((p) => p.item === item).at(-1);
  return { state: found?.state ?? "not_asked", note: found?.note ?? "" };
}

function Item({ item }: { item: ProvenanceKind }) {
  const { state, note } = useItem(item);
  const [typed, setTyped] = useState<string | null>(null);
  const { add } = usePaperMutations();
  const word = provenanceItem[item] ?? item;
  const put = (next: ProvenanceState, text: string) =>
    add.mutate(
      {
        papers: [{ kind: "provenance", paper: { item, state: next, note: text } }],
        says: `${word}: ${stateWord[next]}`,
      },
      { onSuccess: () => setTyped(null) },
    );
  const open = state === "marked" || state === "settled" || typed !== null;
  return (
    <li className="border-b border-rule py-2" data-testid={`item-${item}`}>
      <div className="grid items-center gap-x-4 gap-y-1 md:grid-cols-[1fr_auto]">
        <div className="min-w-0 leading-tight">
          <h3 className="sign text-[1.2rem] font-bold">{word}</h3>
          <p className="text-[0.92rem] text-soft">{provenanceMeans[item]}</p>
        </div>
        <Choice
          label={word}
          hideLabel
          value={state}
          open="not_asked"
          options={answers}
          onChange={(s) => put(s, note)}
        />
      </div>
      {open && (
        <div className={`mt-2 p-2 ${state === "marked" ? "border-l-8 border-ink bg-sunk" : ""}`}>
          {state === "marked" && provenanceSay[item] && (
            <p className="font-semibold">{provenanceSay[item]}</p>
          )}
          {state === "marked" && steps[item] && (
            <ol className="mt-1 list-decimal pl-5">
              {steps[item].map((s) => (
                <li key={s}>{s}</li>
              ))}
            </ol>
          )}
          <div className="mt-1 flex flex-wrap items-end gap-2">
            <div className="min-w-60 flex-1">
              <Labelled label="Who said so, and what">
                <input
                  className="field"
                  value={typed ?? note}
                  maxLength={400}
                  onChange={(e) => setTyped(e.target.value)}
                />
              </Labelled>
            </div>
            <button
              type="button"
              className="btn"
              disabled={typed === null || typed === note || add.isPending}
              onClick={() => put(state, typed ?? note)}
            >
              Keep the note
            </button>
          </div>
        </div>
      )}
      <Trouble error={add.error} />
    </li>
  );
}

/** What came back from a register, beside what stands here. */
function Report({ answer, onTaken }: { answer: HistoryAnswer; onTaken: () => void }) {
  const { view } = useDesk();
  const { done } = usePaperMutations();
  const { report, refused } = answer;
  const take = useMutation({
    mutationFn: () => api.takeHistory(view.id, report),
    onSuccess: (a) => {
      const count = a.stored.length;
      const already = a.already > 0 ? `, ${a.already} were here already` : "";
      done(`Report taken in: ${count} paper${count === 1 ? "" : "s"}${already}`, a);
      onTaken();
    },
  });
  const marked = report.items.filter((i) => i.state === "marked");
  const clear = report.items.filter((i) => i.state === "clear");
  return (
    <div className="mt-3 border-2 border-ink bg-raised p-3" data-testid="report">
      <h3 className="sign text-lg font-bold">
        {report.source}, {day(report.asked_on)}
      </h3>
      {report.simulated && (
        <p className="sign inline-block border-2 border-dashed border-ink px-2 font-semibold">
          Simulated: made up for trying out. It says nothing of a real vehicle.
        </p>
      )}
      <p className="mt-1">
        {report.vin && (
          <>
            VIN <b className="reading">{report.vin}</b>{" "}
          </>
        )}
        {report.plate && (
          <>
            plate <b className="reading">{report.plate}</b>
          </>
        )}
      </p>
      {marked.length > 0 ? (
        <ul className="mt-1">
          {marked.map((i) => (
            <li key={i.item} className="border-l-8 border-ink pl-2">
              <b className="sign text-[1.1rem]">{provenanceItem[i.item] ?? i.item}: marked.</b> {i.note}
            </li>
          ))}
        </ul>
      ) : (
        <p className="mt-1 font-semibold">Nothing is marked.</p>
      )}
      <p className="mt-1">
        Clear: {clear.map((i) => (provenanceItem[i.item] ?? i.item).toLowerCase()).join(", ") || "nothing"}.{" "}
        {report.readings?.length ?? 0} readings, {report.advisories?.length ?? 0}{" "}
        {report.advisories?.length === 1 ? "advisory" : "advisories"}.
      </p>
      {refused ? (
        <p role="alert" className="mt-2 font-bold text-caution">
          It cannot be taken in: {refused}.
        </p>
      ) : (
        <button
          type="button"
          className="btn btn-main mt-2"
          disabled={take.isPending}
          onClick={() => take.mutate()}
        >
          Take it in
        </button>
      )}
      <Trouble error={take.error} />
    </div>
  );
}

function Identity() {
  const { view } = useDesk();
  const { candidate, assessment } = view;
  const [draft, setDraft] = useState({
    vin: candidate.vin ?? "",
    plate: candidate.plate ?? "",
    serials: candidate.serials ?? {},
  });
  const families = useFamilies();
  // A bare engine has no VIN: its own number is its identity. Elsewhere a number counts where it decides.
  const numbered = (families.data ?? []).filter(
    (f) =>
      candidate.families.some((r) => r.id === f.id) &&
      (f.serial_decides ||
        (candidate.families.filter((r) => !r.id.startsWith("base-")).length === 1 && f.kind === "engine")),
  );
  const setting = useSetting();
  const changed =
    draft.vin !== (candidate.vin ?? "") ||
    draft.plate !== (candidate.plate ?? "") ||
    numbered.some((f) => (draft.serials[f.id] ?? "") !== (candidate.serials?.[f.id] ?? ""));
  const { vin, notes } = assessment.identity;
  const says: string[] = [];
  if (vin) {
    for (const f of vin.faults) {
      if (f.kind === "length") says.push(`It has ${f.characters} characters; a VIN has 17.`);
      else
        says.push(
          `Character ${f.position} is “${f.character}”, which no VIN holds${f.meant ? `: is it a ${f.meant}?` : "."}`,
        );
    }
    if (vin.check?.kind === "agrees") says.push("Its check digit agrees.");
    if (vin.check?.kind === "disagrees")
      says.push(
        `Its check digit is ${vin.check.found} and should be ${vin.check.expected}: one character is wrong, or the number was made up. Read it again from the vehicle.`,
      );
    if (vin.check?.kind === "not_used")
      says.push("It carries no check digit; outside North America none is required.");
    if (vin.model_years.length > 0)
      says.push(
        `Its tenth character stands for model year ${vin.model_years.join(" or ")}${vin.north_american ? "" : ", where the maker uses it so"}.`,
      );
  }
  const off = notes.flatMap((n) => {
    if (n.kind === "model_year")
      return [
        `None of these fits the build date, ${day(candidate.built)}: compare the registration paper with the plate on the body.`,
      ];
    if (n.kind === "outside_window")
      return [
        `Built on ${day(candidate.built)}, outside the years of ${n.name}: is it the right family, or the right date?`,
      ];
    return [];
  });
  return (
    <form
      className="border-b-2 border-ink pb-3"
      onSubmit={(e) => {
        e.preventDefault();
        setting.mutate({
          change: (c) => ({
            ...c,
            vin: draft.vin.trim(),
            plate: draft.plate.trim(),
            serials: Object.fromEntries(
              Object.entries({ ...c.serials, ...draft.serials }).filter(([, n]) => n.trim() !== ""),
            ),
          }),
          says: "Numbers kept",
        });
      }}
    >
      <div className="grid items-end gap-3 sm:grid-cols-[1fr_10rem_auto]">
        <Labelled label="VIN, as on the vehicle">
          <input
            className="field reading tracking-wide!"
            autoCapitalize="characters"
            autoComplete="off"
            spellCheck={false}
            maxLength={40}
            value={draft.vin}
            onChange={(e) => setDraft({ ...draft, vin: e.target.value })}
          />
        </Labelled>
        <Labelled label="Plate">
          <input
            className="field reading"
            autoComplete="off"
            maxLength={20}
            value={draft.plate}
            onChange={(e) => setDraft({ ...draft, plate: e.target.value })}
          />
        </Labelled>
        <button type="submit" className="btn" disabled={!changed || setting.isPending}>
          Keep
        </button>
        {numbered.map((f) => (
          <Labelled key={f.id} label={`Number stamped on it: ${f.name}`}>
            <input
              className="field reading"
              autoCapitalize="characters"
              autoComplete="off"
              maxLength={40}
              value={draft.serials[f.id] ?? ""}
              onChange={(e) => setDraft({ ...draft, serials: { ...draft.serials, [f.id]: e.target.value } })}
            />
          </Labelled>
        ))}
      </div>
      <div data-testid="identity" className="mt-1 text-[0.95rem]">
        {!vin && (
          <p className="text-soft">
            {candidate.families.filter((r) => !r.id.startsWith("base-")).length === 1 && numbered.length > 0
              ? "A bare engine has no VIN: compare the number stamped on it with the papers, character by character."
              : "No VIN entered: neither identity nor recalls can be looked up without it."}
          </p>
        )}
        {says.map((s) => (
          <p key={s}>{s}</p>
        ))}
        {off.map((s) => (
          <p key={s} className="font-semibold text-caution">
            {s}
          </p>
        ))}
      </div>
      <Trouble error={setting.error} />
    </form>
  );
}

export function Provenance() {
  const { view } = useDesk();
  const [answer, setAnswer] = useState<HistoryAnswer | null>(null);
  const { add } = usePaperMutations();
  const ask = useMutation({ mutationFn: () => api.askHistory(view.id), onSuccess: setAnswer });
  const read = useMutation({
    mutationFn: async (f: File) => api.readHistory(view.id, await f.text()),
    onSuccess: setAnswer,
  });
  const asked = new Set(
    (view.candidate.provenance ?? []).filter((p) => p.state !== "not_asked").map((p) => p.item),
  );
  const open = items.filter((i) => !asked.has(i));
  return (
    <section aria-label="Provenance">
      <h2 className="mb-2 text-2xl">Whose it is, and what it was through</h2>
      <Identity
        key={`${view.candidate.vin}|${view.candidate.plate}|${JSON.stringify(view.candidate.serials)}`}
      />
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <button type="button" className="btn btn-main" disabled={ask.isPending} onClick={() => ask.mutate()}>
          {ask.isPending ? "Asking the register…" : "Ask the register"}
        </button>
        <FileButton
          label="Report file"
          accept="application/json,.json"
          onChoose={([f]) => f && read.mutate(f)}
        >
          Report from a file
        </FileButton>
        {open.length > 0 && open.length < items.length && (
          <button
            type="button"
            className="btn btn-quiet"
            disabled={add.isPending}
            onClick={() =>
              add.mutate({
                papers: open.map((item) => ({
                  kind: "provenance",
                  paper: { item, state: "clear", note: "" },
                })),
                says: `${open.length} items clear`,
              })
            }
          >
            The other {open.length} are clear
          </button>
        )}
      </div>
      <p className="mt-1 text-sm text-soft">
        The register that ships with the application is simulated. For a real vehicle enter what your own
        history report says.
      </p>
      <Trouble error={ask.error ?? read.error ?? add.error} />
      {answer && <Report answer={answer} onTaken={() => setAnswer(null)} />}
      <ul className="mt-2">
        {items.map((item) => (
          <Item key={item} item={item} />
        ))}
      </ul>
    </section>
  );
}
