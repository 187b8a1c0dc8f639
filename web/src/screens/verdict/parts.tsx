// Parts of the decision that the screen and the report share.

import { scaleLinear } from "d3-scale";
import { Link } from "react-router";
import { useShared, Way } from "../../parts/Shared";
import type { Assessment, Reason } from "../../lib/api";
import { useWidth } from "../../lib/hooks";
import { clears, reasonSays } from "./says";
import { neededSays } from "../../lib/words";
import { exact, money, percent } from "../../lib/format";

/** Asking price, worth and the going price as stones along one line of money. */
export function PriceLine({ a }: { a: Assessment }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const { asking, limit, reference } = a.value;
  const marks = [
    { at: asking, name: "asked", text: exact(asking), up: true },
    { at: limit, name: "worth to you", text: money(limit), up: false },
  ];
  const low = Math.min(asking, limit, reference.price) * 0.85;
  const high = Math.max(asking, limit, reference.price) * 1.1;
  const x = scaleLinear()
    .domain([low, high])
    .range([10, Math.max(width - 10, 20)]);
  const label = `Asked ${exact(asking)}, worth to you ${money(limit)}, going price ${money(reference.price)}.`;
  const keep = (v: number) => Math.min(Math.max(x(v), 52), width - 52);
  return (
    <div ref={ref} style={{ height: 112 }}>
      {width > 60 && (
        <svg width={width} height={112} role="img" aria-label={label}>
          <line x1={0} x2={width} y1={56} y2={56} stroke="var(--ink)" strokeWidth="3" />
          <line
            x1={x(reference.price)}
            x2={x(reference.price)}
            y1={48}
            y2={64}
            stroke="var(--rule-strong)"
            strokeWidth="3"
          />
          <rect
            x={Math.min(x(asking), x(limit))}
            y={51}
            width={Math.abs(x(asking) - x(limit))}
            height={10}
            fill={limit >= asking ? "var(--sea)" : "var(--ramp-3)"}
            stroke="var(--ink)"
          />
          {Math.abs(x(reference.price) - x(limit)) > 110 && (
            <text
              x={keep(reference.price)}
              y={82}
              textAnchor="middle"
              className="sign"
              fontSize="15"
              fill="var(--ink-soft)"
            >
              going price {money(reference.price)}
            </text>
          )}
          {marks.map((m) => (
            <g key={m.name} textAnchor="middle">
              <line
                x1={x(m.at)}
                x2={x(m.at)}
                y1={m.up ? 36 : 56}
                y2={m.up ? 56 : 76}
                stroke="var(--ink)"
                strokeWidth="3"
              />
              <text x={keep(m.at)} y={m.up ? 32 : 92} className="reading" fontSize="20" fill="var(--ink)">
                {m.text}
              </text>
              <text x={keep(m.at)} y={m.up ? 13 : 108} className="sign" fontSize="15" fill="var(--ink-soft)">
                {m.name}
              </text>
            </g>
          ))}
        </svg>
      )}
    </div>
  );
}

/** Where a reason comes from. */
function behind(r: Reason, id: string): string | null {
  switch (r.kind) {
    case "fault_likely":
    case "renewed":
    case "looks_sound":
      return `/c/${id}/road/${r.at.family}/${r.at.point}`;
    case "price_below_limit":
    case "price_above_limit":
      return `/c/${id}/verdict/price`;
    case "bill_below_reference":
    case "bill_above_reference":
      return `/c/${id}/bill`;
    case "not_looked_at":
      return `/c/${id}/walk-round`;
    case "not_asked":
      return `/c/${id}/papers/provenance`;
    case "marked":
      return `/c/${id}/verdict/price`;
    case "blocker":
      return null;
  }
}

export function Reasons({
  title,
  reasons,
  a,
  id,
}: {
  title: string;
  reasons: Reason[];
  a: Assessment;
  id: string;
}) {
  const shared = useShared();
  return (
    <section>
      <h2 className="stretch">{title}</h2>
      {reasons.length === 0 && <p className="py-1">Nothing that is worth a hundredth of its price.</p>}
      <ol className="list-decimal pl-5 text-[1.05rem]">
        {reasons.map((r, i) => (
          <li key={i} className="py-1 pl-1">
            {reasonSays(r, a)}
            {!shared && behind(r, id) && (
              <Link
                to={behind(r, id) ?? ""}
                className="no-print ml-2 inline-flex min-h-6 items-center underline underline-offset-4"
              >
                why<span className="sr-only">: {reasonSays(r, a)}</span>
              </Link>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}

/** How much of what matters has been looked at. */
export function Knowledge({ a }: { a: Assessment }) {
  const k = a.knowledge;
  return (
    <section aria-label="How much is known">
      <h2 className="stretch">How much of what matters is known</h2>
      <svg
        width="100%"
        height="22"
        role="img"
        aria-label={`${percent(k.money)} of the expected money looked at`}
      >
        <rect x="0" y="3" width="100%" height="16" fill="var(--raised)" stroke="var(--ink)" strokeWidth="2" />
        <rect x="0" y="3" width={`${k.money * 100}%`} height="16" fill="var(--ink)" />
      </svg>
      <p>
        <b className="reading text-lg">{percent(k.money)}</b> of the money one would fear from usage, age and
        papers alone is at points that somebody looked at, or that a paper proves renewed: {k.points} of{" "}
        {k.of_points} points. {k.provenance} of {k.of_provenance} items of a history report are asked;{" "}
        {a.checks_done} of {a.checks_total} checks are done.
      </p>
    </section>
  );
}

/** What is needed before anything is decided. */
export function Deciding({ a, id }: { a: Assessment; id: string }) {
  const { needed } = a.verdict;
  if (needed.length === 0) return null;
  return (
    <section className="lg:col-span-2" data-testid="deciding">
      <h2 className="stretch">What decides it</h2>
      <p className="py-1">
        Nothing is decided before these are known. The limit price is what it looks like so far.
      </p>
      <ol className="grid gap-x-12 md:grid-cols-2">
        {needed.map((n, i) => {
          const says = neededSays(n, a);
          return (
            <li key={i} className="border-b border-rule py-1.5">
              <Way className="sign text-lg font-bold underline underline-offset-4" to={`/c/${id}/${says.to}`}>
                {says.what}
              </Way>
              <span className="block text-[0.95rem] text-soft">{says.why}</span>
            </li>
          );
        })}
      </ol>
    </section>
  );
}

export function WouldChange({ a }: { a: Assessment }) {
  const { verdict } = a;
  return (
    <section>
      <h2 className="stretch">What would change it</h2>
      {verdict.would_change.length === 0 && <p className="py-1">Nothing that is known of: it stands.</p>}
      <ul className="list-disc pl-5 text-[1.05rem]">
        {verdict.would_change.map((c, i) => {
          const blocker = c.kind === "prove" ? a.blockers[c.blocker] : undefined;
          const check = c.kind === "check" ? a.open_checks[c.open_check] : undefined;
          return (
            <li key={i} className="py-1 pl-1">
              {c.kind === "price_to" &&
                (c.amount >= 0.5
                  ? `The price comes down by ${money(c.cut)}, to ${money(c.amount)}.`
                  : "No price: by what is known it costs more than it is worth.")}
              {c.kind === "paper" &&
                `A paper that proves it done: ${c.name}. It would bring ${money(c.saves)}${c.turns ? ", and the limit to the asking price" : ""}.`}
              {blocker && clears(blocker)}
              {check &&
                c.kind === "check" &&
                `${check.name} (${check.minutes} min): worth about ${money(check.value_of_information)}; ${percent(c.turns)} that it turns the price question.`}
            </li>
          );
        })}
      </ul>
    </section>
  );
}
