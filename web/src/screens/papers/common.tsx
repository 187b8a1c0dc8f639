// What the parts of the papers share: storing something and telling what it moved.

import { useMutation } from "@tanstack/react-query";
import { createContext, useContext, type ReactNode } from "react";
import {
  api,
  type Candidate,
  type CandidateView,
  type Moved,
  type Paper,
  type PapersAnswer,
} from "../../lib/api";
import { useFreshView } from "../../lib/hooks";
import { newId } from "../../lib/id";

/** What was entered last, and what that moved. */
export interface Told {
  says: string;
  moved: Moved;
  /** Names of the papers that can be taken back. */
  stored: string[];
  /** Whether they were taken back just now, so that they can be put in force again. */
  undone: boolean;
  /** The document before, where a setting was changed. */
  before?: Candidate;
}

interface Desk {
  view: CandidateView;
  tell: (told: Told) => void;
}

const DeskContext = createContext<Desk | null>(null);
export const DeskProvider = DeskContext.Provider;

export function useDesk(): Desk {
  const desk = useContext(DeskContext);
  if (!desk) throw new Error("a part of the papers stands outside the papers");
  return desk;
}

/** Stores papers, or takes them back, and tells what that moved. */
export function usePaperMutations() {
  const { view, tell } = useDesk();
  const fresh = useFreshView();
  const done = (says: string, answer: PapersAnswer, undone = false) => {
    fresh(answer.view);
    tell({ says, moved: answer.moved, stored: answer.stored, undone });
  };
  const add = useMutation({
    mutationFn: ({ papers, corrects }: { papers: Paper[]; says: string; corrects?: string }) =>
      api.addPapers(
        view.id,
        papers.map((paper) => ({ id: newId(), paper })),
        corrects,
      ),
    onSuccess: (answer, { says }) => done(says, answer),
  });
  const undo = useMutation({
    mutationFn: ({ papers, undone }: { papers: string[]; undone: boolean; says: string }) =>
      api.undoPapers(view.id, papers, undone),
    onSuccess: (answer, { says, undone }) => done(says, answer, undone),
  });
  return { add, undo, done };
}

/** Changes the document and tells what that moved. */
export function useSetting() {
  const { view, tell } = useDesk();
  const fresh = useFreshView();
  return useMutation({
    mutationFn: async ({ change }: { change: (c: Candidate) => Candidate; says: string }) => {
      const before = view.candidate;
      const stored = await api.edit(view.id, view.version, change(before));
      return { before, stored, moved: await api.compare(before, stored.candidate) };
    },
    onSuccess: ({ before, stored, moved }, { says }) => {
      fresh(stored);
      tell({ says, moved, stored: [], undone: false, before });
    },
  });
}

/** One of a few answers, as a row of keys. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
  hideLabel = false,
  open,
}: {
  label: string;
  value: T;
  options: [T, string][];
  onChange: (value: T) => void;
  hideLabel?: boolean;
  /** The answer that is none yet. */
  open?: T;
}) {
  return (
    <div role="radiogroup" aria-label={label} className="min-w-0">
      {!hideLabel && <span className="sign block text-[1.05rem] font-semibold">{label}</span>}
      <div className="inline-flex max-w-full flex-wrap border-2 border-ink bg-raised">
        {options.map(([id, name]) => (
          <button
            key={id}
            type="button"
            role="radio"
            aria-checked={value === id}
            onClick={() => onChange(id)}
            className={`sign min-h-11 px-3 text-[1.05rem] leading-tight font-semibold not-last:border-r-2 not-last:border-ink ${
              id === open
                ? "aria-checked:bg-sunk aria-checked:text-soft"
                : "aria-checked:bg-ink aria-checked:text-paper"
            }`}
          >
            {name}
          </button>
        ))}
      </div>
    </div>
  );
}

export function Labelled({ label, hint, children }: { label: string; hint?: string; children: ReactNode }) {
  return (
    <label className="block min-w-0">
      <span className="sign block text-[1.05rem] font-semibold">{label}</span>
      {children}
      {hint && <span className="block text-sm text-soft">{hint}</span>}
    </label>
  );
}

/** A day between build and the day of judgement. */
export function PastDate({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (day: string) => void;
}) {
  const { candidate } = useDesk().view;
  return (
    <Labelled label={label}>
      <input
        className="field"
        type="date"
        min={candidate.built}
        max={candidate.as_of}
        value={value}
        onChange={(e) => onChange(e.target.value)}
      />
    </Labelled>
  );
}
