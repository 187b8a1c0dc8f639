import { useMutation, useQuery, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import {
  api,
  roadPath,
  walkPart,
  walkPath,
  type Candidate,
  type CandidateView,
  type PointResult,
  type WalkPart,
} from "./api";
import { keepAnswer } from "./kept";
import { REST_MS } from "./whatIf";

/** Width of an element, followed as it changes. Where it is known beforehand nothing is drawn twice. */
export function useWidth<T extends HTMLElement>(expected = () => 0) {
  const ref = useRef<T>(null);
  const [width, setWidth] = useState(expected);
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => setWidth(Math.floor(entry?.contentRect.width ?? 0)));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [ref, width] as const;
}

/** An open candidate is looked at so often. */
const LOOK_MS = 5_000;

export const candidateKey = (id: string) => ["candidate", id];

export function useCandidate(id: string) {
  // What has just come is not asked for again.
  return useQuery({
    queryKey: candidateKey(id),
    queryFn: () => api.candidate(id),
    refetchInterval: LOOK_MS,
    staleTime: LOOK_MS / 2,
  });
}

const partKey = (part: "walk" | "points", view: { id: string; state: string }) => [part, view.id, view.state];

/** Puts a fresh view where every screen reads it. A look that began before it brings nothing newer. */
export function putView(client: QueryClient, answer: CandidateView) {
  const { checks, finding_ids, walk_round, ...view } = answer;
  void client.cancelQueries({ queryKey: candidateKey(view.id) }, { revert: false, silent: true });
  keepAnswer(roadPath(view.id), view);
  if (checks && walk_round) {
    const told = { state: view.state, checks, finding_ids: finding_ids ?? [], walk_round };
    keepAnswer(walkPath(view.id), told);
    client.setQueryData(partKey("walk", view), walkPart(checks, told.finding_ids, walk_round));
  }
  client.setQueryData(candidateKey(view.id), view);
  void client.invalidateQueries({ queryKey: ["yard"] });
}

export function useFreshView() {
  const client = useQueryClient();
  return (view: CandidateView) => putView(client, view);
}

const walkOf = (id: string) => () => api.walkPart(id).then((told) => told.part);
const pointsOf = (id: string) => () => api.points(id).then((told) => told.points);

/** A part of a view, once it is there. */
export interface Coming<T> {
  part: T | undefined;
  /** It is not on this device, and was asked for in vain so far. */
  away: boolean;
}

/** What was tried out and is looked at no more is let go after so long. */
const TRIED_KEPT_MS = 30_000;

/** What comes on its own when its screen is shown, of the state that is shown; the last one until it is there. */
function usePart<T extends object>(
  key: readonly unknown[],
  ask: () => Promise<T>,
  { enabled = true, kept = Infinity } = {},
): Coming<T> {
  const query = useQuery<T>({
    queryKey: key,
    queryFn: ask,
    enabled,
    staleTime: Infinity,
    gcTime: kept,
    placeholderData: ((previous: T | undefined, last?: { queryKey: readonly unknown[] }) =>
      last?.queryKey[1] === key[1] ? previous : undefined) as never,
  });
  return { part: query.data, away: query.data === undefined && query.failureReason !== null };
}

/** A candidate with its walk-round. */
export type WalkedView = CandidateView & {
  checks: WalkPart["checks"];
  finding_ids: string[];
  assessment: CandidateView["assessment"] & Pick<WalkPart, "walk" | "open_checks">;
};

/** The walk-round of a view, once it is there. */
export function useWalked(view: CandidateView): Coming<WalkedView> {
  const { part: stored, away } = usePart(partKey("walk", view), walkOf(view.id));
  const { part: tried } = usePart(
    ["walk-tried", view.id, view.tried ? view.candidate : null],
    async () => {
      const { walk, open_checks } = await api.tryWalk(view.candidate);
      return walkPart([], [], { walk, open_checks });
    },
    { enabled: view.tried === true, kept: TRIED_KEPT_MS },
  );
  const walked = useMemo(() => {
    const part =
      view.tried && tried && stored
        ? { ...stored, walk: tried.walk, open_checks: tried.open_checks }
        : stored;
    if (!part) return undefined;
    const { checks, finding_ids, walk, open_checks } = part;
    return { ...view, checks, finding_ids, assessment: { ...view.assessment, walk, open_checks } };
  }, [view, stored, tried]);
  return { part: walked, away };
}

/** The failure points of a view with all that stands behind their lines, once they are there. */
export function usePoints(view: CandidateView, wanted = true): Coming<PointResult[]> {
  const stored = usePart(partKey("points", view), pointsOf(view.id), { enabled: wanted && !view.tried });
  const quiet = useQuiet(view, REST_MS);
  const tried = usePart(
    ["points-tried", view.id, quiet.tried ? quiet.candidate : null],
    () => api.tryPoints(quiet.candidate).then((told) => told.points),
    { enabled: wanted && quiet.tried === true, kept: TRIED_KEPT_MS },
  );
  return view.tried && tried.part ? tried : stored;
}

const parts = new Set<unknown>(["walk", "points", "walk-tried", "points-tried"]);

/** Lets go of parts of other states, and of other candidates: nobody looks at them. */
function forget(client: QueryClient, of: { id: string; state: string }) {
  client.removeQueries({
    type: "inactive",
    predicate: ({ queryKey: [part, id, state] }) => parts.has(part) && (id !== of.id || state !== of.state),
  });
}

/** Fetches what stands behind the screens once the first of them stands, so that it is there without a connection. */
export function useKeepParts(view: CandidateView | undefined) {
  const client = useQueryClient();
  const [id, state] = [view?.id, view?.state];
  useEffect(() => {
    if (id === undefined || state === undefined) return;
    const of = { id, state };
    forget(client, of);
    const timer = setTimeout(() => {
      const keep = { staleTime: Infinity, gcTime: Infinity };
      void client.prefetchQuery({ queryKey: partKey("walk", of), queryFn: walkOf(id), ...keep });
      void client.prefetchQuery({ queryKey: partKey("points", of), queryFn: pointsOf(id), ...keep });
    }, KEEP_AFTER_MS);
    return () => {
      clearTimeout(timer);
    };
  }, [client, id, state]);
}

/** So long the first screen has the line for itself. */
const KEEP_AFTER_MS = 1500;

export function useFamilies() {
  return useQuery({ queryKey: ["families"], queryFn: api.families, staleTime: 60_000 });
}

/** A value that follows another after it has been quiet for a while. */
export function useQuiet<T>(value: T, ms: number): T {
  const [quiet, setQuiet] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setQuiet(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return quiet;
}

/**
 * The answer to a question that changes while it is asked: one is on its way at a time, then the latest. What came
 * last is shown meanwhile.
 */
export function useAnswer<T>(name: string, question: string, ask: () => Promise<T>) {
  const client = useQueryClient();
  const [answer, setAnswer] = useState<{ data?: T; error?: Error }>({});
  const latest = useRef({ question, ask });
  const flying = useRef(false);
  useEffect(() => {
    latest.current = { question, ask };
  });
  useEffect(() => {
    if (flying.current) return;
    flying.current = true;
    const fly = async () => {
      for (;;) {
        const now = latest.current;
        try {
          const data = await client.fetchQuery({
            queryKey: [name, now.question],
            queryFn: now.ask,
            staleTime: 30_000,
            gcTime: 60_000,
          });
          setAnswer({ data });
        } catch (e) {
          const error = e instanceof Error ? e : new Error(String(e));
          setAnswer((before) => ({ ...before, error }));
        }
        if (latest.current.question === now.question) break;
      }
      flying.current = false;
    };
    void fly();
  }, [client, name, question]);
  return answer;
}

export function useMedia(query: string): boolean {
  const [matches, setMatches] = useState(() => matchMedia(query).matches);
  useEffect(() => {
    const media = matchMedia(query);
    const listener = () => setMatches(media.matches);
    media.addEventListener("change", listener);
    return () => media.removeEventListener("change", listener);
  }, [query]);
  return matches;
}

/** How many entries a long list draws at first, and how many more each time its end comes near. */
const STRETCH = 30;

/**
 * How much of a long list is drawn: what has come near the window so far. `key` names the list; another one starts
 * over. The last element drawn is to hold the mark.
 */
export function useStretch<T extends HTMLElement>(key: string, length: number) {
  const [grown, setGrown] = useState({ key, drawn: STRETCH });
  const drawn = grown.key === key ? grown.drawn : STRETCH;
  const mark = useRef<T>(null);
  useEffect(() => {
    const element = mark.current;
    if (!element || drawn >= length) return;
    const observer = new IntersectionObserver(
      (seen) => seen.some((e) => e.isIntersecting) && setGrown({ key, drawn: drawn + STRETCH }),
      { rootMargin: "600px" },
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, [key, drawn, length]);
  return { drawn, mark };
}

/** Changes a stored candidate. */
export function useEdit(view: CandidateView) {
  const fresh = useFreshView();
  return useMutation({
    mutationFn: (change: (c: Candidate) => Candidate) =>
      api.edit(view.id, view.version, change(view.candidate)),
    onSuccess: fresh,
  });
}
