import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ApiError, type CandidateView, type Sensitivity } from "../lib/api";
import { sourcesOf } from "./WhatIfPanel";
import { clockUnit, money, usage } from "../lib/format";
import { exposureWord } from "../lib/words";

const settingWord: Record<string, string> = {
  self: "own work",
  independent: "an independent",
  dealer: "a dealer",
  none: "none",
  full: "full",
  good: "good",
  poor: "poor",
  used: "used",
  equivalent: "equivalent",
  original: "original",
  true: "it is true",
  false: "it is not",
};

function inputWord(s: Sensitivity, view: CandidateView): string {
  const i = s.input;
  switch (i.kind) {
    case "usage_a_year":
      return "How far you drive a year";
    case "years":
      return "How long you keep it";
    case "usage_now":
      return "Its true usage now";
    case "past_use":
      return `${exposureWord[i.exposure] ?? i.exposure}, so far`;
    case "plan_use":
      return `${exposureWord[i.exposure] ?? i.exposure}, in your plan`;
    case "own_care":
      return "How you will keep it";
    case "past_care":
      return "How it was kept so far";
    case "labour":
      return "Who does the work";
    case "parts":
      return "Grade of the parts";
    case "source":
      return "Whom you listen to";
    case "fact":
      return i.label;
    case "entry": {
      const entry = view.candidate.ledger?.[i.entry];
      return entry ? `“${entry.note || "ledger entry"}”, ${entry.date.slice(0, 4)}` : "A ledger entry";
    }
  }
}

function setting(s: Sensitivity, at: string, view: CandidateView): string {
  const { kind } = s.input;
  if (kind === "source") return sourcesOf(view).find((x) => x.id === at)?.name ?? at;
  if (kind === "years") return `${at} years`;
  if (kind === "usage_a_year" || kind === "usage_now") {
    const unit = kind === "usage_now" ? view.candidate.usage.unit : view.candidate.plan.usage_a_year.unit;
    return usage(Number(at), unit);
  }
  return settingWord[at] ?? at;
}

/** The inputs that would move the bill most, each with the range tried, on one axis of money. */
export function WouldMove({ view }: { view: CandidateView }) {
  const [open, setOpen] = useState(false);
  const { assessment, candidate } = view;
  const query = useQuery({
    queryKey: ["would-move", view.id, candidate],
    queryFn: () => api.whatWouldMove(candidate),
    enabled: open,
    staleTime: Infinity,
  });
  const rows = query.data ?? [];
  const bill = assessment.bill.mean;
  const least = Math.min(bill, ...rows.map((r) => r.low.bill));
  const most = Math.max(bill, ...rows.map((r) => r.high.bill));
  const at = (v: number) => `${((v - least) / Math.max(most - least, 1)) * 100}%`;
  return (
    <section className="mt-8" aria-label="What would move the bill most">
      <h2 className="stretch text-sea">What would move the bill most</h2>
      {!open && (
        <button type="button" className="btn mt-3" onClick={() => setOpen(true)}>
          Work it out
        </button>
      )}
      {open && query.isPending && <p role="status">Trying each input at both ends.</p>}
      {query.error instanceof ApiError && <p className="text-caution">{query.error.message}</p>}
      {rows.length > 0 && (
        <>
          <p className="mt-1 text-soft">
            Each input is set to the two ends named, all else as it is. The line is the bill as it stands,{" "}
            <b className="reading">{money(bill)}</b> {assessment.currency} within your{" "}
            {usage(assessment.horizon, clockUnit(assessment.clock), 100)}.
          </p>
          <ul data-testid="would-move">
            {rows.map((r, i) => (
              <li
                key={i}
                className="grid items-center gap-x-5 gap-y-1 border-b border-rule py-2 lg:grid-cols-[19rem_1fr]"
              >
                <span className="sign text-[1.15rem] leading-tight font-bold">{inputWord(r, view)}</span>
                <span className="block">
                  <span className="relative block h-4">
                    <span
                      className="absolute inset-y-0 bg-sea"
                      style={{ left: at(r.low.bill), right: `calc(100% - ${at(r.high.bill)})` }}
                    />
                    <span className="absolute -inset-y-1 w-[3px] bg-ink" style={{ left: at(bill) }} />
                  </span>
                  <span className="flex justify-between gap-4">
                    <span>
                      <b className="reading">{money(r.low.bill)}</b>{" "}
                      <span className="text-soft">{setting(r, r.low.setting, view)}</span>
                    </span>
                    <span className="text-right">
                      <span className="text-soft">{setting(r, r.high.setting, view)}</span>{" "}
                      <b className="reading">{money(r.high.bill)}</b>
                    </span>
                  </span>
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
      {open && query.data?.length === 0 && <p>Nothing that can be varied moves it.</p>}
    </section>
  );
}
