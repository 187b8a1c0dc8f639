// A question tried out on a candidate: other sources, other use. Every screen shows its answer until it
// is kept or put back; nothing is stored meanwhile.

import { useEffect, useSyncExternalStore } from "react";
import {
  api,
  ApiError,
  type Assessment,
  type BillSpread,
  type Candidate,
  type CandidateView,
  type MaintenancePolicy,
  type OwnChoice,
  type Road,
  type WayChoice,
} from "./api";

type Buyer = NonNullable<Candidate["buyer"]>;
export type Appetite = NonNullable<Buyer["appetite"]>;
export type Labour = NonNullable<Buyer["labour"]>;
export type Parts = NonNullable<Buyer["parts"]>;

/** What is tried in the place of what is stored. */
export interface Patch {
  sources?: Record<string, number>;
  past?: Candidate["past_use"];
  plan?: Candidate["plan"]["use"];
  /** Years of keeping it, and usage in a year. */
  years?: number;
  ayear?: number;
  labour?: Labour;
  parts?: Parts;
  /** What is put by for it. */
  reserve?: number;
  appetite?: Appetite;
  /** What an hour costs, where it is another than the table's. */
  rates?: Buyer["rates"];
  policy?: MaintenancePolicy;
  /** Points decided by the person. */
  own?: OwnChoice[];
  /** Ways of putting a fault right that the person chose. */
  ways?: WayChoice[];
}

/** A judgement as the screens show it. */
interface Told {
  assessment: Assessment;
  road: Road;
}

interface State {
  id: string | null;
  patch: Patch;
  answer: {
    view: CandidateView;
    candidate: Candidate;
    told: Told;
    /** Whether it leaves out sources and the why, which are then as they were last told. */
    lean: boolean;
  } | null;
  problem: string | null;
}

const nothing: State = { id: null, patch: {}, answer: null, problem: null };
let state = nothing;
const listeners = new Set<() => void>();

function set(next: State) {
  state = next;
  listeners.forEach((l) => l());
}

function applied(candidate: Candidate, patch: Patch): Candidate {
  return {
    ...candidate,
    past_use: patch.past ?? candidate.past_use ?? {},
    plan: {
      ...candidate.plan,
      use: patch.plan ?? candidate.plan.use ?? {},
      years: patch.years ?? candidate.plan.years,
      usage_a_year: {
        ...candidate.plan.usage_a_year,
        value: patch.ayear ?? candidate.plan.usage_a_year.value,
      },
    },
    buyer: {
      accepts_structural: false,
      ...candidate.buyer,
      ...(patch.labour ? { labour: patch.labour } : {}),
      ...(patch.parts ? { parts: patch.parts } : {}),
      ...(patch.appetite ? { appetite: patch.appetite } : {}),
      ...(patch.rates ? { rates: patch.rates } : {}),
      ...(patch.reserve === undefined ? {} : { reserve: patch.reserve }),
      sources: patch.sources ?? candidate.buyer?.sources ?? {},
    },
    purchase_plan: {
      policy: patch.policy ?? candidate.purchase_plan?.policy ?? "least_cost",
      own: patch.own ?? candidate.purchase_plan?.own ?? [],
      ways: patch.ways ?? candidate.purchase_plan?.ways ?? [],
    },
  };
}

/** A buyer without what is put by, which changes no figure of a judgement. */
export function withoutReserve(buyer: Candidate["buyer"]): Candidate["buyer"] {
  return buyer ? { ...buyer, reserve: null } : buyer;
}

/** Chance that an amount put by is enough, read off the curve of what the bill goes beyond. */
export function enough(spread: BillSpread, reserve: number): number {
  const curve = spread.exceed;
  const after = curve.findIndex((c) => c.amount > reserve);
  const [from, to] = [curve[after - 1], curve[after]];
  if (!from || !to) return 1 - (curve.at(-1)?.chance ?? 0) * (after < 0 ? 0 : 1);
  const way = (reserve - from.amount) / (to.amount - from.amount);
  return 1 - (from.chance + (to.chance - from.chance) * way);
}

const question = (c: Candidate) => JSON.stringify({ ...c, buyer: withoutReserve(c.buyer) });

/** The answer to the very same question, where it is there: nothing is asked twice. */
function known(view: CandidateView, candidate: Candidate): Told | null {
  const asked = question(candidate);
  if (asked === question(view.candidate)) return view;
  const { answer } = state;
  return answer && !answer.lean && answer.view === view && question(answer.candidate) === asked
    ? answer.told
    : null;
}

// One question is on its way at a time; when it is answered, the latest goes out.
let waiting: { view: CandidateView; candidate: Candidate } | null = null;
let flying = false;
let round = 0;

/** A finger that has not moved for so long has come to rest. */
export const REST_MS = 200;
let moved = 0;

/** A lean answer, with what it leaves out as it was last told. */
function filled(lean: Told, last: Told): Told {
  const before = new Map(last.road.points.map((p) => [`${p.at.family}/${p.at.point}`, p]));
  const points = lean.road.points.map((p) => {
    const apart = before.get(`${p.at.family}/${p.at.point}`)?.apart;
    return apart ? { ...p, apart } : p;
  });
  return { ...lean, road: { points, sources: last.road.sources } };
}

async function fly() {
  flying = true;
  while (waiting) {
    const asked = waiting;
    const { view, candidate } = asked;
    const mine = round;
    // While the finger moves the answer may be lean; where it came to rest it is whole.
    const lean = performance.now() - moved < REST_MS;
    try {
      const last = state.answer?.view === view ? state.answer.told : view;
      const now = await api.tryOut(candidate, lean);
      const after = waiting as typeof waiting | null;
      if (after === asked && (!lean || mine !== round)) waiting = null;
      // Put back meanwhile: nobody waits for it.
      if (mine !== round || state.id !== view.id) continue;
      const told = lean ? filled(now, last) : now;
      set({ ...state, answer: { view, candidate, told, lean }, problem: null });
      if (after === asked && lean) await new Promise((r) => setTimeout(r, REST_MS));
    } catch (e) {
      if ((waiting as typeof waiting | null) === asked) waiting = null;
      const problem = e instanceof ApiError ? e.message : "It could not be tried out.";
      if (mine === round && state.id === view.id && !waiting) set({ ...state, problem });
    }
  }
  flying = false;
}

function send(view: CandidateView, patch: Patch) {
  set({ ...(state.id === view.id ? state : nothing), id: view.id, patch });
  const candidate = applied(view.candidate, patch);
  const told = known(view, candidate);
  if (told) {
    round += 1;
    waiting = null;
    set({ ...state, answer: { view, candidate, told, lean: false }, problem: null });
    return;
  }
  waiting = { view, candidate };
  moved = performance.now();
  if (!flying) void fly();
}

export const whatIf = {
  /** The document as last asked for, answered or not. */
  candidate(stored: CandidateView): Candidate {
    return state.id === stored.id ? applied(stored.candidate, state.patch) : stored.candidate;
  },
  ask(stored: CandidateView, patch: Patch) {
    send(stored, { ...(state.id === stored.id ? state.patch : {}), ...patch });
  },
  putBack() {
    round += 1;
    waiting = null;
    set(nothing);
  },
};

export interface WhatIf {
  /** The view with the trial's answer in the place of the stored one. */
  view: CandidateView;
  stored: CandidateView;
  patch: Patch | null;
  problem: string | null;
}

let last: { stored: CandidateView; answer: object; view: CandidateView } | null = null;

/** A view with a trial's answer: the same one as long as nothing changes. */
function triedView(stored: CandidateView, answer: NonNullable<State["answer"]>): CandidateView {
  if (last?.stored !== stored || last.answer !== answer) {
    const { assessment, road } = answer.told;
    // What was asked and comes to what is stored is no trial.
    const tried = road !== answer.view.road;
    last = { stored, answer, view: { ...stored, candidate: answer.candidate, assessment, road, tried } };
  }
  return last.view;
}

/** The view as tried out, or as stored where nothing is being tried. */
export function useWhatIf(stored: CandidateView | undefined): WhatIf | null {
  const { id, patch, answer, problem } = useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => state,
  );
  const mine = stored !== undefined && id === stored.id;
  // A new finding or another's edit came in meanwhile: the same question again, on what is there now.
  const stale = mine && answer !== null && answer.view !== stored;
  useEffect(() => {
    if (stale && stored) send(stored, patch);
  }, [stale, stored, patch]);
  if (!stored) return null;
  if (!mine || !answer || answer.view.id !== stored.id)
    return { view: stored, stored, patch: mine ? patch : null, problem: mine ? problem : null };
  return { view: triedView(stored, answer), stored, patch, problem };
}
