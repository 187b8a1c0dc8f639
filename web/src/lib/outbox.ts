// Findings that wait to be stored. They are kept on this device until the server has them, sent in
// order, and stored once: each carries its own name.

import { useSyncExternalStore } from "react";
import { api, ApiError, type CandidateView, type Finding } from "./api";

export interface Waiting {
  candidate: string;
  name: string;
  finding: Finding;
  /** Why the server would not have it; kept until the person says what to do. */
  refused?: string;
}

const KEY = "ticksage.waiting";
const RETRY_MS = 2000;

let waiting: Waiting[] = read();
let problem: string | null = null;
let sending = false;
let underway: string | null = null;
/** Findings to be taken back as soon as they are stored. */
const takenBack = new Set<string>();
let snapshot: { waiting: Waiting[]; problem: string | null } = { waiting, problem };
const listeners = new Set<() => void>();
let onStored: (view: CandidateView) => void = () => undefined;

/** A random UUID; also where the page is not served over a secure connection. */
export function newId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  bytes[6] = ((bytes[6] ?? 0) & 0x0f) | 0x40;
  bytes[8] = ((bytes[8] ?? 0) & 0x3f) | 0x80;
  const hex = [...bytes].map((b) => b.toString(16).padStart(2, "0")).join("");
  return hex.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, "$1-$2-$3-$4-$5");
}

function read(): Waiting[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEY) ?? "[]");
    return Array.isArray(kept) ? (kept as Waiting[]) : [];
  } catch {
    return [];
  }
}

function change(next: Waiting[], why: string | null) {
  waiting = next;
  problem = why;
  snapshot = { waiting, problem };
  try {
    localStorage.setItem(KEY, JSON.stringify(waiting));
  } catch {
    // A full or forbidden storage costs only what a reload would lose.
  }
  listeners.forEach((l) => l());
}

async function send() {
  if (sending) return;
  sending = true;
  const unsent = () => waiting.find((w) => w.refused === undefined);
  for (let next = unsent(); next; next = unsent()) {
    const { name, candidate } = next;
    underway = name;
    try {
      let view = await api.addFinding(candidate, name, next.finding);
      if (takenBack.delete(name)) view = await api.undoFinding(candidate, name, true);
      change(
        waiting.filter((w) => w.name !== name),
        null,
      );
      onStored(view);
    } catch (e) {
      const refusal = e instanceof ApiError ? e : new ApiError(undefined);
      if (refusal.passing) {
        change(waiting, refusal.message);
        setTimeout(() => void send(), RETRY_MS);
      } else {
        change(
          waiting.map((w) => (w.name === name ? { ...w, refused: refusal.message } : w)),
          null,
        );
        continue;
      }
      break;
    }
  }
  underway = null;
  sending = false;
}

export const outbox = {
  /** Starts sending what an earlier visit left, and tells where stored views go. */
  start(stored: (view: CandidateView) => void) {
    onStored = stored;
    window.addEventListener("online", () => void send());
    void send();
  },
  add(candidate: string, finding: Finding) {
    const at = new Date().toISOString();
    change([...waiting, { candidate, name: newId(), finding: { ...finding, at } }], problem);
    void send();
  },
  /**
   * Takes a waiting finding back: one that is on its way is stored first, so that nothing is lost. False
   * where it has been stored meanwhile: it is taken back there, under the same name.
   */
  takeBack(name: string): boolean {
    if (!waiting.some((w) => w.name === name)) return false;
    if (name === underway) takenBack.add(name);
    else outbox.discard(name);
    return true;
  },
  /** Sends a refused finding again. */
  retry(name: string) {
    const again = ({ candidate, finding }: Waiting): Waiting => ({ candidate, name, finding });
    change(
      waiting.map((w) => (w.name === name ? again(w) : w)),
      problem,
    );
    void send();
  },
  /** Lets a refused finding go. */
  discard(name: string) {
    change(
      waiting.filter((w) => w.name !== name),
      problem,
    );
  },
};

export function useOutbox() {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => snapshot,
  );
}
