// What it is worth: adverts of others, the line through them, and how the limit price comes about.

import { useQuery } from "@tanstack/react-query";
import { scaleLinear } from "d3-scale";
import { useShared, Way } from "../../parts/Shared";
import { api, type CandidateView, type Comparable, type WholeView } from "../../lib/api";
import { useWidth } from "../../lib/hooks";
import { basisSays, marksSay } from "./says";
import { clockUnit, exact, money, onClock, usage, whole } from "../../lib/format";
import { Comparables } from "./Comparables";
import { StillWorth } from "./StillWorth";
import { FootAxis, SideAxis } from "../../charts/Axes";

const HEIGHT = 300;
const LEFT = 62;
const FOOT = 46;

/** Adverts by usage and price, the line through them, and the candidate on it. */
function Cloud({ view }: { view: CandidateView }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const { assessment: a, candidate } = view;
  const { reference } = a.value;
  const unit = clockUnit(a.clock);
  const list = (candidate.comparables ?? []).map((c) => ({
    ...c,
    at: onClock(c.usage),
  }));
  const at = [...list.map((c) => c.at), a.usage_now];
  const prices = [...list.map((c) => c.price), a.value.asking, reference.price, Math.max(a.value.limit, 0)];
  const pad = (Math.max(...at) - Math.min(...at)) * 0.08 || Math.max(...at) * 0.2 || 1;
  const x = scaleLinear([Math.max(0, Math.min(...at) - pad), Math.max(...at) + pad], [LEFT, width - 14]);
  const y = scaleLinear([Math.min(...prices) * 0.9, Math.max(...prices) * 1.06], [HEIGHT - FOOT, 14]).nice(5);
  const [from = 0, to = 1] = x.domain();
  const line = reference.line;
  const used = (c: Comparable) =>
    reference.basis !== "asking" && (c.example ?? "typical") === reference.example;
  const here = x(a.usage_now);
  const side = here > width / 2 ? -1 : 1;
  return (
    <div ref={ref} style={{ minHeight: HEIGHT + 24 }}>
      {width > 100 && (
        <svg
          width={width}
          height={HEIGHT}
          role="img"
          aria-label={`${list.length} comparables by usage and price; going price ${money(reference.price)} at ${usage(a.usage_now, unit, 100)}, asked ${exact(a.value.asking)}, worth to you ${money(a.value.limit)}`}
        >
          <SideAxis ticks={y.ticks(5)} y={y} say={whole} from={LEFT} to={width - 14} gap={8} />
          <line
            x1={LEFT}
            x2={width - 14}
            y1={HEIGHT - FOOT}
            y2={HEIGHT - FOOT}
            stroke="var(--ink)"
            strokeWidth="3"
          />
          <FootAxis
            ticks={x.ticks(width < 500 ? 3 : 6)}
            x={x}
            say={(t) => usage(t, unit)}
            at={HEIGHT - FOOT + 19}
          />
          {line ? (
            <line
              x1={x(from)}
              x2={x(to)}
              y1={y(line.at_zero + line.slope * from)}
              y2={y(line.at_zero + line.slope * to)}
              stroke="var(--sea)"
              strokeWidth="3"
              strokeDasharray={reference.outside ? "9 6" : undefined}
            />
          ) : (
            <line
              x1={LEFT}
              x2={width - 14}
              y1={y(reference.price)}
              y2={y(reference.price)}
              stroke="var(--sea)"
              strokeWidth="2"
              strokeDasharray="3 5"
            />
          )}
          {list.map((c, i) => (
            <path
              key={i}
              d={`M${x(c.at)} ${y(c.price) - 7}l7 7l-7 7l-7-7z`}
              fill={used(c) ? "var(--ink)" : "var(--paper)"}
              stroke="var(--ink)"
              strokeWidth="1.6"
            />
          ))}
          <line x1={here} x2={here} y1={14} y2={HEIGHT - FOOT} stroke="var(--sea)" strokeWidth="2" />
          <rect
            x={here - 6}
            y={y(reference.price) - 6}
            width="12"
            height="12"
            fill="var(--paper)"
            stroke="var(--sea)"
            strokeWidth="3"
          />
          {[
            { at: a.value.asking, text: `asked ${exact(a.value.asking)}` },
            { at: a.value.limit, text: `worth to you ${money(a.value.limit)}` },
          ].map((m, i, both) => {
            const other = both[1 - i]?.at ?? 0;
            const near = Math.abs(y(m.at) - y(other)) < 20;
            const lift = near ? (m.at >= other ? -10 : 10) : 0;
            return (
              <g key={m.text}>
                <line
                  x1={here - 9}
                  x2={here + 9}
                  y1={y(m.at)}
                  y2={y(m.at)}
                  stroke="var(--ink)"
                  strokeWidth={i === 0 ? 5 : 3}
                />
                <text
                  x={here + side * 14}
                  y={y(m.at) + 6 + lift}
                  textAnchor={side > 0 ? "start" : "end"}
                  className="reading"
                  fontSize="17"
                  fill="var(--ink)"
                  stroke="var(--paper)"
                  strokeWidth="4"
                  paintOrder="stroke"
                >
                  {m.text}
                </text>
              </g>
            );
          })}
        </svg>
      )}
      <p className="sign text-base leading-tight text-soft">
        Filled: used for the going price, the open square at its own usage. Hollow: the other kind of example.
      </p>
    </div>
  );
}

/** The sum that gives the limit price, each figure leading to where it comes from. */
export function LimitSum({ view }: { view: WholeView }) {
  const { assessment: a, candidate } = view;
  const { reference } = a.value;
  const shared = useShared();
  const table = useQuery({
    queryKey: ["assumptions"],
    queryFn: api.assumptions,
    staleTime: Infinity,
    enabled: !shared,
  });
  const appetite = candidate.buyer?.appetite ?? "even";
  const row = table.data?.find((r) => r.key === `risk_margin_${appetite}`);
  const even = table.data?.find((r) => r.key === "risk_margin_even");
  const share = Math.round((row?.value ?? 0.25) * 100);
  const usual = Math.round((even?.value ?? 0.25) * 100);
  const { marks, not_asked: notAsked, bound } = a.value;
  const signed = (x: number) => (x >= 0 ? `−${money(x)}` : `+${money(-x)}`);
  const line = (label: React.ReactNode, amount: string, strong = false) => (
    <tr className={strong ? "border-t-2 border-ink" : "border-b border-rule"}>
      <th
        scope="row"
        className={`py-1.5 pr-3 text-left ${strong ? "sign text-[1.1rem] font-bold" : "font-normal"}`}
      >
        {label}
      </th>
      <td className={`reading py-1.5 text-right whitespace-nowrap ${strong ? "text-xl" : "text-lg"}`}>
        {amount}
      </td>
    </tr>
  );
  return (
    <section aria-label="How the limit price comes about">
      <h2 className="stretch">How the limit price comes about</h2>
      <table className="w-full border-collapse" data-testid="limit-sum">
        <tbody>
          {line(<>Going price: {basisSays(a)}</>, money(reference.price))}
          {marks.length > 0 &&
            line(
              <>
                Less what is marked on it: {marksSay(a).toLowerCase()} (
                {marks.map((m) => `${Math.round(m.share * 100)} %`).join(", ")})
              </>,
              `−${money(reference.price - a.value.marked_price)}`,
            )}
          {line(
            <>
              Less what it is{" "}
              <Way className="underline underline-offset-4" to={`/c/${view.id}/bill`}>
                expected to cost
              </Way>{" "}
              within your plan
            </>,
            `−${money(a.bill.mean)}`,
          )}
          {line(
            <>
              Back what another of its age and usage would: nothing on paper, ordinary care, nobody looked
              {reference.example === "well_sorted" && "; everything put right"}
            </>,
            `+${money(a.bill.reference)}`,
          )}
          {line(
            <>
              Room for bad luck: {share} % ({appetite}) of the {money(a.value.tail_excess)} by which the
              dearest tenth of futures lies above the average, less the {usual} % of{" "}
              {money(a.bill.reference_tail_excess)} that the market allows for another
              {row && (
                <span className="block text-[0.95rem] text-soft">
                  {row.reason} (
                  {row.ground === "published"
                    ? "published"
                    : row.ground === "judgement"
                      ? "our judgement"
                      : "common practice"}
                  )
                </span>
              )}
            </>,
            signed(a.value.risk_margin),
          )}
          {notAsked >= 0.5 &&
            line(
              <>
                Less what may come out of the{" "}
                <Way className="underline underline-offset-4" to={`/c/${view.id}/papers/provenance`}>
                  history report
                </Way>
                , which nobody has asked for
              </>,
              `−${money(notAsked)}`,
            )}
          {bound &&
            line(
              bound === "scrap" ? "Never less than its scrap" : "Never more than the best of its kind costs",
              signed(a.value.unbounded - a.value.limit),
            )}
          {line(
            a.verdict.needed.length > 0 ? "Worth to you, at most, so far" : "Worth to you, at most",
            money(a.value.limit),
            true,
          )}
        </tbody>
      </table>
      <p className="mt-1 text-[0.95rem] text-soft">
        The{" "}
        <Way className="underline underline-offset-4" to={`/c/${view.id}/road`}>
          road ahead
        </Way>{" "}
        opens each failure point down to its claims, papers and findings. Figures are rounded to two places.
      </p>
    </section>
  );
}

export function Price({ view }: { view: CandidateView }) {
  return (
    <div className="grid gap-x-12 gap-y-6 lg:grid-cols-[1fr_1fr]">
      <div className="min-w-0">
        <h1 className="text-3xl">What it is worth</h1>
        <Cloud view={view} />
        <LimitSum view={view} />
        <StillWorth view={view} />
      </div>
      <Comparables view={view} />
    </div>
  );
}
