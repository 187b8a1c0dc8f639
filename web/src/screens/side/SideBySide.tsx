// Two to four candidates under one plan, on one axis.

import { useQuery } from "@tanstack/react-query";
import { scaleLinear } from "d3-scale";
import { Link, useSearchParams } from "react-router";
import { api, type Side, type SideBySide as Answer, type Turn } from "../../lib/api";
import { useWidth } from "../../lib/hooks";
import { verdictLine } from "../../parts/Milestone";
import { RoadLane, roadOf } from "../../charts/Road";
import { Page } from "../../parts/Shell";
import { Tally } from "../../parts/Tally";
import { clockUnit, exact, money, percent, usage } from "../../lib/format";
import { blockerSays, systemWord } from "../../lib/words";
import { FootAxis, SideAxis } from "../../charts/Axes";

function turnSays(t: Turn, titles: string[]): string {
  const [cheap, dear] = [titles[t.cheap] ?? "", titles[t.dear] ?? ""];
  return t.kind === "cheap_turns_dear"
    ? `${cheap} is the cheaper to buy, but costs more from year ${t.year}: ${money(t.by)} more than ${dear} by the end of the plan.`
    : `${cheap} is the cheaper to buy and stays so: ${money(t.by)} less than ${dear} by the end of the plan.`;
}

function unlikeSays(s: Side): string {
  if (!s.unlike) return "";
  switch (s.unlike.kind) {
    case "bare_against_whole":
      return "Not weighed against the first: one is an engine by itself, the other a whole vehicle. The price of an engine buys no body, gearbox or road use; compare it with other engines.";
    case "clocks":
      return "Not weighed against the first: one counts distance, the other engine hours, and nothing turns one into the other.";
    case "currencies":
      return `Not weighed against the first: asked for in ${s.unlike.this}, the first in ${s.unlike.first}.`;
  }
}

const dashes = [undefined, "9 5", "2 4", "12 4 2 4"];

/** What has left by the day of purchase: the price, less what it is worth that day where its worth is counted. */
const atPurchase = (data: Answer, s: Side) =>
  s.cost.price - (data.comparison.less_worth ? s.assessment.value.marked_price : 0);

/** Price and bill summed up along the years. */
function Sums({ data }: { data: Answer }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const sides = data.comparison.sides.map((s, i) => ({ s, i })).filter(({ s }) => !s.unlike);
  const sums = sides.flatMap(({ s }) => [atPurchase(data, s), ...s.cost.by_year]);
  const [least, top] = [Math.min(0, ...sums), Math.max(1, ...sums)];
  const years = Math.max(...sides.map(({ s }) => s.cost.by_year.length), 1);
  const right = width < 500 ? 110 : 190;
  const x = scaleLinear([0, years], [58, Math.max(width - right, 60)]);
  const y = scaleLinear([least * 1.05, top * 1.05], [190, 12]).nice(4);
  const ends = sides
    .map(({ s, i }) => ({ i, at: s.cost.total, y: y(s.cost.total) }))
    .sort((a, b) => a.y - b.y);
  ends.forEach((e, k) => {
    const before = ends[k - 1];
    if (before && e.y - before.y < 19) e.y = before.y + 19;
  });
  return (
    <div ref={ref} style={{ minHeight: 226 }}>
      {width > 200 && (
        <svg
          width={width}
          height={226}
          role="img"
          aria-label={`What each has cost over ${years} years: ${sides.map(({ s, i }) => `${data.titles[i] ?? ""} ${money(s.cost.total)}`).join(", ")}`}
        >
          <SideAxis ticks={y.ticks(4)} y={y} say={exact} from={58} to={width - right} />
          <line x1={58} x2={width - right} y1={y(0)} y2={y(0)} stroke="var(--ink)" strokeWidth="3" />
          <FootAxis
            ticks={Array.from({ length: years + 1 }, (_, k) => k)}
            x={x}
            say={(k) => (k === 0 ? "bought" : `year ${k}`)}
            at={212}
          />
          {sides.map(({ s, i }) => (
            <path
              key={i}
              d={`M${x(0)} ${y(atPurchase(data, s))}${s.cost.by_year.map((v, k) => `L${x(k + 1)} ${y(v)}`).join("")}`}
              fill="none"
              stroke={i === 0 ? "var(--sea)" : "var(--ink)"}
              strokeWidth="3"
              strokeDasharray={dashes[i]}
            />
          ))}
          {ends.map((e) => (
            <text
              key={e.i}
              x={width - right + 10}
              y={e.y + 5}
              className="sign"
              fontSize="15"
              fontWeight="650"
              fill={e.i === 0 ? "var(--sea)" : "var(--ink)"}
            >
              {short(data.titles[e.i] ?? "", width < 500 ? 13 : 24)}
            </text>
          ))}
        </svg>
      )}
    </div>
  );
}

const short = (text: string, most: number) => (text.length > most ? `${text.slice(0, most - 1)}…` : text);

function Row({
  name,
  sides,
  cell,
  under,
  best,
}: {
  name: string;
  sides: Side[];
  cell: (s: Side) => React.ReactNode;
  /** A second line below. */
  under?: (s: Side) => React.ReactNode;
  best?: (s: Side) => number;
}) {
  const weighed = sides.filter((s) => !s.unlike);
  const least = best && weighed.length > 1 ? Math.min(...weighed.map(best)) : null;
  return (
    <tr className="border-b border-rule align-top">
      <th scope="row" className="sign py-2 pr-3 text-left text-base font-semibold">
        {name}
      </th>
      {sides.map((s, i) => (
        <td key={i} className="py-2 pr-4">
          {cell(s)}
          {least !== null && best && !s.unlike && best(s) === least && (
            <span className="sign ml-2 border-b-2 border-sea text-[0.95rem] font-semibold">least</span>
          )}
          {under && <span className="block text-[0.95rem] leading-snug text-soft">{under(s)}</span>}
        </td>
      ))}
    </tr>
  );
}

function Table({ data }: { data: Answer }) {
  const { sides, clock } = data.comparison;
  const each = clock === "km" ? "For 1 000 km" : "For 100 h";
  const systems = [...new Set(sides.flatMap((s) => s.systems.map((x) => x.system)))];
  return (
    <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Side by side, figure by figure">
      <table className="w-full min-w-[44rem] border-collapse">
        <thead>
          <tr className="border-b-2 border-ink text-left">
            <td className="w-36" />
            {data.titles.map((t, i) => (
              <th key={data.ids[i]} scope="col" className="pr-4 pb-1">
                <Link
                  to={`/c/${data.ids[i] ?? ""}/verdict`}
                  className="sign text-[1.2rem] font-bold underline underline-offset-4"
                >
                  {t}
                </Link>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          <Row
            name="Verdict"
            sides={sides}
            cell={(s) => (
              <span className="flex flex-wrap items-center gap-x-3">
                <b className="sign text-lg">
                  {verdictLine(s.assessment.verdict.kind, s.assessment.value.limit)}
                </b>
                <Tally grade={s.assessment.grade} word />
              </span>
            )}
          />
          <Row
            name="True cost"
            sides={sides}
            best={(s) => s.cost.total}
            cell={(s) => <span className="reading text-2xl">{money(s.cost.total)}</span>}
            under={(s) =>
              data.comparison.less_worth && s.cost.still_worth && !s.unlike
                ? `${exact(s.cost.price)} asked and ${money(s.cost.bill)} expected, less ${money(s.cost.still_worth.at_end)} that it ${s.cost.still_worth.basis === "entered" ? "should fetch then, as you say" : "is still worth then"}`
                : `${exact(s.cost.price)} asked and ${money(s.cost.bill)} expected`
            }
          />
          <Row
            name="One in ten goes beyond"
            sides={sides}
            best={(s) => s.cost.total_p90}
            cell={(s) => <span className="reading text-xl">{money(s.cost.total_p90)}</span>}
          />
          <Row
            name="A year"
            sides={sides}
            best={(s) => s.cost.a_year}
            cell={(s) => <span className="reading text-xl">{money(s.cost.a_year)}</span>}
          />
          <Row
            name={each}
            sides={sides}
            best={(s) => s.cost.a_thousand}
            cell={(s) => (
              <>
                <span className="reading text-xl">{money(s.cost.a_thousand)}</span>
                {s.assessment.clock !== clock && (
                  <span className="text-soft"> for {s.assessment.clock === "km" ? "1 000 km" : "100 h"}</span>
                )}
              </>
            )}
          />
          <Row
            name="Worth to you"
            sides={sides}
            cell={(s) => <span className="reading text-xl">{money(s.assessment.value.limit)}</span>}
          />
          <Row
            name="Blockers"
            sides={sides}
            cell={(s) =>
              s.assessment.blockers.length === 0 ? (
                <span className="text-soft">none closed</span>
              ) : (
                <ul>
                  {s.assessment.blockers.map((g, i) => (
                    <li key={i} className="leading-snug">
                      <b>{g.kind === "stop" ? "Stop" : "Prove first"}:</b> {blockerSays(g).title}
                    </li>
                  ))}
                </ul>
              )
            }
          />
          <Row
            name="In the first year"
            sides={sides}
            cell={(s) =>
              s.first_year.length === 0 ? (
                <span className="text-soft">nothing that is known of</span>
              ) : (
                <ul>
                  {s.first_year.slice(0, 6).map((n) => (
                    <li key={`${n.name}/${n.scheduled}`} className="flex justify-between gap-3 leading-snug">
                      <span>
                        {n.name}{" "}
                        <span className="text-soft">{n.scheduled ? "overdue" : percent(n.chance)}</span>
                      </span>
                      <span className="reading">{money(n.amount)}</span>
                    </li>
                  ))}
                  {s.first_year.length > 6 && (
                    <li className="text-soft">and {s.first_year.length - 6} more</li>
                  )}
                </ul>
              )
            }
          />
          {systems.map((system) => (
            <Row
              key={system}
              name={systemWord[system] ?? system}
              sides={sides}
              cell={(s) => {
                const grade = s.systems.find((x) => x.system === system)?.grade;
                return grade ? (
                  <Tally grade={grade} word />
                ) : (
                  <span className="text-soft">not in its sheets</span>
                );
              }}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

export function SideBySide() {
  const [params] = useSearchParams();
  const ids = (params.get("ids") ?? "").split(",").filter(Boolean);
  const answer = useQuery({
    queryKey: ["side", ids.join(",")],
    queryFn: () => api.sideBySide(ids),
    enabled: ids.length >= 2,
  });
  const data = answer.data;
  const c = data?.comparison;
  const sides = c?.sides ?? [];
  const most = Math.max(
    0,
    ...sides.filter((s) => !s.unlike).map((s) => s.assessment.usage_now + s.assessment.horizon),
  );
  const spend = Math.max(1, ...sides.filter((s) => !s.unlike).flatMap((s) => s.assessment.bill.spend));
  return (
    <Page title="Side by side">
      {ids.length < 2 && (
        <div className="mt-6 max-w-xl border-l-8 border-ink pl-5">
          <p className="text-lg">Choose two to four candidates in the yard.</p>
          <Link to="/" className="btn btn-main mt-3">
            Go to the yard
          </Link>
        </div>
      )}
      {answer.error && (
        <p role="alert" className="mt-4 border-l-8 border-caution bg-caution-bg px-3 py-2 text-caution">
          {answer.error.message}
        </p>
      )}
      {ids.length >= 2 && answer.isPending && (
        <p role="status" className="mt-4 text-lg">
          Laying them side by side.
        </p>
      )}
      {data && c && (
        <>
          <p className="text-lg">
            Under the first one’s plan: {c.years} years of {usage(c.usage_a_year, clockUnit(c.clock))}.
            {sides.some((s) => s.replanned) && " The plans of the others are set aside here."}
          </p>
          <ul className="mt-2 max-w-4xl" data-testid="turns">
            {c.turns.map((t, i) => (
              <li
                key={i}
                className={`mt-1 border-l-8 px-3 py-1 text-[1.1rem] ${t.kind === "cheap_turns_dear" ? "border-caution bg-caution-bg text-caution" : "border-ink"}`}
              >
                {turnSays(t, data.titles)}
              </li>
            ))}
          </ul>
          <section aria-label="Roads" className="mt-4">
            {sides.map((s, i) => (
              <div key={data.ids[i]} className="mt-2 grid gap-x-6 md:grid-cols-[15rem_1fr]">
                <div>
                  <h2 className="text-[1.25rem] leading-tight">{data.titles[i]}</h2>
                  <p className="sign text-base">
                    {usage(s.assessment.usage_now, clockUnit(s.assessment.clock), 100)} · asks{" "}
                    <b className="reading">{exact(s.cost.price)}</b>
                  </p>
                </div>
                <RoadLane
                  data={roadOf(s.assessment)}
                  until={s.unlike ? undefined : most}
                  most={s.unlike ? undefined : spend}
                  label={`${data.titles[i] ?? ""}: ${usage(s.assessment.usage_now, clockUnit(s.assessment.clock), 100)} driven, then the plan, with the money that leaves along it`}
                />
                {s.unlike && (
                  <p className="border-l-8 border-caution bg-caution-bg px-3 py-1 text-caution md:col-span-2">
                    {unlikeSays(s)}
                  </p>
                )}
              </div>
            ))}
          </section>
          <h2 className="stretch mt-5">
            {c.less_worth
              ? `What each has cost, if sold again then, ${c.currency}`
              : `Price and bill, summed up, ${c.currency}`}
          </h2>
          <Sums data={data} />
          <div className="mt-3">
            <Table data={data} />
          </div>
          <p className="mt-5 max-w-3xl text-[0.95rem] text-soft">
            Estimates from stated assumptions, not a warranty.{" "}
            {c.less_worth
              ? "What each may be sold for again comes from the line through its adverts, at the usage and age it will then have, or from what you said."
              : "What each may be sold for at the end is not counted, because it is not known of all: give each at least three adverts of others, or say on its price page what it should fetch."}{" "}
            Local roadworthiness rules and licensed technicians take precedence.
          </p>
        </>
      )}
    </Page>
  );
}
