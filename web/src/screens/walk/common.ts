// What the parts of the walk-round share: which finding holds, and which cautions were read.

import type { Finding, Hazard } from "../../lib/api";
import type { WalkedView } from "../../lib/hooks";
import type { WaitingFinding } from "../../lib/outbox";

export type CheckEntry = WalkedView["checks"][number];
export type Result = Finding["result"];
export type Extra = Partial<Pick<Finding, "reading" | "inputs" | "note">>;

export const keyOf = (c: { family: string; check: string }) => `${c.family}/${c.check}`;

const says = (f: Finding) => f.result.kind !== "acknowledged";

export interface Held {
  finding: Finding;
  waiting: boolean;
  id: string | null;
}

/** Every finding on a check that says something, the latest first; waiting ones included. */
export function findingsOn(
  view: WalkedView,
  waiting: readonly WaitingFinding[],
  family: string,
  check: string,
): (Held & { undone: boolean })[] {
  const mine = (f: Finding) => f.family === family && f.check === check && says(f);
  const unsent = waiting
    .filter((w) => w.candidate === view.id && mine(w.finding))
    .map((w) => ({ finding: w.finding, waiting: true, id: null, undone: false }));
  const stored = (view.candidate.findings ?? []).flatMap((finding, i) =>
    mine(finding)
      ? [{ finding, waiting: false, id: view.finding_ids[i] ?? null, undone: finding.undone ?? false }]
      : [],
  );
  // What is stored and still listed as waiting is about to leave the list: it is not told twice.
  const at = new Set(stored.map((s) => s.finding.at));
  return [...stored, ...unsent.filter((u) => !at.has(u.finding.at))].reverse();
}

/** Hazards whose caution was read for this candidate, on this device or another. */
export function acknowledged(view: WalkedView, waiting: readonly WaitingFinding[]): Set<Hazard> {
  const out = new Set<Hazard>(view.assessment.walk.acknowledged);
  for (const w of waiting) {
    if (w.candidate !== view.id || w.finding.result.kind !== "acknowledged") continue;
    const entry = view.checks.find((c) => c.family === w.finding.family && c.check.id === w.finding.check);
    entry?.check.hazards?.forEach((h) => out.add(h));
  }
  return out;
}

/** What came of a finding, in words. */
export function outcomeWords(entry: CheckEntry, finding: Finding): string {
  const { result } = finding;
  const { check } = entry;
  if (result.kind === "outcome") return check.outcomes[result.outcome]?.label ?? "";
  if (result.kind === "measured")
    return finding.reading == null ? "read, to be worked out" : readingWords(entry, finding.reading);
  if (result.kind === "could_not") return "could not check";
  if (result.kind === "ask_seller") return "ask the seller";
  return "not done";
}

/** A reading with its unit; nothing where it lies within the range that it is held against. */
export function readingWords(entry: CheckEntry | undefined, reading: number): string {
  const m = entry?.check.measure;
  const outside = m?.by?.kind === "outside";
  if (outside && reading === 0) return "";
  return `${outside ? "off by " : ""}${figure(reading)} ${m?.unit ?? ""}`;
}

/** A reading, to the digits that mean something. */
export function figure(value: number): string {
  const digits = Math.abs(value) >= 100 ? 0 : Math.abs(value) >= 10 ? 1 : 2;
  return String(Number(value.toFixed(digits))).replace("-", "\u2212");
}
