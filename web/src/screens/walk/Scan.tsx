import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type Scan, type ScanAnswer, type ScanStep } from "../../lib/api";
import { useFreshView, type WalkedView } from "../../lib/hooks";
import { newId } from "../../lib/id";
import { outbox } from "../../lib/outbox";
import { FileButton } from "../../parts/FileButton";
import { figure, readingWords } from "./common";
import { day, whole } from "../../lib/format";
import { codeSays, monitorWord, scanItemWord } from "../../lib/words";

const none = <span className="text-soft">none</span>;
const notRead = <span className="text-soft">not read</span>;

function Codes({ list }: { list: string[] | null | undefined }) {
  const parts = useQuery({
    queryKey: ["codes", list],
    queryFn: () => api.codes(list ?? []),
    enabled: (list ?? []).length > 0,
    staleTime: Infinity,
  });
  if (!list) return notRead;
  if (list.length === 0) return none;
  return (
    <ul>
      {list.map((c, i) => (
        <li key={c} className="flex flex-wrap items-baseline gap-x-3">
          <b className="reading text-xl tracking-wide">{c}</b>
          {parts.data?.[i] && <span>{codeSays(parts.data[i])}</span>}
        </li>
      ))}
    </ul>
  );
}

function signedFigure(value: number): string {
  return `${value > 0 ? "+" : ""}${figure(value)}`;
}

/** What a scan read, as one sheet. */
function WhatWasRead({ scan, papersVin }: { scan: Scan; papersVin: string }) {
  const monitors = scan.monitors ?? [];
  const open = monitors.filter((m) => !m.complete);
  const rows: [string, React.ReactNode][] = [
    ["Stored codes", <Codes list={scan.stored} />],
    ["Pending codes", <Codes list={scan.pending} />],
    ["Permanent codes", <Codes list={scan.permanent} />],
    ["Engine lamp", scan.mil == null ? notRead : scan.mil ? <b>commanded on</b> : "not commanded"],
    [
      "Number in the control unit",
      scan.vin ? (
        <span className="reading text-[1.15rem] tracking-wide break-all">
          {scan.vin}
          {papersVin && (
            <span className="block font-text text-base font-normal tracking-normal">
              {scan.vin === papersVin ? "as in the papers" : `the papers say ${papersVin}`}
            </span>
          )}
        </span>
      ) : (
        notRead
      ),
    ],
    [
      "Since the memory was cleared",
      scan.warm_ups == null && scan.cleared_km == null ? (
        notRead
      ) : (
        <span className="reading">
          {scan.warm_ups != null && `${scan.warm_ups}${scan.warm_ups === 255 ? " or more" : ""} warm-ups`}
          {scan.warm_ups != null && scan.cleared_km != null && ", "}
          {scan.cleared_km != null &&
            `${whole(scan.cleared_km)}${scan.cleared_km === 65535 ? " or more" : ""} km`}
        </span>
      ),
    ],
    [
      "Monitors",
      monitors.length === 0 ? (
        notRead
      ) : open.length === 0 ? (
        `all ${monitors.length} have run`
      ) : (
        <span>
          <b className="reading">
            {open.length} of {monitors.length}
          </b>{" "}
          have not run: {open.map((m) => monitorWord[m.monitor] ?? m.monitor).join(", ")}
        </span>
      ),
    ],
    ["Coolant", scan.coolant == null ? notRead : <span className="reading">{figure(scan.coolant)} °C</span>],
    ["Voltage", scan.voltage == null ? notRead : <span className="reading">{figure(scan.voltage)} V</span>],
    [
      "Fuel trims",
      (scan.trims ?? []).length === 0 ? (
        notRead
      ) : (
        <span className="reading">
          {(scan.trims ?? []).map((t) => (
            <span key={t.bank} className="block">
              bank {t.bank}: short {t.short == null ? "—" : signedFigure(t.short)} %, long{" "}
              {t.long == null ? "—" : signedFigure(t.long)} %
            </span>
          ))}
        </span>
      ),
    ],
  ];
  return (
    <dl
      className="grid grid-cols-[9.5rem_1fr] border-t-2 border-ink sm:grid-cols-[14rem_1fr]"
      data-testid="read"
    >
      {rows.map(([name, what]) => (
        <div key={name} className="contents">
          <dt className="sign border-b border-rule py-1.5 pr-3 leading-tight font-semibold">{name}</dt>
          <dd className="border-b border-rule py-1.5 leading-tight">{what}</dd>
        </div>
      ))}
    </dl>
  );
}

/** Why a scan is not whole. */
function Missing({ scan }: { scan: Scan }) {
  const missing = scan.missing ?? [];
  if (missing.length === 0) return null;
  const reasons = [...new Set(missing.map((m) => m.why))];
  return (
    <div className="mt-3">
      <h2 className="stretch">Not read</h2>
      <ul>
        {reasons.map((why) => (
          <li key={why} className="border-b border-rule py-1 leading-snug">
            <b className="sign">
              {missing
                .filter((m) => m.why === why)
                .map((m) => scanItemWord[m.what])
                .join(", ")}
            </b>
            : {why}
          </li>
        ))}
      </ul>
    </div>
  );
}

async function saveTable(scan: Scan) {
  const blob = await api.writeScan(scan);
  const url = URL.createObjectURL(blob);
  const link = document.createElement("a");
  link.href = url;
  link.download = `scan-${scan.date}.csv`;
  link.click();
  URL.revokeObjectURL(url);
}

/** What came back, before it is kept. */
function Answer({
  view,
  answer,
  onKept,
  onLeave,
}: {
  view: WalkedView;
  answer: ScanAnswer;
  onKept: () => void;
  onLeave: () => void;
}) {
  const fresh = useFreshView();
  const { scan, findings } = answer;
  const empty =
    findings.length === 0 &&
    !scan.stored &&
    !scan.vin &&
    scan.coolant == null &&
    (scan.monitors ?? []).length === 0;
  const [wanted, setWanted] = useState<Set<string>>(
    () => new Set(findings.map((f) => `${f.finding.family}/${f.finding.check}`)),
  );
  const keep = useMutation({
    mutationFn: () => api.addPapers(view.id, [{ id: newId(), paper: { kind: "scan", paper: scan } }]),
    onSuccess: (stored) => {
      fresh(stored.view);
      for (const f of findings)
        if (wanted.has(`${f.finding.family}/${f.finding.check}`)) outbox.add(view.id, f.finding);
      onKept();
    },
  });
  const labels = new Map(view.checks.map((c) => [`${c.family}/${c.check.id}`, c]));
  return (
    <section aria-label="What the scan says" className="mt-4">
      {answer.failed && (
        <p
          role="alert"
          className="mb-3 border-l-8 border-caution bg-caution-bg px-3 py-2 text-lg text-caution"
        >
          <b className="sign">The scan did not run to its end. </b>
          {answer.failed}
        </p>
      )}
      {scan.simulated && (
        <p className="mb-2 text-soft">From a simulated adapter: everything it says is made up.</p>
      )}
      {!empty && (
        <div className="grid gap-x-8 gap-y-4 lg:grid-cols-[1fr_24rem]">
          <div>
            <WhatWasRead scan={scan} papersVin={view.candidate.vin ?? ""} />
            <Missing scan={scan} />
          </div>
          <div>
            <h2 className="stretch">What it says of the checks</h2>
            {findings.length === 0 && <p className="py-2">Nothing that any check asks for was read.</p>}
            <ul>
              {findings.map((f) => {
                const key = `${f.finding.family}/${f.finding.check}`;
                const blocker = labels.get(key)?.check.outcomes[f.outcome]?.blocker;
                const reads =
                  f.finding.reading == null ? "" : readingWords(labels.get(key), f.finding.reading);
                return (
                  <li key={key} className="border-b border-rule">
                    <label className="flex min-h-12 items-start gap-3 py-1.5">
                      <input
                        type="checkbox"
                        className="mt-1 h-6 w-6 shrink-0 accent-(--sea)"
                        checked={wanted.has(key)}
                        onChange={(e) => {
                          const next = new Set(wanted);
                          if (e.target.checked) next.add(key);
                          else next.delete(key);
                          setWanted(next);
                        }}
                      />
                      <span className="leading-tight">
                        <span className="sign text-[1.1rem] font-semibold">{f.name}</span>
                        <span className="block">
                          {reads && `${reads}, `}
                          <b>{f.label}</b>
                          {f.codes.length > 0 && <span className="reading">: {f.codes.join(" ")}</span>}
                        </span>
                        {blocker && (
                          <span className="block text-[0.95rem] text-caution">
                            {blocker.kind === "stop" ? "Stop. " : "Prove first. "}
                            {blocker.say}
                          </span>
                        )}
                      </span>
                    </label>
                  </li>
                );
              })}
            </ul>
            <div className="mt-3 flex flex-wrap gap-2">
              <button
                type="button"
                className="btn btn-main flex-1"
                disabled={keep.isPending}
                onClick={() => keep.mutate()}
              >
                {wanted.size > 0
                  ? `Keep it, enter ${wanted.size} finding${wanted.size > 1 ? "s" : ""}`
                  : "Keep it"}
              </button>
              <button type="button" className="btn" onClick={() => void saveTable(scan)}>
                Save as CSV
              </button>
              <button type="button" className="btn" onClick={onLeave}>
                Let it go
              </button>
            </div>
            {keep.error && (
              <p role="alert" className="mt-2 text-caution">
                {keep.error.message}
              </p>
            )}
          </div>
        </div>
      )}
      {empty && (
        <div>
          <Missing scan={scan} />
          <button type="button" className="btn mt-3" onClick={onLeave}>
            Close
          </button>
        </div>
      )}
    </section>
  );
}

function Progress({ step }: { step: Extract<ScanStep, { kind: "reading" }> | null }) {
  const at = step ? step.step : 0;
  const of = step ? step.of : 1;
  return (
    <div role="status" className="mt-4">
      <p className="sign text-xl">
        {step ? (
          <>
            Reading {scanItemWord[step.item]}{" "}
            <span className="reading">
              ({at} of {of})
            </span>
          </>
        ) : (
          "Calling the adapter"
        )}
      </p>
      <svg width="100%" height="16" viewBox="0 0 100 16" preserveAspectRatio="none" aria-hidden="true">
        <rect x="0" y="6" width="100" height="4" fill="var(--rule)" />
        <rect x="0" y="4" width={(100 * at) / of} height="8" fill="var(--ink)" />
      </svg>
    </div>
  );
}

/** Reading the codes with an adapter, or from a file. */
export function ScanScreen({ view }: { view: WalkedView }) {
  const adapters = useQuery({ queryKey: ["adapters"], queryFn: api.adapters, staleTime: 60_000 });
  const [chosen, setChosen] = useState<string | null>(null);
  const [step, setStep] = useState<Extract<ScanStep, { kind: "reading" }> | null>(null);
  const [answer, setAnswer] = useState<ScanAnswer | null>(null);
  const [kept, setKept] = useState(false);
  const fresh = useFreshView();
  const list = adapters.data ?? [];
  const suited = list.filter((a) => !a.simulated || a.suits === view.candidate.title);
  const shown = suited.length > 0 ? suited : list;
  const adapter = chosen ?? shown[0]?.name ?? "";
  const begin = () => {
    setAnswer(null);
    setStep(null);
    setKept(false);
  };
  const run = useMutation({
    mutationFn: () => api.scan(view.id, adapter, (s) => s.kind === "reading" && setStep(s)),
    onMutate: begin,
    onSuccess: setAnswer,
  });
  const file = useMutation({
    mutationFn: async (f: File) => api.readScan(view.id, await f.text()),
    onMutate: begin,
    onSuccess: setAnswer,
  });
  const undo = useMutation({
    mutationFn: (id: string) => api.undoPapers(view.id, [id], true),
    onSuccess: (a) => fresh(a.view),
  });
  const earlier = (view.candidate.scans ?? []).map((scan, i) => ({
    scan,
    id: view.paper_ids.scans[i] ?? "",
  }));
  const trouble = run.error ?? file.error;
  const faults =
    trouble && "faults" in trouble ? (trouble.faults as { path: string; message: string }[]) : [];
  return (
    <div>
      <div className="flex flex-wrap items-end justify-between gap-x-4 gap-y-2">
        <h1 className="text-3xl">Read the codes</h1>
        <Link to={`/c/${view.id}/walk-round`} className="btn">
          Back to the walk-round
        </Link>
      </div>
      <p className="max-w-prose">
        Ignition on, adapter plugged in. It only reads: nothing is cleared. What it says is taken as findings
        when you keep it.
      </p>
      <form
        className="mt-3 flex flex-wrap items-end gap-2 border-y-2 border-ink py-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (adapter && !run.isPending) run.mutate();
        }}
      >
        {shown.length > 0 && (
          <label className="block min-w-0 max-w-2xl flex-1 basis-72">
            <span className="sign text-base font-semibold">Adapter</span>
            <select
              className="field"
              aria-label="Adapter"
              value={adapter}
              onChange={(e) => setChosen(e.target.value)}
            >
              {shown.map((a) => (
                <option key={a.name} value={a.name}>
                  {a.name} ({a.address})
                </option>
              ))}
            </select>
          </label>
        )}
        <button type="submit" className="btn btn-main" disabled={!adapter || run.isPending}>
          {run.isPending ? "Reading" : answer || kept ? "Read again" : "Read"}
        </button>
        <FileButton
          label="A scan as CSV"
          accept=".csv,text/csv,text/plain"
          disabled={run.isPending || file.isPending}
          onChoose={([f]) => f && file.mutate(f)}
        >
          From a file
        </FileButton>
      </form>
      {adapters.data?.length === 0 && (
        <p className="mt-2">
          No adapter is set up: start the application with its address (<code>--adapter 127.0.0.1:35000</code>
          ), or read a file.
        </p>
      )}
      {adapters.error && (
        <p role="alert" className="mt-2 text-caution">
          {adapters.error.message}
        </p>
      )}
      {trouble && (
        <div role="alert" className="mt-3 border-l-8 border-caution bg-caution-bg px-3 py-2 text-caution">
          <p>{faults.length > 1 ? "The table is not taken: nothing of it was kept." : trouble.message}</p>
          {faults.length > 1 && (
            <ul>
              {faults.slice(0, 20).map((f) => (
                <li key={`${f.path}${f.message}`}>
                  <b className="reading">{f.path}</b>: {f.message}
                </li>
              ))}
            </ul>
          )}
        </div>
      )}
      {run.isPending && <Progress step={step} />}
      {kept && (
        <p role="status" className="mt-3 border-l-8 border-sea bg-raised px-3 py-2 text-lg">
          Kept, and its findings are entered.{" "}
          <Link to={`/c/${view.id}/walk-round`} className="underline">
            Back to the walk-round
          </Link>
        </p>
      )}
      {answer && (
        <Answer
          key={answer.scan.date + String(run.submittedAt) + String(file.submittedAt)}
          view={view}
          answer={answer}
          onKept={() => {
            setAnswer(null);
            setKept(true);
          }}
          onLeave={() => setAnswer(null)}
        />
      )}
      {earlier.length > 0 && (
        <section className="mt-8" aria-label="Scans kept">
          <h2 className="stretch">Scans kept</h2>
          {[...earlier].reverse().map(({ scan, id }) => (
            <details key={id} className="border-b border-rule">
              <summary className="min-h-11 cursor-pointer py-2 leading-tight">
                <span className="sign text-[1.1rem] font-semibold">{day(scan.date)}</span> {scan.from}:{" "}
                {scan.stored ? `${scan.stored.length} stored` : "codes not read"}
                {(scan.pending ?? []).length > 0 && `, ${(scan.pending ?? []).length} pending`}
              </summary>
              <div className="max-w-3xl pb-3">
                <WhatWasRead scan={scan} papersVin={view.candidate.vin ?? ""} />
                <Missing scan={scan} />
                <div className="mt-2 flex flex-wrap gap-2">
                  <button type="button" className="btn" onClick={() => void saveTable(scan)}>
                    Save as CSV
                  </button>
                  <button
                    type="button"
                    className="btn"
                    disabled={undo.isPending}
                    onClick={() => undo.mutate(id)}
                  >
                    Take it back
                  </button>
                </div>
              </div>
            </details>
          ))}
        </section>
      )}
    </div>
  );
}
