// Findings that wait to be stored.

import { api, type CandidateView, type Finding } from "./api";
import { deviceQueue } from "./deviceQueue";
import { newId } from "./id";
import type { Waiting } from "./queue";

export interface WaitingFinding extends Waiting {
  finding: Finding;
}

const { queue, start, use } = deviceQueue<WaitingFinding>(
  "ticksage-findings",
  (w) => api.addFinding(w.candidate, w.id, w.finding),
  (w) => api.undoFinding(w.candidate, w.id, true),
);

/** Where earlier versions of this page kept what waited. */
const EARLIER = "ticksage.waiting";

/** Takes over what an earlier version of this page left waiting. */
function takeOver() {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(EARLIER) ?? "[]");
    if (!Array.isArray(kept)) return;
    for (const k of kept as { candidate: string; name: string; finding: Finding }[])
      queue.add({ id: k.name, candidate: k.candidate, at: k.finding.at ?? "", finding: k.finding });
    localStorage.removeItem(EARLIER);
  } catch {
    // What cannot be read stays where it is.
  }
}

export const outbox = {
  start(stored: (view: CandidateView) => void) {
    start(stored);
    takeOver();
  },
  add(candidate: string, finding: Finding) {
    const at = new Date().toISOString();
    queue.add({ candidate, id: newId(), at, finding: { ...finding, at } });
  },
  takeBack: (id: string) => queue.takeBack(id),
  retry: (id: string) => queue.retry(id),
  discard: (id: string) => queue.discard(id),
};

export const useOutbox = use;
