import { lazy, Suspense, useEffect, type ReactNode } from "react";
import { Link, Navigate, Route, Routes, useNavigate, useParams } from "react-router";
import { useQueryClient } from "@tanstack/react-query";
import { ApiError, isJudged, useLetIn, type CandidateView, type YardEntry } from "./lib/api";
import { useCandidate, useKeepParts, useWalked, type WalkedView } from "./lib/hooks";
import { useWhatIf, type WhatIf } from "./lib/whatIf";
import { Page, Shell, Waiting, isTyping, stops } from "./parts/Shell";
import { OnItsWay } from "./parts/OnItsWay";
import { Mend } from "./screens/mend/Mend";
import { Point } from "./screens/point/Point";
import { paperParts } from "./screens/papers/parts";
import { RoadAhead } from "./screens/road/RoadAhead";
import { WalkRound } from "./screens/walk/WalkRound";
import { Yard } from "./screens/yard/Yard";

/** In the place of a part that could not be fetched. */
function Unreachable() {
  return (
    <Page
      title="This part is not here yet"
      lead="It could not be fetched: the connection is gone, or the application does not answer."
    >
      <button type="button" className="btn btn-main mt-4" onClick={() => location.reload()}>
        Try again
      </button>
    </Page>
  );
}

type Anything = Awaited<ReturnType<Parameters<typeof lazy>[0]>>["default"];

/** A part that comes when it is asked for. */
function part<C extends Anything>(fetch: () => Promise<{ default: C }>) {
  return lazy(() => fetch().catch(() => ({ default: Unreachable as unknown as C })));
}

// What is not on the first page comes when it is asked for; `later` fetches it all once the first page stands, so that
// it is there without a connection.
const pages = {
  newAdvert: () => import("./screens/advert/NewAdvert").then((m) => ({ default: m.NewAdvert })),
  editAdvert: () => import("./screens/advert/EditAdvert").then((m) => ({ default: m.EditAdvert })),
  side: () => import("./screens/side/SideBySide").then((m) => ({ default: m.SideBySide })),
  papers: () => import("./screens/papers/Papers").then((m) => ({ default: m.Papers })),
  bill: () => import("./screens/bill/Bill").then((m) => ({ default: m.BillScreen })),
  scan: () => import("./screens/walk/Scan").then((m) => ({ default: m.ScanScreen })),
  verdict: () => import("./screens/verdict/Verdict").then((m) => ({ default: m.Verdict })),
  sheets: () => import("./screens/sheets/Sheets").then((m) => ({ default: m.Sheets })),
  adverts: () => import("./screens/narrow/Adverts").then((m) => ({ default: m.Adverts })),
  which: () => import("./screens/narrow/Which").then((m) => ({ default: m.Which })),
  sheetCompare: () => import("./screens/sheets/Compare").then((m) => ({ default: m.Compare })),
  sheetCard: () => import("./screens/sheets/Card").then((m) => ({ default: m.FieldCard })),
  sheet: () => import("./screens/sheets/Sheet").then((m) => ({ default: m.Sheet })),
};
const NewAdvert = part(pages.newAdvert);
const EditAdvert = part(pages.editAdvert);
const SideBySide = part(pages.side);
const Papers = part(pages.papers);
const BillScreen = part(pages.bill);
const ScanScreen = part(pages.scan);
const Verdict = part(pages.verdict);
const Sheets = part(pages.sheets);
const Adverts = part(pages.adverts);
const Which = part(pages.which);
const SheetCompare = part(pages.sheetCompare);
const SheetCard = part(pages.sheetCard);
const Sheet = part(pages.sheet);
const LATER_MS = 1000;

function later() {
  setTimeout(() => {
    for (const page of Object.values(pages)) page().catch(() => undefined);
  }, LATER_MS);
}

// What nobody needs without a connection comes when it is asked for.
const Devices = part(() => import("./screens/devices/Devices").then((m) => ({ default: m.Devices })));
const Pair = part(() => import("./screens/devices/Pair").then((m) => ({ default: m.Pair })));
const Shared = part(() => import("./screens/verdict/Shared").then((m) => ({ default: m.Shared })));

/** A screen of the walk-round, once its checks are there. */
function Walked({ view, children }: { view: CandidateView; children: (view: WalkedView) => ReactNode }) {
  const { part, away } = useWalked(view);
  return part ? children(part) : <OnItsWay what="The checks" away={away} className="text-lg" />;
}

interface Screen {
  name: string;
  /** Parts that its address may name. */
  parts?: readonly string[];
  render: (tried: WhatIf, part?: string) => ReactNode;
}

const screens: Record<string, Screen> = {
  // What is typed starts from what is stored, never from what is only tried out.
  advert: { name: "Advert", render: (t) => <EditAdvert view={t.stored} /> },
  papers: { name: "Papers", parts: paperParts, render: (t, part) => <Papers tried={t} part={part} /> },
  "walk-round": {
    name: "Walk-round",
    parts: ["scan"],
    render: (t, part) =>
      part === "scan" ? (
        <Walked view={t.stored}>{(view) => <ScanScreen view={view} />}</Walked>
      ) : (
        <Walked view={t.view}>{(view) => <WalkRound view={view} />}</Walked>
      ),
  },
  road: { name: "Road ahead", render: (t) => <RoadAhead tried={t} /> },
  bill: { name: "Bill", render: (t) => <BillScreen tried={t} /> },
  verdict: {
    name: "Verdict",
    parts: ["price", "report", "after"],
    render: (t, part) => <Verdict view={t.view} part={part} />,
  },
};

/** "g" and a letter go to a screen. */
function useGoKeys(id?: string) {
  const navigate = useNavigate();
  useEffect(() => {
    let armed = 0;
    const listener = (e: KeyboardEvent) => {
      if (isTyping(e) || e.ctrlKey || e.metaKey || e.altKey) return;
      if (e.key === "g") {
        armed = e.timeStamp;
        return;
      }
      if (armed === 0 || e.timeStamp - armed > 1500) return;
      armed = 0;
      const stop = stops.find((s) => s.key === e.key);
      if (e.key === "y") void navigate("/");
      else if (stop && id) void navigate(`/c/${id}/${stop.to}`);
    };
    addEventListener("keydown", listener);
    return () => removeEventListener("keydown", listener);
  }, [id, navigate]);
}

function CandidateRoute() {
  const { id = "", screen = "road", family, point, part } = useParams();
  useGoKeys(id);
  const query = useCandidate(id);
  const tried = useWhatIf(query.data);
  useKeepParts(query.data);
  const yard = useQueryClient().getQueryData<YardEntry[]>(["yard"]);
  const shown = screens[screen];
  // A part that there is not leads to the screen itself, with its tab.
  const nowhere =
    (part !== undefined && !shown?.parts?.includes(part)) || (family !== undefined && screen !== "road");
  if (shown && nowhere) return <Navigate to={`/c/${id}/${screen}`} replace />;
  if (tried && shown) {
    return (
      <Shell tried={tried} screen={shown.name}>
        {family && point ? (
          <Point view={tried.view} stored={tried.stored} at={{ family, point }} />
        ) : (
          <Suspense fallback={<p role="status">One moment.</p>}>{shown.render(tried, part)}</Suspense>
        )}
      </Shell>
    );
  }
  const gone = query.error instanceof ApiError && query.error.code === "not_found";
  if (gone || !shown) return <Lost />;
  if (query.error instanceof ApiError && query.error.code === "faulty") return <Mend id={id} />;
  const tooMuch = query.error instanceof ApiError && query.error.code === "too_much";
  const last = yard?.find((e) => e.id === id);
  if (!query.error && last && isJudged(last))
    return <Waiting id={id} summary={last.summary} screen={shown.name} />;
  return (
    <Page title={query.error ? (tooMuch ? "Too much to compute" : "Waiting for the records") : "One moment"}>
      <p role="status" className="mt-3 text-lg">
        {query.error instanceof ApiError ? query.error.message : "Reading this candidate."}
      </p>
      {query.error && (
        <button type="button" className="btn btn-main mt-4" onClick={() => void query.refetch()}>
          Try again now
        </button>
      )}
    </Page>
  );
}

function Lost() {
  return (
    <Page title="There is no such page" lead="The address is wrong, or the candidate was never in this yard.">
      <Link to="/" className="btn btn-main mt-5">
        Go to the yard
      </Link>
    </Page>
  );
}

function YardRoute() {
  useGoKeys();
  return <Yard />;
}

function SideRoute() {
  useGoKeys();
  return <SideBySide />;
}

export function App() {
  const letIn = useLetIn();
  useEffect(later, []);
  if (!letIn && !location.pathname.startsWith("/shared/")) {
    return (
      <Suspense>
        <Pair />
      </Suspense>
    );
  }
  return (
    <Suspense>
      <Screens />
    </Suspense>
  );
}

function Screens() {
  return (
    <Routes>
      <Route path="/" element={<YardRoute />} />
      <Route path="/devices" element={<Devices />} />
      <Route path="/pair" element={<Pair />} />
      <Route path="/shared/:token" element={<Shared />} />
      <Route path="/new" element={<NewAdvert />} />
      <Route path="/adverts" element={<Adverts />} />
      <Route path="/which" element={<Which />} />
      <Route path="/sheets" element={<Sheets />} />
      <Route path="/sheets/:id" element={<Sheet />} />
      <Route path="/sheets/:id/compare" element={<SheetCompare />} />
      <Route path="/sheets/:id/card" element={<SheetCard />} />
      <Route path="/side" element={<SideRoute />} />
      <Route path="/c/:id" element={<Navigate to="road" replace />} />
      <Route path="/c/:id/:screen" element={<CandidateRoute />} />
      <Route path="/c/:id/:screen/:part" element={<CandidateRoute />} />
      <Route path="/c/:id/:screen/:family/:point" element={<CandidateRoute />} />
      <Route path="*" element={<Lost />} />
    </Routes>
  );
}
