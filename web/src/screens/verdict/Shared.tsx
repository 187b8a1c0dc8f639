// What somebody reads through a link: a customer the whole report, a seller what was found and what it costs.

import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { useParams } from "react-router";
import { api, type SellerReport } from "../../lib/api";
import { SharedBy, usePhotoAt } from "../../parts/Shared";
import { day, moment, money, percent, usage } from "../../lib/format";
import { Issued } from "./Issue";

function Until({ until }: { until: string }) {
  return (
    <p className="no-print mb-4 border-b-2 border-rule pb-2 text-[0.95rem] text-soft">
      Read through a link that opens until {moment(until)}. Nothing can be changed here.
    </p>
  );
}

function Seller({ report }: { report: SellerReport }) {
  const photoAt = usePhotoAt("");
  const line = (f: SellerReport["findings"][number]) => (
    <li key={f.name} className="report-line border-b border-rule py-1.5">
      <div className="grid grid-cols-[1fr_auto] gap-x-4">
        <b className="sign text-[1.05rem]">{f.name}</b>
        <span className={f.amiss ? "font-bold" : ""}>
          {f.outcome}
          {f.reading != null && (
            <span className="reading">
              {" "}
              {Math.round(f.reading * 100) / 100} {f.unit}
            </span>
          )}
        </span>
      </div>
      {f.photos.length > 0 && (
        <div className="mt-1 grid grid-cols-2 gap-2 sm:grid-cols-3">
          {f.photos.map((p) => (
            <img
              key={p}
              src={photoAt(p)}
              alt={f.name}
              className="max-h-44 w-full border border-ink object-cover"
            />
          ))}
        </div>
      )}
    </li>
  );
  const amiss = report.findings.filter((f) => f.amiss);
  const sound = report.findings.filter((f) => !f.amiss);
  return (
    <>
      <h1 className="text-4xl">{report.title}</h1>
      <p>
        Built {day(report.built)}; {usage(report.usage.value, report.usage.unit)}. As of {day(report.as_of)}.
      </p>
      <h2 className="stretch mt-6">What was found</h2>
      {amiss.length === 0 && <p className="py-1">Nothing amiss was found.</p>}
      <ul>{amiss.map(line)}</ul>
      {report.bill.length > 0 && (
        <>
          <h2 className="stretch mt-6">What putting right is expected to cost, {report.currency}</h2>
          <table className="w-full border-collapse">
            <thead>
              <tr className="border-b-2 border-ink text-left">
                <th scope="col">What, and the job</th>
                <th scope="col" className="text-right">
                  likely now
                </th>
                <th scope="col" className="text-right">
                  low to high
                </th>
              </tr>
            </thead>
            <tbody>
              {report.bill.map((b) => (
                <tr key={`${b.name}/${b.job}`} className="border-b border-rule align-top">
                  <td className="py-1 pr-2">
                    <b>{b.name}</b>
                    {b.job && b.job !== b.name && `: ${b.job}`}
                  </td>
                  <td className="reading py-1 pl-3 text-right whitespace-nowrap">
                    {b.due ? "overdue" : percent(b.now)}
                  </td>
                  <td className="reading py-1 pl-4 text-right whitespace-nowrap">
                    {money(b.low)} to {money(b.high)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      {sound.length > 0 && (
        <>
          <h2 className="stretch mt-6">Looked at, nothing amiss</h2>
          <ul className="report-columns">{sound.map(line)}</ul>
        </>
      )}
      <p className="mt-6 text-[0.95rem]">
        {report.open > 0 && `${report.open} checks were not done. `}A structured estimate from stated
        assumptions; not a warranty. Get a workshop’s own price. Local roadworthiness rules and licensed
        technicians take precedence. Do not drive with a dangerous defect.
      </p>
    </>
  );
}

export function Shared() {
  const { token = "" } = useParams();
  const shared = useQuery({ queryKey: ["shared", token], queryFn: () => api.shared(token), retry: false });
  useEffect(() => {
    document.title = "Tick Sage: a report";
  }, []);
  const told = shared.data;
  return (
    <main className="mx-auto max-w-[56rem] px-3 pt-5 pb-24 sm:px-6">
      {shared.isPending && (
        <p role="status" className="text-lg">
          Reading the report.
        </p>
      )}
      {shared.error && (
        <>
          <h1 className="text-4xl">This link opens nothing</h1>
          <p className="mt-2 text-lg">{shared.error.message}</p>
        </>
      )}
      {told && (
        <SharedBy value={token}>
          <Until until={told.until} />
          {told.audience === "seller" ? (
            <Seller report={told.report} />
          ) : (
            <Issued report={told.report} ready />
          )}
        </SharedBy>
      )}
    </main>
  );
}
