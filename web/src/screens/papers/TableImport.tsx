import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, type TableAnswer } from "../../lib/api";
import { FileButton } from "../../parts/FileButton";
import { useDesk, usePaperMutations } from "./common";
import { whole } from "../../lib/format";
import { Trouble } from "../../parts/Trouble";

/** A table pasted or chosen as a file: read with a report by line, then stored whole or not at all. */
export function TableImport({ table, heading }: { table: "ledger" | "readings"; heading: string }) {
  const { view } = useDesk();
  const { done } = usePaperMutations();
  const [text, setText] = useState("");
  const [matching, setMatching] = useState(true);
  const read = useMutation({
    mutationFn: ({ csv, store }: { csv: string; store: boolean }) =>
      api.table(view.id, csv, table, matching, store),
    onSuccess: ({ reading, answer }: TableAnswer) => {
      if (!answer) return;
      done(`${reading.good} line${reading.good === 1 ? "" : "s"} stored`, answer);
      setText("");
    },
  });
  const reading = read.data?.reading;
  const stored = read.data?.answer !== null && read.data?.answer !== undefined;
  return (
    <details className="mt-4 border-t-2 border-ink pt-2">
      <summary className="sign flex min-h-11 cursor-pointer items-center text-[1.1rem] font-semibold underline underline-offset-4">
        {heading}
      </summary>
      <p className="text-[0.95rem]">
        First line the heading, such as{" "}
        <code className="bg-sunk px-1">
          {table === "ledger" ? "date;km;what;evidence;who;cost" : "date;km;source"}
        </code>
        ; comma, semicolon or tab between. Dates as 2021-03-14 or 2021-03. All lines are stored, or none.
      </p>
      <textarea
        className="field mt-1 text-[0.95rem]!"
        rows={6}
        aria-label={`Table of ${table === "ledger" ? "ledger entries" : "readings"}`}
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          read.reset();
        }}
      />
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <button
          type="button"
          className="btn"
          disabled={text.trim() === "" || read.isPending}
          onClick={() => read.mutate({ csv: text, store: false })}
        >
          Read it
        </button>
        <FileButton
          label={`File of ${table === "ledger" ? "ledger entries" : "readings"}`}
          accept=".csv,.tsv,.txt,text/csv"
          onChoose={([f]) =>
            void f?.text().then((csv) => {
              setText(csv);
              read.mutate({ csv, store: false });
            })
          }
        >
          Choose a file
        </FileButton>
        {table === "ledger" && (
          <label className="flex min-h-11 items-center gap-2">
            <input
              type="checkbox"
              className="h-6 w-6 accent-(--sea)"
              checked={matching}
              onChange={(e) => {
                setMatching(e.target.checked);
                read.reset();
              }}
            />
            Match words to parts where they are sure
          </label>
        )}
      </div>
      <Trouble error={read.error} />
      {reading && !stored && (
        <div className="mt-2" role="status" data-testid="table-report">
          <p className="sign text-lg font-semibold">
            {whole(reading.lines)} lines: {whole(reading.good)} good, {whole(reading.duplicates)} here
            already, {whole(reading.faulty)} to mend
            {table === "ledger" && reading.good > 0 && `; ${whole(reading.matched)} matched to parts or work`}
            .
          </p>
          {reading.faults.length > 0 && (
            <>
              <p>Nothing is stored until every line is right.</p>
              <ul className="max-h-64 overflow-y-auto border-l-8 border-caution bg-caution-bg p-2 text-caution">
                {reading.faults.map((f, i) => (
                  <li key={i}>
                    <b className="sign">
                      line {f.line}
                      {f.column && `, ${f.column}`}:
                    </b>{" "}
                    {f.message}
                  </li>
                ))}
              </ul>
              {reading.faulty > reading.faults.length && <p>The first {reading.faults.length} are shown.</p>}
            </>
          )}
          {reading.faults.length === 0 && reading.good === 0 && <p>Every line is here already.</p>}
          {reading.faults.length === 0 && reading.good > 0 && (
            <button
              type="button"
              className="btn btn-main mt-2"
              disabled={read.isPending}
              onClick={() => read.mutate({ csv: text, store: true })}
            >
              Store {whole(reading.good)} line{reading.good === 1 ? "" : "s"}
            </button>
          )}
        </div>
      )}
    </details>
  );
}
