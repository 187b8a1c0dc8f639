// Issuing a report: numbered, frozen, with who and where; and reading one that was issued.

import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type CandidateView, type IssuedReport } from "../../lib/api";
import { moment } from "../../lib/format";
import { usePoints, useWalked } from "../../lib/hooks";
import { OnItsWay } from "../../parts/OnItsWay";
import { Trouble } from "../../parts/Trouble";
import { ReportSheet } from "./Report";

const WHO = "ticksage.inspector";

/** An issued report as it stands in its document. */
export function Issued({ report, ready }: { report: IssuedReport; ready: boolean }) {
  const named = report.view.candidate.families;
  const names = report.sheets
    .filter((s) => !s.kind.startsWith("base_") && named.some((r) => r.id === s.id))
    .map((s) => s.name);
  return <ReportSheet view={report.view} bill={report.bill} names={names} issued={report} ready={ready} />;
}

/** The report in the yard: as it stands, or one that was issued. */
export function Report({ view }: { view: CandidateView }) {
  const { candidate } = view;
  const { part: walked, away } = useWalked(view);
  const { part: points, away: pointsAway } = usePoints(view);
  const whole = walked && points ? { ...walked, assessment: { ...walked.assessment, points } } : undefined;
  const [shown, setShown] = useState<string | null>(null);
  const spread = useQuery({
    queryKey: ["bill", JSON.stringify(candidate)],
    queryFn: () => api.billSpread(candidate),
    placeholderData: keepPreviousData,
    staleTime: 30_000,
  });
  const families = useQuery({ queryKey: ["families"], queryFn: api.families, staleTime: 60_000 });
  const table = useQuery({ queryKey: ["assumptions"], queryFn: api.assumptions, staleTime: Infinity });
  const issued = useQuery({
    queryKey: ["report", shown],
    queryFn: () => api.report(view.id, shown ?? ""),
    enabled: shown !== null,
    staleTime: Infinity,
  });
  // As an issued one names them: what holds for every vehicle names none.
  const heads = candidate.families.map((r) => ({
    id: r.id,
    head: families.data?.find((f) => f.id === r.id && f.version === r.version),
  }));
  const own = heads.filter((x) => !x.head?.kind.startsWith("base_"));
  const names = (own.length > 0 ? own : heads).map((x) => x.head?.name ?? x.id);
  return (
    <>
      <Issue view={view} shown={shown} onShow={setShown} />
      {shown !== null && issued.data ? (
        <Issued report={issued.data} ready />
      ) : !whole ? (
        <OnItsWay what="The report" away={away || pointsAway} className="text-lg" />
      ) : (
        <ReportSheet
          view={whole}
          bill={spread.data}
          names={names}
          table={table.data}
          ready={spread.data !== undefined && table.data !== undefined}
        />
      )}
    </>
  );
}

/** The form that issues a report, and those that were issued. */
export function Issue({
  view,
  shown,
  onShow,
}: {
  view: CandidateView;
  shown: string | null;
  onShow: (report: string | null) => void;
}) {
  const client = useQueryClient();
  const key = ["reports", view.id];
  const reports = useQuery({ queryKey: key, queryFn: () => api.reports(view.id) });
  const [inspector, setInspector] = useState(localStorage.getItem(WHO) ?? "");
  const [place, setPlace] = useState("");
  const [why, setWhy] = useState("");
  const issue = useMutation({
    mutationFn: () => api.issueReport(view.id, { inspector, place, why }),
    onSuccess: async (head) => {
      localStorage.setItem(WHO, inspector);
      setWhy("");
      await client.invalidateQueries({ queryKey: key });
      onShow(head.id);
    },
  });
  const list = reports.data ?? [];
  return (
    <section className="no-print mb-5 border-2 border-rule bg-raised px-4 py-3" aria-label="Issue the report">
      <h2 className="sign text-xl font-bold">Issue it</h2>
      <p className="text-[0.95rem] text-soft">
        An issued report is numbered and frozen with its figures, photos and sheets. What changes later makes
        a new one that names the old.
      </p>
      <form
        className="mt-2 flex flex-wrap items-end gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          issue.mutate();
        }}
      >
        <label>
          <span className="sign block">Inspected by</span>
          <input
            className="field min-h-11"
            required
            maxLength={200}
            value={inspector}
            onChange={(e) => setInspector(e.target.value)}
          />
        </label>
        <label>
          <span className="sign block">Where</span>
          <input
            className="field min-h-11"
            required
            maxLength={200}
            value={place}
            onChange={(e) => setPlace(e.target.value)}
          />
        </label>
        {list.length > 0 && (
          <label>
            <span className="sign block">Why a new one</span>
            <input
              className="field min-h-11"
              maxLength={1000}
              value={why}
              onChange={(e) => setWhy(e.target.value)}
            />
          </label>
        )}
        <button type="submit" className="btn btn-main" disabled={issue.isPending}>
          Issue No {(list[0]?.number ?? 0) + 1}
        </button>
      </form>
      <Trouble error={issue.error ?? reports.error} />
      {list.length > 0 && (
        <ul className="mt-3" aria-label="Issued reports">
          {list.map((r) => (
            <li key={r.id} className="flex flex-wrap items-center gap-x-4 border-t border-rule py-1">
              <span className="grow">
                <b className="sign text-lg">No {r.number}</b>, {moment(r.issued_at)}{" "}
                <span className="reading text-[0.95rem] text-soft">{r.fingerprint.slice(0, 16)}…</span>
              </span>
              <button
                type="button"
                className="btn"
                aria-pressed={shown === r.id}
                onClick={() => onShow(shown === r.id ? null : r.id)}
              >
                {shown === r.id ? "Back to the draft" : "Read it"}
              </button>
              <a
                className="btn"
                href={`/api/candidates/${view.id}/reports/${r.id}`}
                download={`report-${r.number}.json`}
              >
                File
              </a>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
