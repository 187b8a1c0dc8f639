import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type Question } from "../../lib/api";
import { useDesk } from "./common";
import { money } from "../../lib/format";
import { provenanceItem, provenanceMeans, provenanceWord } from "../../lib/words";
import { Trouble } from "../../parts/Trouble";

const provenanceAsk: Record<string, string> = {
  stolen: "the register’s answer on whether it is reported stolen",
  scrapped: "the register’s answer on whether it was scrapped",
  identity: "a picture of the VIN on the body and of the registration paper",
  written_off_structural: "whether an insurer ever wrote it off, and the report of what was mended",
  finance: "the lender’s letter that nothing is owed on it",
  third_party: "whether anybody else has a right to it, in writing",
  mileage: "every test certificate with its reading",
};

const odometerAsk: Record<string, string> = {
  fall: "what happened to the clock when it fell, with the invoice if it was exchanged",
  misread: "the certificate of the test whose reading stands out",
  wrong_unit: "whether the clock counts miles or kilometres, with a picture of it",
  wrap: "whether the clock has gone round past 99 999",
  slow: "where it stood in the years when it hardly moved",
  fast: "who used it in the year when it ran so far",
  gap: "any reading from the years without one",
};

/** The question in the words of a message. */
export function asks(q: Question): string {
  const { ask } = q;
  switch (ask.kind) {
    case "provenance":
      return `Can you send ${provenanceAsk[ask.item] ?? "what is on record"}?`;
    case "odometer":
      return `Can you tell me ${odometerAsk[ask.anomaly] ?? "what explains the readings"}?`;
    case "campaign":
      return `Was the campaign “${ask.name}” done? ${ask.proof}`;
    case "work":
      return `When was this last done: ${ask.name}? At what reading, by whom, and is there an invoice?`;
    case "renewal":
      return `Was this ever renewed: ${ask.name}? When, at what reading, with which part, and is there an invoice that names it?`;
    case "advisory":
      return `The test advised: “${ask.text}”. Was it put right, and can you show the invoice?`;
    case "tune":
      return "How much power does it give, who set it up, at what reading, and can you send the bench sheet and the papers on which it is entered?";
    case "check":
      return `${ask.name}. ${ask.how}`;
  }
}

function title(q: Question): string {
  const { ask } = q;
  switch (ask.kind) {
    case "provenance":
      return ask.marked
        ? `${provenanceWord[ask.item] ?? ask.item}: marked`
        : (provenanceWord[ask.item] ?? ask.item);
    case "odometer":
      return "What explains the readings";
    case "advisory":
      return `Advised: ${ask.text}`;
    case "campaign":
      return `Campaign: ${ask.name}`;
    case "work":
      return `Proof of work: ${ask.name}`;
    case "renewal":
      return `Ever renewed: ${ask.name}`;
    case "tune":
      return `The tune: ${Math.round(ask.standard_kw)} kW from its maker, ${Math.round(ask.limit_kw)} at most`;
    case "check":
      return ask.name;
  }
}

function atStake(q: Question): string {
  if (q.blocker === "stop") return "could stop it";
  if (q.blocker === "prove_first") return "must be proved";
  if (q.ask.kind === "check") return `moves ${money(Math.abs(q.bill))}`;
  return `${q.bill < 0 ? "saves" : "adds"} ${money(Math.abs(q.bill))}`;
}

function Badge({ q }: { q: Question | undefined }) {
  if (!q) return null;
  const frame =
    q.blocker === "stop"
      ? "border-2 border-ink bg-ink px-1.5 text-paper"
      : q.blocker
        ? "border-2 border-ink px-1.5"
        : "";
  return <span className={`sign text-[1.1rem] font-semibold whitespace-nowrap ${frame}`}>{atStake(q)}</span>;
}

function below(q: Question): string | null {
  if (q.ask.kind === "provenance") return provenanceMeans[q.ask.item] ?? null;
  if (q.ask.kind === "work") return "as it is, it counts as not done";
  if (q.ask.kind === "renewal") return "if it was, half-way through its life so far";
  return null;
}

export function AskSeller() {
  const { view } = useDesk();
  const query = useQuery({
    queryKey: [
      "questions",
      view.id,
      view.version,
      view.assessment.bill.mean,
      view.assessment.blockers.length,
      view.candidate.provenance?.length,
    ],
    queryFn: () => api.questions(view.id),
    placeholderData: (previous) => previous,
  });
  const [dropped, setDropped] = useState<string[]>([]);
  const [copied, setCopied] = useState<"no" | "yes" | "by hand">("no");
  const all = query.data ?? [];
  // A history report is asked for as one: what nobody asked yet stands on one line.
  const unasked = all.filter((q) => q.ask.kind === "provenance" && !q.ask.marked);
  const questions = all.filter((q) => !unasked.includes(q));
  const chosen = questions.filter((q) => !dropped.includes(title(q)));
  const count = chosen.length + (unasked.length > 0 ? 1 : 0);
  const report =
    view.candidate.vin || view.candidate.plate
      ? "Can you send a picture of the VIN on the vehicle and of the registration paper?"
      : "Can you send the VIN, the plate and a picture of the registration paper, so that I can look up whether it is stolen, written off or owed on?";
  const message = [
    `About “${view.candidate.title}”: before I travel, could you help me with this?`,
    ...[...(unasked.length > 0 ? [report] : []), ...chosen.map(asks)].map((q, i) => `${i + 1}. ${q}`),
    "Thank you. Pictures of the papers are enough.",
  ].join("\n");
  return (
    <section aria-label="Ask the seller">
      <h2 className="text-2xl">Ask the seller</h2>
      <p className="max-w-prose">
        Costs nothing and is the most telling thing you can do before you travel. What could stop the purchase
        comes first; then what a paper would move your bill by.
      </p>
      <Trouble error={query.error} />
      {query.isPending && <p className="mt-3 text-lg">Working out what is worth asking.</p>}
      {query.data && all.length === 0 && (
        <p className="mt-3 text-lg">Nothing is left to ask: every paper that matters is on the desk.</p>
      )}
      <ol className="mt-2" data-testid="questions">
        {unasked.length > 0 && (
          <li className="grid min-h-12 grid-cols-[1fr_auto] items-center gap-3 border-b border-rule py-1">
            <span className="min-w-0 leading-tight">
              <Link
                to={`/c/${view.id}/papers/provenance`}
                className="sign text-[1.15rem] font-semibold underline underline-offset-4"
              >
                A history report: {unasked.length} {unasked.length === 1 ? "thing" : "things"} nobody asked
                yet
              </Link>
              <span className="block text-[0.9rem] text-soft">
                {unasked
                  .map((q) =>
                    q.ask.kind === "provenance" ? (provenanceItem[q.ask.item] ?? "").toLowerCase() : "",
                  )
                  .join(", ")}
              </span>
            </span>
            <Badge q={unasked[0]} />
          </li>
        )}
        {questions.map((q) => {
          const name = title(q);
          const on = !dropped.includes(name);
          return (
            <li key={name} className="border-b border-rule">
              <label className="grid min-h-12 grid-cols-[auto_1fr_auto] items-center gap-3 py-1">
                <input
                  type="checkbox"
                  className="h-6 w-6 accent-(--sea)"
                  checked={on}
                  onChange={() => {
                    setCopied("no");
                    setDropped(on ? [...dropped, name] : dropped.filter((x) => x !== name));
                  }}
                />
                <span className="min-w-0 leading-tight">
                  <span className="sign text-[1.15rem] font-semibold">{name}</span>
                  {below(q) && <span className="block text-[0.9rem] text-soft">{below(q)}</span>}
                </span>
                <span className="sign text-right text-[1.1rem] leading-tight font-semibold whitespace-nowrap">
                  <Badge q={q} />
                </span>
              </label>
            </li>
          );
        })}
      </ol>
      {all.length > 0 && (
        <div className="mt-4">
          <h3 className="sign text-lg font-bold">The message</h3>
          <textarea
            className="field mt-1 text-[0.98rem]!"
            rows={7}
            readOnly
            value={message}
            aria-label="Message to the seller"
          />
          <div className="mt-2 flex flex-wrap items-center gap-3">
            <button
              type="button"
              className="btn btn-main"
              disabled={count === 0}
              onClick={() =>
                void navigator.clipboard
                  .writeText(message)
                  .then(() => setCopied("yes"))
                  .catch(() => setCopied("by hand"))
              }
            >
              Copy {count} question{count === 1 ? "" : "s"}
            </button>
            <span role="status">
              {copied === "yes" && "Copied."}
              {copied === "by hand" &&
                "This browser does not let it be copied: mark the text above and copy it."}
            </span>
          </div>
          <p className="mt-2 text-sm text-soft">
            Estimates from stated assumptions: a good answer is taken to be an itemised invoice.
          </p>
        </div>
      )}
    </section>
  );
}
