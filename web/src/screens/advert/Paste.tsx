import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import type { UseFormReturn } from "react-hook-form";
import { api, type AdvertReading, type FamilyHead } from "../../lib/api";
import { usage as usageSays, whole } from "../../lib/format";
import { Trouble } from "../../parts/Trouble";
import { baseFor, isBase, type Draft } from "./draft";

/** What was read, as one says it. */
function chips(r: AdvertReading, families: FamilyHead[]): string[] {
  const name = (id: string) => families.find((f) => f.id === id)?.name ?? id;
  return [
    ...(r.asking == null ? [] : [`asks ${whole(r.asking)}${r.currency ? ` ${r.currency}` : ""}`]),
    ...(r.usage ? [usageSays(r.usage.value, r.usage.unit, 1)] : []),
    ...(r.built ? [r.built_known === "year" ? `built ${r.built.slice(0, 4)}` : `built ${r.built}`] : []),
    ...(r.place ? [`at ${r.place}`] : []),
    ...r.families.map(name),
  ];
}

/** What it says of the whole that no figure of the form holds. */
function cautions({ sold_as: s }: AdvertReading): string[] {
  return [
    ...(s.broken ? [`It says “${s.broken}”: every figure here assumes that it runs.`] : []),
    ...(s.written_off
      ? [`It says “${s.written_off}”: written off by an insurer. Enter the history report under Papers.`]
      : []),
    ...(s.no_test ? [`It says “${s.no_test}”: what it needs to pass a test is in no figure here.`] : []),
    ...(s.lamp ? [`It says “${s.lamp}”: read the codes before anything else.`] : []),
    ...(s.without_tax ? [`It says “${s.without_tax}”: tax comes on top of the price.`] : []),
  ];
}

/** The note that an advert leaves: what it names, and what was not understood, word for word. */
function noteOf(r: AdvertReading): string {
  const named = r.named.map((n) => n.about).join(", ");
  return [r.place && `Stands at ${r.place}.`, named && `Names: ${named}.`, r.rest].filter(Boolean).join("\n");
}

/** An advert pasted as text fills what is still empty in the form. */
export function Paste({ form, families }: { form: UseFormReturn<Draft>; families: FamilyHead[] }) {
  const [text, setText] = useState("");
  const read = useMutation({
    mutationFn: () => api.readAdvert(text),
    onSuccess: (r) => {
      const draft = form.getValues();
      const set = <K extends keyof Draft>(key: K, value: Draft[K]) =>
        form.setValue(key, value as never, { shouldDirty: true });
      if (draft.title === "" && r.title) set("title", r.title);
      if (draft.asking === "" && r.asking != null) set("asking", String(r.asking));
      if (draft.usage === "" && r.usage) {
        set("usage", String(r.usage.value));
        set("unit", r.usage.unit);
      }
      if (draft.built === "" && r.built) set("built", r.built);
      const own = draft.families.filter((id) => !families.some((f) => f.id === id && isBase(f)));
      if (own.length === 0 && r.families.length > 0) {
        const picked = families.filter((f) => r.families.includes(f.id));
        set("families", [...picked.map((f) => f.id), ...baseFor(picked, families)]);
      }
      if (own.length === 0 && r.families.length === 0 && Object.keys(r.built_as).length > 0) {
        // No sheet is named: what it says of how it is built is answered already.
        set("answers", { ...r.built_as, ...draft.answers });
        set("builtOpen", true);
      }
      const note = noteOf(r).slice(0, 4000);
      if (note) set("note", draft.note === "" ? note : `${draft.note}\n${note}`.slice(0, 4000));
    },
  });
  const got = read.data;
  return (
    <details
      className="mb-5 border-2 border-rule bg-raised px-4 py-2"
      open={text !== "" || got !== undefined}
    >
      <summary className="sign min-h-11 cursor-pointer content-center text-lg font-bold">
        Paste the advert
      </summary>
      <label className="block">
        <span className="text-[0.95rem] text-soft">
          Price, usage, year, place and families are read into the form, where it is still empty. Every other
          word goes into the note.
        </span>
        <textarea
          className="field mt-1"
          rows={5}
          maxLength={20_000}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </label>
      <div className="mt-2 mb-1 flex flex-wrap items-center gap-3">
        <button
          type="button"
          className="btn"
          disabled={text.trim() === "" || read.isPending}
          onClick={() => read.mutate()}
        >
          Read it
        </button>
        <p role="status" className="sign text-base">
          {got &&
            (chips(got, families).length > 0
              ? `Read: ${chips(got, families).join(" · ")}`
              : "Nothing of it is a figure of this form: it stands in the note.")}
        </p>
      </div>
      {got && cautions(got).length > 0 && (
        <ul className="mb-2 border-l-4 border-caution pl-3" data-testid="sold-as">
          {cautions(got).map((c) => (
            <li key={c}>{c}</li>
          ))}
        </ul>
      )}
      <Trouble error={read.error} />
    </details>
  );
}
