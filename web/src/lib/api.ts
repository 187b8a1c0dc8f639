// The API, with types generated from the server's OpenAPI document.

import createClient from "openapi-fetch";
import { useSyncExternalStore } from "react";
import type { components, paths } from "../generated/api";

type Schemas = components["schemas"];
export type Assessment = Schemas["Assessment"];
export type AssumptionRow = Schemas["AssumptionRow"];
export type BillSpread = Schemas["BillSpread"];
export type DeviceView = Schemas["DeviceView"];
export type LinkView = Schemas["LinkView"];
export type PairingCode = Schemas["PairingCode"];
export type SellerReport = Schemas["SellerReport"];
export type SharedView = Schemas["SharedView"];
export type YardQuote = Schemas["YardQuote"];
export type Bundle = Schemas["Bundle"];
export type Candidate = Schemas["Candidate"];
export type CandidateView = Schemas["CandidateView"];
export type Check = Schemas["Check"];
export type AdvertList = Schemas["AdvertList"];
export type AdvertsRead = Schemas["AdvertsRead"];
export type Ranked = Schemas["Ranked"];
export type Narrowed = Schemas["Narrowed"];
export type Family = Schemas["Family"];
export type FamilyHead = Schemas["FamilyHead"];
export type Fault = Schemas["Fault"];
export type Finding = Schemas["Finding"];
export type Blocker = Schemas["Blocker"];
export type Grade = Schemas["Grade"];
export type ClockCurves = Schemas["ClockCurves"];
export type Due = Schemas["Due"];
export type Exposure = Schemas["Exposure"];
export type FindingMoves = Schemas["FindingMoves"];
export type LifeForm = Schemas["LifeForm"];
export type PointDetail = Schemas["PointDetail"];
export type PointRef = Schemas["PointRef"];
export type PointResult = Schemas["PointResult"];
export type Sensitivity = Schemas["Sensitivity"];
export type ShareForm = Schemas["ShareForm"];
export type Problem = Schemas["Problem"];
export type Reason = Schemas["Reason"];
export type Summary = Schemas["Summary"];
export type UsageUnit = Schemas["UsageUnit"];
export type UsageClock = Schemas["UsageClock"];
export type VerdictKind = Schemas["VerdictKind"];
export type WhyKind = Schemas["WhyKind"];
export type YardEntry = Schemas["YardEntry"];
/** A candidate that could be judged. */
export type JudgedEntry = YardEntry & { summary: Schemas["Summary"] };
export type DocumentView = Schemas["DocumentView"];

export const isJudged = (entry: YardEntry): entry is JudgedEntry => entry.summary != null;
export type YearMark = Schemas["YearMark"];
export type Action = Schemas["Action"];
export type OutcomeEffect = Schemas["OutcomeEffect"];
export type Walk = Schemas["Walk"];
export type WalkPlan = Schemas["WalkPlan"];
export type Advisory = Schemas["Advisory"];
export type Anomaly = Schemas["Anomaly"];
export type CareSource = Schemas["CareSource"];
export type Evidence = Schemas["Evidence"];
export type HistoryAnswer = Schemas["HistoryAnswer"];
export type HistoryReport = Schemas["HistoryReport"];
export type LedgerEntry = Schemas["LedgerEntry"];
export type Moved = Schemas["Moved"];
export type Odometer = Schemas["Odometer"];
export type Paper = Schemas["Paper"];
export type PapersAnswer = Schemas["PapersAnswer"];
export type ProvenanceKind = Schemas["ProvenanceKind"];
export type ProvenanceState = Schemas["ProvenanceState"];
export type Question = Schemas["Question"];
export type QuickAnswer = Schemas["QuickAnswer"];
export type TableAnswer = Schemas["TableAnswer"];
export type Adapter = Schemas["Adapter"];
export type AttachmentView = Schemas["AttachmentView"];
export type CodeParts = Schemas["CodeParts"];
export type Hazard = Schemas["Hazard"];
export type Measured = Schemas["Measured"];
export type MeasureField = Schemas["Field"];
export type Scan = Schemas["Scan"];
export type ScanAnswer = Schemas["ScanAnswer"];
export type ScanItem = Schemas["ScanItem"];
export type ScanStep = Schemas["ScanStep"];
export type TypedReading = Schemas["TypedReading"];
export type Term = Schemas["Term"];
export type Usage = Schemas["Usage"];
export type Advised = Schemas["Advised"];
export type Rule = Schemas["Rule"];
export type UpgradeResult = Schemas["UpgradeResult"];
export type Way = Schemas["Way"];
export type BundleJob = Schemas["BundleJob"];
export type Calendar = Schemas["Calendar"];
export type CalendarEntry = Schemas["CalendarEntry"];
export type Comparable = Schemas["Comparable"];
export type ComparablesReading = Schemas["ComparablesReading"];
export type PurchasePlan = Schemas["PurchasePlan"];
export type JobBundle = Schemas["JobBundle"];
export type MaintenancePolicy = Schemas["MaintenancePolicy"];
export type Ending = Schemas["Ending"];
export type JobAt = Schemas["JobAt"];
export type LogEntry = Schemas["LogEntry"];
export type Neighbour = Schemas["Neighbour"];
export type Offer = Schemas["Offer"];
export type OfferLine = Schemas["OfferLine"];
export type Needed = Schemas["Needed"];
export type IssuedHead = Schemas["IssuedHead"];
export type IssuedReport = Schemas["IssuedReport"];
export type YardSettings = Schemas["YardSettings"];
export type PageReading = Schemas["PageReading"];
export type LineReading = Schemas["LineReading"];
export type Sanity = Schemas["Sanity"];
export type GivenPoint = Schemas["GivenPoint"];
export type PointLane = Schemas["PointLane"];
export type DraftPoint = Schemas["DraftPoint"];
export type SignOdds = Schemas["SignOdds"];
export type BuiltView = Schemas["BuiltView"];
export type AdvertReading = Schemas["AdvertReading"];
export type OwnChoice = Schemas["OwnChoice"];
export type WayChoice = Schemas["WayChoice"];
export type PlannedPoint = Schemas["PlannedPoint"];
export type RenewWhy = Schemas["RenewWhy"];
export type Side = Schemas["Side"];
export type SideBySide = Schemas["SideBySide"];
export type Turn = Schemas["Turn"];

const client = createClient<paths>({ baseUrl: "/api" });

// Answers kept by the service worker carry the time they were kept: there is no connection then.
let keptSince: string | null = null;
const keptListeners = new Set<() => void>();
client.use({
  onResponse: ({ request, response }) => {
    if (request.method !== "GET") return;
    const since = response.headers.get("x-ticksage-kept");
    if (since === keptSince) return;
    keptSince = since;
    keptListeners.forEach((l) => l());
  },
});

// What a candidate looked like when it was last asked for, and the mark of that state: a look that finds nothing new
// costs a few bytes.
const looked = new Map<string, { tag: string; view: CandidateView }>();
const LOOKED_MOST = 4;

// A device that is not paired is told so by any route of the yard; it may be shut out at any moment.
let letIn = true;
const doorListeners = new Set<() => void>();
client.use({
  onResponse: ({ response }) => {
    if (response.status === 401) setLetIn(false);
  },
});

function setLetIn(now: boolean) {
  if (now === letIn) return;
  letIn = now;
  // A device that is shut out keeps nothing of what it saw.
  if (!now) looked.clear();
  if (!now && isSecureContext) void caches.delete("ticksage-answers-1");
  doorListeners.forEach((l) => l());
}

/** Whether this device is let into the yard, so far as it was told. */
export function useLetIn(): boolean {
  return useSyncExternalStore(
    (listener) => {
      doorListeners.add(listener);
      return () => doorListeners.delete(listener);
    },
    () => letIn,
  );
}

/** Since when what is shown was kept on the device; null while the application answers. */
export function useKeptSince(): string | null {
  return useSyncExternalStore(
    (listener) => {
      keptListeners.add(listener);
      return () => keptListeners.delete(listener);
    },
    () => keptSince,
  );
}

/** A refusal by the server, or its silence. */
export class ApiError extends Error {
  readonly faults: Fault[];
  readonly code: Problem["code"] | "offline";

  constructor(problem: Problem | undefined) {
    super(
      problem?.message ??
        "The application does not answer. Is it still running? Nothing you entered is lost.",
    );
    this.faults = problem?.faults ?? [];
    this.code = problem?.code ?? "offline";
  }

  /** Whether the same request may succeed later. */
  get passing(): boolean {
    return this.code === "offline" || this.code === "unavailable" || this.code === "internal";
  }
}

interface Answer<T> {
  data?: T;
  error?: unknown;
}

function isProblem(e: unknown): e is Problem {
  return typeof e === "object" && e !== null && "code" in e && "faults" in e;
}

/** For what answers with nothing. */
async function done(request: Promise<{ response: Response; error?: unknown }>): Promise<void> {
  const answer = await request.catch(() => undefined);
  if (!answer?.response.ok) throw new ApiError(isProblem(answer?.error) ? answer.error : undefined);
}

async function ask<T>(request: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await request;
  } catch {
    throw new ApiError(undefined);
  }
  if (answer.data === undefined) throw new ApiError(isProblem(answer.error) ? answer.error : undefined);
  return answer.data;
}

/** A body that is not JSON. */
async function raw<T>(path: string, body: Blob | string, type: string): Promise<T> {
  const send = async () => {
    const response = await fetch(`/api${path}`, { method: "POST", body, headers: { "content-type": type } });
    const answer: unknown = await response.json().catch(() => undefined);
    return response.ok ? { data: answer as T } : { error: answer };
  };
  return ask<T>(send());
}

/** Scans, telling each step as it comes. */
async function scan(id: string, adapter: string, tell: (step: ScanStep) => void): Promise<ScanAnswer> {
  const run = async (): Promise<Answer<ScanAnswer>> => {
    const response = await fetch(`/api/candidates/${id}/scan`, {
      method: "POST",
      body: JSON.stringify({ adapter }),
      headers: { "content-type": "application/json" },
    });
    if (!response.ok || !response.body) return { error: await response.json().catch(() => undefined) };
    const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
    let rest = "";
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return {};
      const lines = (rest + value).split("\n");
      rest = lines.pop() ?? "";
      for (const line of lines) {
        const step = JSON.parse(line) as ScanStep;
        if (step.kind === "done") return { data: step.answer };
        tell(step);
      }
    }
  };
  return ask(run());
}

const at = (id: string) => ({ params: { path: { id } } });

// The page may have asked for it before the scripts ran (`public/early.js`); its answer serves one look.
interface Early {
  path: string;
  answer: Promise<Response>;
}

function early(path: string): Promise<Response> | undefined {
  const holder = window as { ticksageEarly?: Early | undefined };
  const asked = holder.ticksageEarly;
  if (asked?.path !== path) return undefined;
  holder.ticksageEarly = undefined;
  return asked.answer;
}

client.use({
  async onRequest({ request }) {
    if (request.method !== "GET") return undefined;
    // Where it failed the question is asked in the usual way.
    const answer = await early(new URL(request.url).pathname)?.catch(() => undefined);
    return answer?.ok ? answer : undefined;
  },
});

async function candidate(id: string): Promise<CandidateView> {
  const had = looked.get(id);
  const request = client.GET("/candidates/{id}", {
    ...at(id),
    headers: had ? { "If-None-Match": had.tag } : {},
  });
  const answer = await request.catch(() => undefined);
  if (had && answer?.response.status === 304) return had.view;
  const view = await ask(answer ? Promise.resolve(answer) : request);
  const tag = answer?.response.headers.get("etag");
  looked.delete(id);
  if (tag) looked.set(id, { tag, view });
  for (const first of looked.keys()) if (looked.size > LOOKED_MOST) looked.delete(first);
  return view;
}

export const api = {
  yard: () => ask(client.GET("/candidates")),
  families: () => ask(client.GET("/families")),
  importFamily: (body: Family) => ask(client.POST("/families", { body })),
  candidate,
  document: (id: string) => ask(client.GET("/candidates/{id}/document", at(id))),
  settings: () => ask(client.GET("/settings")),
  setSettings: (body: YardSettings) => ask(client.PUT("/settings", { body })),
  reports: (id: string) => ask(client.GET("/candidates/{id}/reports", { params: { path: { id } } })),
  report: (id: string, report: string) =>
    ask(client.GET("/candidates/{id}/reports/{report}", { params: { path: { id, report } } })),
  issueReport: (id: string, body: Schemas["NewReport"]) =>
    ask(client.POST("/candidates/{id}/reports", { params: { path: { id } }, body })),
  newestFamily: (id: string) => ask(client.GET("/families/{id}", { params: { path: { id } } })),
  patterns: () => ask(client.GET("/patterns")),
  sanity: (id: string, currency: string) =>
    ask(client.GET("/families/{id}/sanity", { params: { path: { id }, query: { currency } } })),
  readAdverts: (body: AdvertList) => ask(client.POST("/adverts/list", { body })),
  judgeAdverts: (body: Schemas["AdvertsAsked"]) => ask(client.POST("/adverts/judge", { body })),
  takeAdvert: (body: Schemas["AdvertTaken"]) => ask(client.POST("/adverts/take", { body })),
  narrow: (body: Schemas["NarrowAsked"]) => ask(client.POST("/narrow", { body })),
  givenPoint: (id: string, point: string) =>
    ask(client.GET("/families/{id}/points/{point}/pattern", { params: { path: { id, point } } })),
  drawDraftPoint: (id: string, point: string, body: Schemas["SheetDraft"]) =>
    ask(client.POST("/families/{id}/draft/points/{point}", { params: { path: { id, point } }, body })),
  lookAtDraft: (id: string, body: Schemas["SheetDraft"]) =>
    ask(client.POST("/families/{id}/draft", { params: { path: { id } }, body })),
  publishSheet: (id: string, body: Schemas["SheetDraft"]) =>
    ask(client.PUT("/families/{id}", { params: { path: { id } }, body })),
  compareSheets: (
    id: string,
    query: { version?: number; with?: string; other?: number; currency?: string },
  ) => ask(client.GET("/families/{id}/compare", { params: { path: { id }, query } })),
  mergeSheet: (id: string, body: Schemas["SheetMerge"]) =>
    ask(client.POST("/families/{id}/merge", { params: { path: { id } }, body })),
  readTalk: (body: Schemas["TalkText"]) => ask(client.POST("/talk/read", { body })),
  writeTalk: (id: string, body: Schemas["TalkLines"]) =>
    ask(client.POST("/families/{id}/talk", { params: { path: { id } }, body })),
  askBuilt: (body: Schemas["BuiltQuestion"]) => ask(client.POST("/built", { body })),
  makeBuilt: (body: Schemas["NewBuilt"]) => ask(client.POST("/families/built", { body })),
  changeBuilt: (id: string, body: Schemas["ChangedBuilt"]) =>
    ask(client.PUT("/families/{id}/built", { params: { path: { id } }, body })),
  readAdvert: (text: string) => ask(client.POST("/adverts/read", { body: { text } })),
  create: (body: Candidate) => ask(client.POST("/candidates", { body })),
  importBundle: (body: Bundle) => ask(client.POST("/candidates/import", { body })),
  edit: (id: string, version: number, body: Candidate) =>
    ask(client.PUT("/candidates/{id}", { params: { path: { id }, query: { version } }, body })),
  archive: (id: string, archived: boolean) =>
    ask(client.PUT("/candidates/{id}/archived", { ...at(id), body: { archived } })),
  addFinding: (candidate: string, id: string, finding: Finding) =>
    ask(client.POST("/candidates/{id}/findings", { ...at(candidate), body: { id, finding } })),
  undoFinding: (id: string, finding: string, undone: boolean) =>
    ask(
      client.PUT("/candidates/{id}/findings/{finding}/undone", {
        params: { path: { id, finding } },
        body: { undone },
      }),
    ),
  family: (id: string, version: number) =>
    ask(client.GET("/families/{id}", { params: { path: { id }, query: { version } } })),
  quotes: (id: string, job: string, currency: string) =>
    ask(
      client.GET("/families/{id}/jobs/{job}/quotes", { params: { path: { id, job }, query: { currency } } }),
    ),
  tryOut: (body: Candidate, lean = false) =>
    ask(client.POST("/assess", { params: { query: { lean } }, body })),
  pointDetail: (at: PointRef, body: Candidate) =>
    ask(
      client.POST("/assess/points/{family}/{point}", {
        params: { path: { family: at.family, point: at.point } },
        body,
      }),
    ),
  addPapers: (id: string, papers: { id: string; paper: Paper }[], corrects?: string) =>
    ask(client.POST("/candidates/{id}/papers", { ...at(id), body: { papers, corrects: corrects ?? null } })),
  undoPapers: (id: string, papers: string[], undone: boolean) =>
    ask(client.PUT("/candidates/{id}/papers/undone", { ...at(id), body: { papers, undone } })),
  quick: (id: string, line: string) =>
    ask(client.POST("/candidates/{id}/papers/quick", { ...at(id), body: { line } })),
  paperMoved: (id: string, paper: string) =>
    ask(client.GET("/candidates/{id}/papers/{paper}/moved", { params: { path: { id, paper } } })),
  tryPaper: (candidate: string, id: string, paper: Paper) =>
    ask(client.POST("/candidates/{id}/papers/try", { ...at(candidate), body: { id, paper } })),
  table: (id: string, csv: string, table: "ledger" | "readings", matching: boolean, store: boolean) =>
    raw<TableAnswer>(
      `/candidates/${id}/papers/table?table=${table}&matching=${matching}&store=${store}`,
      csv,
      "text/csv",
    ),
  questions: (id: string) => ask(client.GET("/candidates/{id}/questions", at(id))),
  compare: (before: Candidate, after: Candidate) =>
    ask(client.POST("/assess/compare", { body: { before, after } })),
  askHistory: (id: string) => ask(client.POST("/candidates/{id}/history", at(id))),
  readHistory: (id: string, report: string) =>
    raw<HistoryAnswer>(`/candidates/${id}/history/file`, report, "application/json"),
  takeHistory: (id: string, report: HistoryReport) =>
    ask(client.POST("/candidates/{id}/history/papers", { ...at(id), body: report })),
  attach: (candidate: string, paper: string, id: string, file: File) =>
    raw<CandidateView>(
      `/candidates/${candidate}/papers/${paper}/attachments?id=${id}&name=${encodeURIComponent(file.name)}`,
      file,
      "application/octet-stream",
    ),
  undoAttachment: (id: string, file: string, undone: boolean) =>
    ask(
      client.PUT("/candidates/{id}/attachments/{file}/undone", {
        params: { path: { id, file } },
        body: { undone },
      }),
    ),
  measure: (id: string, family: string, check: string, inputs: TypedReading[]) =>
    ask(client.POST("/candidates/{id}/measure", { ...at(id), body: { family, check, inputs } })),
  addPhoto: (candidate: string, family: string, check: string, id: string, photo: Blob, title: string) =>
    raw<CandidateView>(
      `/candidates/${candidate}/checks/${family}/${check}/photos?id=${id}&name=${encodeURIComponent(title)}`,
      photo,
      "application/octet-stream",
    ),
  codes: (codes: string[]) => ask(client.GET("/codes", { params: { query: { codes: codes.join(",") } } })),
  adapters: () => ask(client.GET("/adapters")),
  scan,
  readScan: (id: string, csv: string) => raw<ScanAnswer>(`/candidates/${id}/scan/file`, csv, "text/csv"),
  writeScan: (body: Scan) =>
    ask(client.POST("/scan/table", { body, parseAs: "blob" }) as Promise<Answer<Blob>>),
  readComparables: (id: string, csv: string) =>
    raw<ComparablesReading>(`/candidates/${id}/comparables/table`, csv, "text/csv"),
  setComparables: (id: string, version: number, comparables: Comparable[], serves: string[]) =>
    ask(
      client.PUT("/candidates/{id}/comparables", {
        params: { path: { id }, query: { version } },
        body: { comparables, serves },
      }),
    ),
  sideBySide: (ids: string[]) => ask(client.GET("/compare", { params: { query: { ids: ids.join(",") } } })),
  calendar: (id: string) => ask(client.GET("/candidates/{id}/calendar", at(id))),
  assumptions: () => ask(client.GET("/assumptions")),
  importArchive: (archive: File) =>
    raw<CandidateView>("/candidates/import/archive", archive, "application/zip"),
  billSpread: (body: Candidate) => ask(client.POST("/assess/bill", { body })),
  whatMoved: (body: Candidate) => ask(client.POST("/assess/moves", { body })),
  access: () => ask(client.GET("/access")),
  pair: async (code: string, name: string): Promise<void> => {
    await done(client.POST("/pair", { body: { code, name } }));
    setLetIn(true);
  },
  pairingCode: () => ask(client.POST("/pairing-codes")),
  devices: () => ask(client.GET("/devices")),
  revokeDevice: (id: string) => done(client.PUT("/devices/{id}/revoked", at(id))),
  links: (id: string) => ask(client.GET("/candidates/{id}/links", at(id))),
  makeLink: (id: string, audience: LinkView["audience"], days: number) =>
    ask(client.POST("/candidates/{id}/links", { ...at(id), body: { audience, days } })),
  revokeLink: (id: string, link: string) =>
    done(client.PUT("/candidates/{id}/links/{link}/revoked", { params: { path: { id, link } } })),
  shared: (token: string) => ask(client.GET("/shared/{token}", { params: { path: { token } } })),
  whatWouldMove: (body: Candidate) => ask(client.POST("/assess/sensitivity", { body })),
};
