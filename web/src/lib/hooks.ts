import { useMutation, useQuery, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, type Candidate, type CandidateView } from "./api";

/** Width of an element, followed as it changes. */
export function useWidth<T extends HTMLElement>() {
  const ref = useRef<T>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => setWidth(Math.floor(entry?.contentRect.width ?? 0)));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [ref, width] as const;
}

export const candidateKey = (id: string) => ["candidate", id];

export function useCandidate(id: string) {
  return useQuery({ queryKey: candidateKey(id), queryFn: () => api.candidate(id), refetchInterval: 5_000 });
}

/** Puts a fresh view where every screen reads it. A look that began before it brings nothing newer. */
export function putView(client: QueryClient, view: CandidateView) {
  void client.cancelQueries({ queryKey: candidateKey(view.id) }, { revert: false, silent: true });
  client.setQueryData(candidateKey(view.id), view);
  void client.invalidateQueries({ queryKey: ["yard"] });
}

export function useFreshView() {
  const client = useQueryClient();
  return (view: CandidateView) => putView(client, view);
}

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
