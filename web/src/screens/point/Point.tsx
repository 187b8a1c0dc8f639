import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import {
  api,
  ApiError,
  type CandidateView,
  type LifeForm,
  type PointDetail,
  type PointRef,
  type ShareForm,
} from "../../lib/api";
import { usePoints } from "../../lib/hooks";
import { ClaimChart, DashSample, sourceDash } from "../../charts/ClaimChart";
import { Tally } from "../../parts/Tally";
import { Waterfall } from "../../parts/Why";
import { capital, clockUnit, money, percent, usage } from "../../lib/format";
import { QuoteForm } from "./QuoteForm";
import { PuttingRight, repairSays } from "../../parts/Said";
import { OnItsWay } from "../../parts/OnItsWay";
import { careWord, mechanismWord } from "../../lib/words";

function lifeWords(says: LifeForm, figure: (v: number) => string): string {
  switch (says.form) {
    case "between":
      return `usually between ${figure(says.from)} and ${figure(says.to)}`;
    case "from_about":
      return `from about ${figure(says.at)} on`;
    case "about":
      return `about ${figure(says.at)}`;
    case "rarely_beyond":
      return `rarely beyond ${figure(says.at)}`;
    case "at_least":
      return `at least ${figure(says.at)}`;
    case "quantiles":
      return says.points.map((q) => `${Math.round(q.p * 100)} % by ${figure(q.x)}`).join(", ");
    case "weibull":
      return `a Weibull curve of shape ${says.shape}, scale ${figure(says.scale)}`;
  }
}

function shareWords(says: ShareForm): string {
  switch (says.form) {
    case "share":
      return `${Math.round(says.share * 100)} %`;
    case "one_in":
      return `one in ${says.n}`;
    case "word":
      return { rare: "seldom", occasional: "now and then", common: "common", most: "most", all: "every one" }[
        says.word
      ];
  }
}

function Heading({ children }: { children: string }) {
  return <h2 className="stretch mb-2 text-sea">{children}</h2>;
}

function Claims({ detail, view, sources }: { detail: PointDetail; view: CandidateView; sources: string[] }) {
  const unit = clockUnit(view.assessment.clock);
  return (
    <section>
      <Heading>Who claims what</Heading>
      <ul data-testid="claims">
        {detail.clocks.flatMap((clock) =>
          clock.claims.map((c, i) => (
            <li
              key={`${clock.clock}${i}`}
              className="grid grid-cols-[3rem_1fr] items-baseline gap-x-3 border-b border-rule py-1.5"
            >
              <DashSample dash={sourceDash(sources, c.source)} />
              <span>
                <b className="sign text-[1.1rem]">{c.name}</b>
                {c.revised && <span className="sign"> of the revised part</span>}
                <span className="block leading-snug">
                  {lifeWords(c.says, (v) => (clock.clock === "age" ? `${v} years` : usage(v, unit)))}
                </span>
                {c.stands && <span className="block text-[0.9rem] text-soft">{standsSays(c.stands)}</span>}
                {c.weight === 0 && <span className="text-[0.9rem] text-soft">not listened to now</span>}
              </span>
            </li>
          )),
        )}
        <li className="grid grid-cols-[3rem_1fr] items-center gap-x-3 py-1.5">
          <svg width="44" height="10" aria-hidden="true">
            <line x1="0" x2="44" y1="5" y2="5" stroke="var(--sea)" strokeWidth="5" />
          </svg>
          <span>
            pooled, those heard{detail.clocks.some((c) => c.revised) && "; dotted for the revised part"}
          </span>
        </li>
      </ul>
      {detail.shares.length > 0 && (
        <p className="mt-1 text-[0.95rem]">
          How many have it in them:{" "}
          {detail.shares
            .map((s) => `${s.source} “${shareWords(s.says)}”${s.revised ? " (revised)" : ""}`)
            .join("; ")}
          .
        </p>
      )}
      {detail.revision && (
        <p className="mt-1 text-[0.95rem]">
          Revised part: {detail.revision}.{" "}
          {detail.revised ? "This one was built with it." : "This one was built before it."}
        </p>
      )}
    </section>
  );
}

/** Where a claim stands, as text. */
function standsSays(c: NonNullable<PointDetail["shares"][number]["stands"]>): string {
  return [c.title, c.time, c.page && `page ${c.page}`, c.link].filter(Boolean).join(", ");
}

const originWord = {
  figure: "as the sheet’s figure",
  word: "from the sheet’s word",
  default: "nobody said: the usual",
  quote: "as a workshop quoted",
} as const;

/** Where the figures come from that nobody sees otherwise. */
function Figures({ detail, view }: { detail: PointDetail; view: CandidateView }) {
  const { clock, currency } = view.assessment;
  const says = (f: PointDetail["figures"][number]) =>
    ({
      share: ["Share that has it in them", percent(f.value)],
      repair: ["Putting it right", `${money(f.value)} ${currency}`],
      lived_with: ["Owners live with it for", usage(f.value, clockUnit(clock))],
      notice: ["It gives notice for", usage(f.value, clockUnit(clock))],
      noticed: ["Noticed in time by", percent(f.value)],
    })[f.of];
  return (
    <section data-testid="figures">
      <Heading>Where the figures come from</Heading>
      <ul>
        {detail.figures.map((f) => {
          const [name, value] = says(f);
          return (
            <li
              key={f.of}
              className="grid grid-cols-[1fr_auto] gap-x-4 border-b border-rule py-1 leading-tight"
            >
              <span>
                {name}
                <span className="block text-[0.9rem] text-soft">{originWord[f.from]}</span>
              </span>
              <span className="reading text-lg">{value}</span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function Moves({ view, at }: { view: CandidateView; at: PointRef }) {
  const { candidate } = view;
  const query = useQuery({
    queryKey: ["moves", view.id, candidate],
    queryFn: () => api.whatMoved(candidate),
    staleTime: Infinity,
  });
  const mine = (query.data ?? []).flatMap((f) => {
    const move = f.points.find((p) => p.at.family === at.family && p.at.point === at.point);
    return move ? [{ finding: f, move }] : [];
  });
  return (
    <section>
      <Heading>What each finding did</Heading>
      {query.isPending && <p role="status">Leaving out each finding in turn.</p>}
      {query.error instanceof ApiError && <p className="text-caution">{query.error.message}</p>}
      {query.data && mine.length === 0 && (
        <p>
          No finding moved it so far.{" "}
          <Link to={`/c/${view.id}/walk-round`} className="text-sea underline">
            Go and look
          </Link>
          .
        </p>
      )}
      <ul data-testid="moves">
        {mine
          .sort(
            (a, b) =>
              Math.abs((b.move.plan[1] ?? 0) - (b.move.plan[0] ?? 0)) -
              Math.abs((a.move.plan[1] ?? 0) - (a.move.plan[0] ?? 0)),
          )
          .map(({ finding, move }) => (
            <li
              key={`${finding.family}/${finding.check}`}
              className="flex items-baseline justify-between gap-4 border-b border-rule py-1.5"
            >
              <span className="leading-snug">
                <b className="sign text-[1.1rem]">{finding.name}</b>
                <span className="block text-soft">{finding.outcome}</span>
              </span>
              <span className="reading text-[1.15rem] whitespace-nowrap">
                {percent(move.plan[0] ?? 0)} → {percent(move.plan[1] ?? 0)}
              </span>
            </li>
          ))}
      </ul>
      {mine.length > 0 && (
        <p className="mt-1 text-[0.95rem] text-soft">
          Chance within your plan without that finding and with it, everything else known. Findings on other
          points count too, where they share a cause or speak of how it was kept.
        </p>
      )}
    </section>
  );
}

/** One failure point laid open: claims side by side, pooled, and what this vehicle's evidence makes of
 *  them. */
export function Point({
  view,
  stored,
  at,
}: {
  view: CandidateView;
  /** What is stored, without what is only tried out. */
  stored: CandidateView;
  at: PointRef;
}) {
  const { assessment, candidate } = view;
  const unit = clockUnit(assessment.clock);
  const query = useQuery({
    queryKey: ["point", view.id, at.family, at.point, candidate],
    queryFn: () => api.pointDetail(at, candidate),
    placeholderData: (previous) => (previous?.at.point === at.point ? previous : undefined),
    staleTime: Infinity,
  });
  const mine = (p: { at: PointRef }) => p.at.family === at.family && p.at.point === at.point;
  const line = view.road.points.find(mine);
  const { part: points, away } = usePoints(view);
  const result = points?.find(mine);
  const back = (
    <Link
      to={`/c/${view.id}/road`}
      className="sign inline-flex min-h-11 items-center text-lg font-semibold text-sea underline underline-offset-4"
    >
      ‹ Road ahead
    </Link>
  );
  if (line && !result) {
    return (
      <>
        {back}
        <h1 className="text-3xl">{line.name}</h1>
        <OnItsWay what="What stands behind it" away={away} />
      </>
    );
  }
  if (!line || !result) {
    return (
      <>
        {back}
        <h1 className="text-3xl">No such failure point on this one</h1>
        <p>It is not in the sheets of its families, or a known fact rules it out.</p>
      </>
    );
  }
  const detail = query.data;
  const sources = detail
    ? [...new Set(detail.clocks.flatMap((c) => c.claims.map((x) => x.source)))].sort()
    : [];
  return (
    <>
      {back}
      <div className="grid items-start gap-x-10 gap-y-2 lg:grid-cols-[1fr_25rem]">
        <div>
          <h1 className="text-3xl">{result.name}</h1>
          <p className="text-lg">
            {capital(result.shows)}.{detail?.why && ` ${detail.why}`}
          </p>
          {detail && (
            <p className="text-soft">
              {mechanismWord[detail.mechanism]}.{detail.prevention && ` Prevention: ${detail.prevention}`}
            </p>
          )}
        </div>
        <div className="border-l-8 border-sea bg-sunk px-4 py-2">
          <p className="flex items-baseline gap-3">
            <span className="reading text-4xl leading-none" data-testid="point-chance">
              {percent(result.p_plan)}
            </span>
            <span>within your {usage(assessment.horizon, unit, 100)}</span>
            <span className="ml-auto">
              <Tally grade={result.grade} word />
            </span>
          </p>
          <p>
            {percent(result.p_now)} that it is there now. {repairSays(result)} {assessment.currency}.
          </p>
          {line.apart && (
            <p>They disagree: {result.sources.map((s) => `${s.name} ${percent(s.chance)}`).join(", ")}.</p>
          )}
          <QuoteForm view={stored} point={result} />
        </div>
      </div>

      {query.isPending && <p role="status">Laying it open.</p>}
      {query.error instanceof ApiError && <p className="text-caution">{query.error.message}</p>}
      {detail && (
        <div className="mt-5 grid gap-x-10 gap-y-7 lg:grid-cols-[1fr_25rem]">
          <div className="grid min-w-0 content-start gap-y-7">
            {detail.clocks.map((c) => (
              <section key={c.clock}>
                <Heading>
                  {c.clock === "usage"
                    ? "By usage: share failed, of those that have it in them"
                    : "By age: share failed, of those that have it in them"}
                </Heading>
                <p className="mb-1 flex flex-wrap gap-x-5 lg:hidden">
                  {[...new Map(c.claims.map((x) => [x.source, x.name]))].map(([source, name]) => (
                    <span key={source} className="inline-flex items-center gap-2">
                      <DashSample dash={sourceDash(sources, source)} /> {name}
                    </span>
                  ))}
                </p>
                <ClaimChart curves={c} detail={detail} clock={assessment.clock} sources={sources} />
              </section>
            ))}
            <section>
              <Heading>From the family to this one</Heading>
              <Waterfall point={result} />
            </section>
          </div>
          <div className="grid content-start gap-y-7">
            <PuttingRight
              p={result}
              stored={stored}
              currency={assessment.currency}
              clock={assessment.clock}
            />
            <Figures detail={detail} view={view} />
            <Claims detail={detail} view={view} sources={sources} />
            <section>
              <Heading>By how it was kept</Heading>
              <ul className="grid grid-cols-3 gap-2">
                {careWord.map((word, i) => (
                  <li key={word}>
                    <span className="sign block">{word}</span>
                    <span className="reading text-2xl">{percent(detail.by_care[i] ?? 0)}</span>
                    <span className="block text-[0.9rem] text-soft">
                      weighed {percent(assessment.care.after[i] ?? 0)}
                    </span>
                  </li>
                ))}
              </ul>
            </section>
            <Moves view={view} at={at} />
            <p className="text-[0.95rem] text-soft">
              Every figure is an estimate from stated assumptions, not a warranty. Local rules and licensed
              technicians take precedence.
            </p>
          </div>
        </div>
      )}
    </>
  );
}
