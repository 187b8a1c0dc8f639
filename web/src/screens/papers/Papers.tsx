import { useEffect, useMemo, useState, type ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import type { CandidateView } from "../../lib/api";
import { useMedia, useWidth } from "../../lib/hooks";
import type { WhatIf } from "../../lib/whatIf";
import { RoadHeader, roadOf } from "../../charts/Road";
import { isTyping } from "../../parts/Shell";
import { AskSeller } from "./AskSeller";
import { Clock } from "./Clock";
import { DeskProvider, type Told } from "./common";
import { Kept } from "./Kept";
import { Ledger } from "./Ledger";
import { items, Provenance } from "./Provenance";
import { Tests } from "./Tests";
import { ToldLine } from "./Told";
import { Work } from "./Work";
import { clockUnit, money, percent, usage } from "../../lib/format";
import { anomalyWord } from "../../lib/words";
import type { paperParts } from "./parts";

interface Part {
  id: (typeof paperParts)[number];
  name: string;
  render: () => ReactNode;
  /** What stands there, and what it costs not to know. */
  state: (view: CandidateView) => string;
  /** Whether something waits there. */
  waits: (view: CandidateView) => boolean;
}

const blocked = (view: CandidateView, kinds: string[]) =>
  view.assessment.blockers.some((g) => kinds.includes(g.cause.kind));

function provenanceState(view: CandidateView): string {
  const known = new Map((view.candidate.provenance ?? []).map((p) => [p.item, p.state]));
  const asked = items.filter((i) => (known.get(i) ?? "not_asked") !== "not_asked").length;
  const marked = [...known.values()].filter((s) => s === "marked").length;
  if (asked === 0) return "nobody has asked yet";
  const rest = asked < items.length ? `${items.length - asked} not asked` : "all asked";
  return marked > 0 ? `${marked} marked, ${rest}` : rest;
}

const parts: Part[] = [
  {
    id: "ask",
    name: "Ask the seller",
    render: () => <AskSeller />,
    state: (v) =>
      v.assessment.blockers.length > 0
        ? `${v.assessment.blockers.length} to clear up first`
        : "in order of worth",
    waits: () => false,
  },
  {
    id: "provenance",
    name: "Provenance",
    render: () => <Provenance />,
    state: provenanceState,
    waits: (v) => blocked(v, ["provenance", "identity"]),
  },
  {
    id: "clock",
    name: "The clock",
    render: () => <Clock />,
    state: ({ assessment: { odometer, clock } }) => {
      const worst = odometer.anomalies.find((a) => !a.note);
      if (worst) return anomalyWord(worst.kind).toLowerCase();
      return odometer.readings.length > 1
        ? `${odometer.readings.length} readings agree`
        : `${usage(odometer.shown, clockUnit(clock))}, as stated`;
    },
    waits: (v) => blocked(v, ["odometer"]),
  },
  {
    id: "ledger",
    name: "Ledger",
    render: () => <Ledger />,
    state: (v) => {
      const n = v.candidate.ledger?.length ?? 0;
      return n === 0 ? "nothing entered" : `${n} ${n === 1 ? "entry" : "entries"}`;
    },
    waits: () => false,
  },
  {
    id: "work",
    name: "Scheduled work",
    render: () => <Work />,
    state: ({ assessment: a }) => {
      const late = a.due.filter((d) => d.now >= 0.5).length;
      return late === 0 ? "nothing overdue" : `${late} without proof: ${money(a.bill.overdue)} at once`;
    },
    waits: () => false,
  },
  {
    id: "tests",
    name: "Tests and campaigns",
    render: () => <Tests />,
    state: (v) => {
      const open = (v.candidate.advisories ?? []).filter((a) => a.state === "open").length;
      const campaigns = v.assessment.campaigns.filter((c) => c.state !== "proved").length;
      const said = [
        campaigns > 0 ? `${campaigns} campaign${campaigns > 1 ? "s" : ""} not proved` : "",
        open > 0 ? `${open} advisor${open > 1 ? "ies" : "y"} open` : "",
      ].filter(Boolean);
      return said.length > 0 ? said.join(", ") : "nothing open";
    },
    waits: (v) => blocked(v, ["campaign"]),
  },
  {
    id: "kept",
    name: "How it was kept",
    render: () => <Kept />,
    state: ({ assessment: a }) =>
      a.care.index.parts.length === 0
        ? "papers tell nothing yet"
        : `${percent(a.care.index.index)} of well kept`,
    waits: () => false,
  },
];

export function Papers({ tried, part }: { tried: WhatIf; part: string | undefined }) {
  // What is entered starts from what is stored, never from what is only tried out.
  const view = tried.stored;
  const { assessment } = view;
  const [told, setTold] = useState<{ id: string; told: Told } | null>(null);
  const [ref, width] = useWidth<HTMLDivElement>();
  const wide = useMedia("(min-width: 1024px)");
  const navigate = useNavigate();
  const road = useMemo(() => roadOf(assessment, view.road.points), [assessment, view.road]);
  const chosen = parts.find((p) => p.id === part) ?? (wide ? parts[0] : undefined);
  const desk = useMemo(() => ({ view, tell: (t: Told) => setTold({ id: view.id, told: t }) }), [view]);
  const { id } = view;
  useEffect(() => {
    const listener = (e: KeyboardEvent) => {
      if (isTyping(e) || e.ctrlKey || e.metaKey || e.altKey) return;
      if (e.key === "u") document.querySelector<HTMLButtonElement>("[data-testid=take-back]")?.click();
      if (e.key === "l") {
        e.preventDefault();
        void navigate(`/c/${id}/papers/ledger`);
        requestAnimationFrame(() => requestAnimationFrame(() => dispatchEvent(new Event("ticksage:line"))));
      }
    };
    addEventListener("keydown", listener);
    return () => removeEventListener("keydown", listener);
  }, [id, navigate]);
  const base = `/c/${view.id}/papers`;
  const list = (
    <nav aria-label="Parts of the papers">
      <ul>
        {parts.map((p) => (
          <li key={p.id} className="border-b border-rule">
            <Link
              to={`${base}/${p.id}`}
              aria-current={chosen?.id === p.id ? "page" : undefined}
              className="grid min-h-14 grid-cols-[1fr_auto] items-center gap-2 border-l-8 border-transparent py-1.5 pl-2 leading-tight aria-[current=page]:border-sea aria-[current=page]:bg-sunk"
            >
              <span className="min-w-0">
                <span className="sign block text-[1.2rem] font-bold">{p.name}</span>
                <span className="block text-[0.92rem] text-soft">{p.state(view)}</span>
              </span>
              {p.waits(view) ? (
                <span className="sign border-2 border-ink px-1.5 text-[0.95rem] font-bold">prove first</span>
              ) : (
                <span aria-hidden="true" className="pr-2 text-xl lg:hidden">
                  ›
                </span>
              )}
            </Link>
          </li>
        ))}
      </ul>
    </nav>
  );
  return (
    <DeskProvider value={desk}>
      <h1 className="sr-only">Papers</h1>
      <div ref={ref}>
        <RoadHeader data={road} width={width} />
      </div>
      <div className="mt-2">
        <ToldLine told={told && told.id === view.id ? told.told : null} />
      </div>
      <div className="mt-3 grid gap-x-10 lg:grid-cols-[17rem_minmax(0,1fr)]">
        {(wide || !chosen) && (
          <div>
            {!wide && (
              <p className="sign text-xl font-bold">The cheapest part of the work: before you travel</p>
            )}
            {list}
          </div>
        )}
        {chosen && (
          <div className="min-w-0 max-w-5xl">
            {!wide && (
              <Link
                to={base}
                className="sign mb-1 flex min-h-11 items-center font-semibold underline underline-offset-4"
              >
                ‹ All the papers
              </Link>
            )}
            <div key={chosen.id}>{chosen.render()}</div>
          </div>
        )}
      </div>
    </DeskProvider>
  );
}
