// Talk beside a sheet: lines typed, dictated or pasted; what was understood; and writing it in.

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Family, type LineReading, type PageReading } from "../../lib/api";
import { useQuiet } from "../../lib/hooks";
import { pasteWhole } from "../../lib/paste";
import { Field } from "../../parts/Field";
import { useSettings } from "../../parts/FirstStart";
import { Trouble } from "../../parts/Trouble";

const chipWord: Record<string, string> = {
  part: "part",
  claim: "when",
  share: "how many",
  sign: "sign",
  price: "cost",
  hours: "hours",
  lived_with: "lived with",
  notice: "warning",
  ends_engine: "ends the engine",
  exposure: "use",
  route: "first try",
  takes_along: "takes along",
  wears: "wears",
  stage: "stage",
  supply: "parts and hands",
  with_it: "with it",
  built: "builds",
  serial: "serials",
  variant: "variants",
  revision: "revised",
  interval: "due",
  campaign: "campaign",
  care_rule: "care",
  upgrade: "upgrade",
  advice: "advice",
  praise: "praise",
  source: "who says it",
};

/** What an answer to the one question adds to the line. */
const answers: Record<string, { asks: string; adds: [string, string][] }> = {
  how_many: {
    asks: "How many have it?",
    adds: [
      ["rare", "rare"],
      ["one in ten", "one in ten"],
      ["common", "common"],
      ["most", "most"],
    ],
  },
  when: {
    asks: "When does it come? Add a distance or an age.",
    adds: [],
  },
  what_cost: { asks: "What does it cost? Add a price, or leave it at the usual.", adds: [] },
  which_part: { asks: "Which part is it about? Name it first, with a colon.", adds: [] },
  which_holds: { asks: "The two figures contradict each other: leave the one that holds.", adds: [] },
};

/** A line with its chips under the words that they stand for. */
function Read({ line, onAdd }: { line: LineReading; onAdd: (words: string) => void }) {
  const chars = [...line.text];
  const pieces: { text: string; chip?: LineReading["chips"][number] }[] = [];
  let at = 0;
  for (const chip of line.chips) {
    if (chip.from > at) pieces.push({ text: chars.slice(at, chip.from).join("") });
    if (chip.from >= at) pieces.push({ text: chars.slice(chip.from, chip.to).join(""), chip });
    at = Math.max(at, chip.to);
  }
  if (at < chars.length) pieces.push({ text: chars.slice(at).join("") });
  const ask = line.question ? answers[line.question] : undefined;
  return (
    <li className="border-b border-rule py-2">
      {line.place && <span className="reading mr-2 text-sm text-soft">{line.place}</span>}
      {pieces.map((p, i) =>
        p.chip ? (
          <mark
            key={i}
            className="border-b-4 border-sea bg-transparent font-semibold text-ink"
            title={p.chip.says}
          >
            {p.text}
          </mark>
        ) : (
          <span key={i} className="text-soft">
            {p.text}
          </span>
        ),
      )}
      {line.chips.length > 0 ? (
        <span className="mt-1 flex flex-wrap gap-x-3 gap-y-1 text-sm">
          {line.chips.map((c, i) => (
            <span key={i}>
              <b className="sign">{chipWord[c.kind] ?? c.kind}</b> {c.says}
            </span>
          ))}
        </span>
      ) : (
        <span className="mt-1 block text-sm text-soft">
          Kept beside the sheet as a note: nothing of it is placed.
        </span>
      )}
      {ask && (
        <span className="mt-1 flex flex-wrap items-center gap-2 text-caution">
          {ask.asks}
          {ask.adds.map(([word, adds]) => (
            <button key={word} type="button" className="btn" onClick={() => onAdd(adds)}>
              {word}
            </button>
          ))}
        </span>
      )}
    </li>
  );
}

const keyOf = (id: string) => `ticksage.talk.${id}`;

export function Talk({
  family,
  draft,
  onDraft,
  onWritten,
}: {
  family: Family;
  /** The sheet as it is edited, where it is; then lines go there. */
  draft: Family | undefined;
  onDraft: (sheet: Family) => void;
  onWritten: (says: string) => void;
}) {
  const client = useQueryClient();
  const settings = useSettings();
  const miles = settings.data?.unit === "mi";
  const [text, setText] = useState(() => localStorage.getItem(keyOf(family.id)) ?? "");
  const [title, setTitle] = useState("");
  const [correct, setCorrect] = useState(false);
  const quiet = useQuiet(text, 200);
  const read = useQuery({
    queryKey: ["talk", family.id, family.version, quiet, miles],
    queryFn: () => api.readTalk({ text: quiet, family: family.id, miles }),
    enabled: quiet.trim() !== "",
    placeholderData: (previous) => previous,
    retry: false,
    staleTime: Infinity,
  });
  const type = (typed: string) => {
    setText(typed);
    localStorage.setItem(keyOf(family.id), typed);
  };
  const page: PageReading | undefined = text.trim() === "" ? undefined : read.data;
  const ready = (page?.lines ?? []).filter((l) => l.said != null);
  const write = useMutation({
    mutationFn: () =>
      api.writeTalk(family.id, {
        from: family.version,
        miles,
        ...(draft && { sheet: draft }),
        source: title.trim() === "" ? {} : { title: title.trim() },
        lines: ready.map((l) => ({
          text: l.text,
          mode: correct ? ("correct" as const) : ("add" as const),
          ...(l.place != null && { place: l.place }),
        })),
      }),
    onSuccess: async (done) => {
      // What was not placed stays where it was typed.
      type(
        (page?.lines ?? [])
          .filter((l) => l.said == null || done.notes.includes(l.text))
          .map((l) => l.text)
          .join("\n"),
      );
      if (done.draft) {
        if (done.changed > 0) onDraft(done.draft);
        onWritten(
          done.changed === 0
            ? "The draft held all of it already."
            : `${done.changed === 1 ? "One line is" : `${done.changed} lines are`} in the draft.`,
        );
        return;
      }
      await client.invalidateQueries({ queryKey: ["families"] });
      await client.invalidateQueries({ queryKey: ["sheet", family.id] });
      await client.invalidateQueries({ queryKey: ["sanity", family.id] });
      onWritten(
        done.changed === 0
          ? "The sheet held all of it already."
          : `${done.changed === 1 ? "One line is" : `${done.changed} lines are`} in the sheet: version ${done.family.version}.`,
      );
    },
  });
  return (
    <section aria-label="Talk">
      <Field
        label="Say what you know, a line for each"
        hint="“Water pump: common, between 90k and 140k, leaks, 380.” Or paste a page."
      >
        <textarea
          className="field"
          rows={5}
          value={text}
          onPaste={pasteWhole(type)}
          onChange={(e) => type(e.target.value)}
        />
      </Field>
      {page && (
        <>
          <p role="status" className="mt-2 font-semibold" data-testid="talk-read">
            {page.placed} placed, {page.asked} ask, {page.notes} kept as notes
          </p>
          <ul data-testid="talk-lines">
            {page.lines.slice(0, 200).map((l, i) => (
              <Read
                key={`${i}-${l.text}`}
                line={l}
                onAdd={(words) => type(text.replace(l.text, `${l.text}, ${words}`))}
              />
            ))}
          </ul>
          {page.lines.length > 200 && <p>{page.lines.length - 200} more lines are read as well.</p>}
          <div className="mt-3 grid gap-2">
            <Field label="Where it comes from" hint="A title, a talk, a page. Kept with each claim.">
              <input
                className="field"
                maxLength={200}
                value={title}
                onChange={(e) => setTitle(e.target.value)}
              />
            </Field>
            <label className="flex min-h-11 items-center gap-2">
              <input
                type="checkbox"
                className="h-6 w-6 accent-(--sea)"
                checked={correct}
                onChange={(e) => setCorrect(e.target.checked)}
              />
              These lines correct what the same source said before
            </label>
            <button
              type="button"
              className="btn btn-main"
              disabled={ready.length === 0 || write.isPending}
              onClick={() => write.mutate()}
            >
              {ready.length === 1
                ? `Write the line into the ${draft ? "draft" : "sheet"}`
                : `Write ${ready.length} lines into the ${draft ? "draft" : "sheet"}`}
            </button>
          </div>
        </>
      )}
      <Trouble error={read.error ?? write.error} />
    </section>
  );
}
