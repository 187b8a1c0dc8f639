// The API, with types generated from the server's OpenAPI document.

import createClient from "openapi-fetch";
import { useSyncExternalStore } from "react";
import type { paths } from "../generated/api";
import {
  type AdvertList,
  type Bundle,
  type Candidate,
  type CandidateView,
  type CheckView,
  type Comparable,
  type ComparablesReading,
  type Family,
  type Fault,
  type Finding,
  type HistoryAnswer,
  type HistoryReport,
  type LinkView,
  type Paper,
  type PapersAnswer,
  type PointRef,
  type Problem,
  type Scan,
  type ScanAnswer,
  type ScanStep,
  type TableAnswer,
  type TypedReading,
  type WalkPart,
  type YardSettings,
  type Schemas,
} from "./apiTypes";

import { keep, keepFirst } from "./kept";

export * from "./apiTypes";

const client = createClient<paths>({ baseUrl: "/api" });

// Answers kept by the service worker carry the time they were kept: there is no connection then.
let keptSince: string | null = null;
const keptListeners = new Set<() => void>();
function noteKept(response: Response) {
  const since = response.headers.get("x-ticksage-kept");
  if (since === keptSince) return;
  keptSince = since;
  keptListeners.forEach((l) => l());
}

client.use({
  onResponse: ({ request, response }) => {
    if (request.method === "GET") noteKept(response);
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
  keep(now);
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

/** For which screen a write is answered. */
type For = "road" | "walk";

/** A request whose answer is a candidate for a screen. */
const view = (request: Promise<Answer<Schemas["CandidateView"]>>) =>
  ask(request as Promise<Answer<CandidateView>>);

const papersAnswer = (request: Promise<Answer<Schemas["PapersAnswer"]>>) =>
  ask(request as Promise<Answer<PapersAnswer>>);

const from = (part: For = "road") => ({ query: { part } });

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

// The page may have asked for it before the scripts ran (`index.html`); its answer serves one look.
function early(path: string): Promise<Response> | undefined {
  const asked = (window as { ticksageEarly?: Record<string, Promise<Response>> }).ticksageEarly;
  const answer = asked?.[path];
  if (asked) Reflect.deleteProperty(asked, path);
  return answer;
}

client.use({
  async onRequest({ request }) {
    if (request.method !== "GET") return undefined;
    // Where it failed the question is asked in the usual way.
    const { pathname, search } = new URL(request.url);
    const answer = await early(pathname + search)?.catch(() => undefined);
    if (!answer?.ok) return undefined;
    noteKept(answer);
    return answer;
  },
});

/** Where a candidate's road and its other parts are asked for. */
export const roadPath = (id: string) => `/api/candidates/${id}?part=road`;
export const walkPath = (id: string) => `/api/candidates/${id}/walk-round`;
const pointsPath = (id: string) => `/api/candidates/${id}/points`;

/** What a walk-round shows, from an answer that holds it. */
export function walkPart(checks: CheckView[], finding_ids: string[], told: Schemas["WalkPart"]): WalkPart {
  return {
    checks,
    finding_ids,
    walk: { ...told.walk, actions: told.walk.actions ?? [] },
    open_checks: told.open_checks,
  };
}

async function candidate(id: string): Promise<CandidateView> {
  const had = looked.get(id);
  const request = client.GET("/candidates/{id}", {
    params: { path: { id }, ...from() },
    headers: had ? { "If-None-Match": had.tag } : {},
  });
  const answer = await request.catch(() => undefined);
  if (had && answer?.response.status === 304) return had.view;
  const view = (await ask(answer ? Promise.resolve(answer) : request)) as CandidateView;
  keepFirst(roadPath(id), view);
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
  walkPart: async (id: string): Promise<{ state: string; part: WalkPart }> => {
    const told = await ask(client.GET("/candidates/{id}/walk-round", at(id)));
    keepFirst(walkPath(id), told);
    const { state, checks, finding_ids, walk_round } = told;
    return { state, part: walkPart(checks, finding_ids, walk_round) };
  },
  points: async (id: string) => {
    const told = await ask(client.GET("/candidates/{id}/points", at(id)));
    keepFirst(pointsPath(id), told);
    return told;
  },
  create: (body: Candidate) => view(client.POST("/candidates", { params: from(), body })),
  importBundle: (body: Bundle) => view(client.POST("/candidates/import", { params: from(), body })),
  edit: (id: string, version: number, body: Candidate, part: For = "road") =>
    view(client.PUT("/candidates/{id}", { params: { path: { id }, query: { version, part } }, body })),
  archive: (id: string, archived: boolean) =>
    ask(client.PUT("/candidates/{id}/archived", { ...at(id), body: { archived } })),
  addFinding: (candidate: string, id: string, finding: Finding) =>
    view(
      client.POST("/candidates/{id}/findings", {
        params: { path: { id: candidate }, ...from("walk") },
        body: { id, finding },
      }),
    ),
  undoFinding: (id: string, finding: string, undone: boolean) =>
    view(
      client.PUT("/candidates/{id}/findings/{finding}/undone", {
        params: { path: { id, finding }, ...from("walk") },
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
    ask(client.POST("/assess/road", { params: { query: { lean } }, body })),
  tryWalk: (body: Candidate) => ask(client.POST("/assess/walk-round", { body })),
  tryPoints: (body: Candidate) => ask(client.POST("/assess/points", { body })),
  pointDetail: (at: PointRef, body: Candidate) =>
    ask(
      client.POST("/assess/points/{family}/{point}", {
        params: { path: { family: at.family, point: at.point } },
        body,
      }),
    ),
  addPapers: (id: string, papers: { id: string; paper: Paper }[], corrects?: string) =>
    papersAnswer(
      client.POST("/candidates/{id}/papers", {
        params: { path: { id }, ...from() },
        body: { papers, corrects: corrects ?? null },
      }),
    ),
  undoPapers: (id: string, papers: string[], undone: boolean) =>
    papersAnswer(
      client.PUT("/candidates/{id}/papers/undone", {
        params: { path: { id }, ...from() },
        body: { papers, undone },
      }),
    ),
  quick: (id: string, line: string) =>
    ask(client.POST("/candidates/{id}/papers/quick", { ...at(id), body: { line } })),
  paperMoved: (id: string, paper: string) =>
    ask(client.GET("/candidates/{id}/papers/{paper}/moved", { params: { path: { id, paper } } })),
  tryPaper: (candidate: string, id: string, paper: Paper) =>
    ask(client.POST("/candidates/{id}/papers/try", { ...at(candidate), body: { id, paper } })),
  table: (id: string, csv: string, table: "ledger" | "readings", matching: boolean, store: boolean) =>
    raw<TableAnswer>(
      `/candidates/${id}/papers/table?part=road&table=${table}&matching=${matching}&store=${store}`,
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
    papersAnswer(
      client.POST("/candidates/{id}/history/papers", { params: { path: { id }, ...from() }, body: report }),
    ),
  attach: (candidate: string, paper: string, id: string, file: File) =>
    raw<CandidateView>(
      `/candidates/${candidate}/papers/${paper}/attachments?part=road&id=${id}&name=${encodeURIComponent(file.name)}`,
      file,
      "application/octet-stream",
    ),
  undoAttachment: (id: string, file: string, undone: boolean) =>
    view(
      client.PUT("/candidates/{id}/attachments/{file}/undone", {
        params: { path: { id, file }, ...from("walk") },
        body: { undone },
      }),
    ),
  measure: (id: string, family: string, check: string, inputs: TypedReading[]) =>
    ask(client.POST("/candidates/{id}/measure", { ...at(id), body: { family, check, inputs } })),
  addPhoto: (candidate: string, family: string, check: string, id: string, photo: Blob, title: string) =>
    raw<CandidateView>(
      `/candidates/${candidate}/checks/${family}/${check}/photos?part=walk&id=${id}&name=${encodeURIComponent(title)}`,
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
    view(
      client.PUT("/candidates/{id}/comparables", {
        params: { path: { id }, query: { version, part: "road" } },
        body: { comparables, serves },
      }),
    ),
  sideBySide: (ids: string[]) => ask(client.GET("/compare", { params: { query: { ids: ids.join(",") } } })),
  calendar: (id: string) => ask(client.GET("/candidates/{id}/calendar", at(id))),
  assumptions: () => ask(client.GET("/assumptions")),
  importArchive: (archive: File) =>
    raw<CandidateView>("/candidates/import/archive?part=road", archive, "application/zip"),
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
