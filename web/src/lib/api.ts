// The API, with types generated from the server's OpenAPI document.

import createClient from "openapi-fetch";
import type { components, paths } from "../generated/api";

type Schemas = components["schemas"];
export type Assessment = Schemas["Assessment"];
export type Bundle = Schemas["Bundle"];
export type Candidate = Schemas["Candidate"];
export type CandidateView = Schemas["CandidateView"];
export type Check = Schemas["Check"];
export type Family = Schemas["Family"];
export type FamilyHead = Schemas["FamilyHead"];
export type Fault = Schemas["Fault"];
export type Finding = Schemas["Finding"];
export type Gate = Schemas["Gate"];
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
export type YearMark = Schemas["YearMark"];

const client = createClient<paths>({ baseUrl: "/api" });

/** A refusal by the server, or its silence. */
export class Refusal extends Error {
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

async function ask<T>(request: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await request;
  } catch {
    throw new Refusal(undefined);
  }
  if (answer.data === undefined) throw new Refusal(isProblem(answer.error) ? answer.error : undefined);
  return answer.data;
}

const at = (id: string) => ({ params: { path: { id } } });

export const api = {
  yard: () => ask(client.GET("/candidates")),
  families: () => ask(client.GET("/families")),
  importFamily: (body: Family) => ask(client.POST("/families", { body })),
  candidate: (id: string) => ask(client.GET("/candidates/{id}", at(id))),
  create: (body: Candidate) => ask(client.POST("/candidates", { body })),
  importBundle: (body: Bundle) => ask(client.POST("/candidates/import", { body })),
  edit: (id: string, version: number, body: Candidate) =>
    ask(client.PUT("/candidates/{id}", { params: { path: { id }, query: { version } }, body })),
  archive: (id: string, archived: boolean) =>
    ask(client.PUT("/candidates/{id}/archived", { ...at(id), body: { archived } })),
  addFinding: (id: string, name: string, finding: Finding) =>
    ask(client.POST("/candidates/{id}/findings", { ...at(id), body: { id: name, finding } })),
  undoFinding: (id: string, finding: string, undone: boolean) =>
    ask(
      client.PUT("/candidates/{id}/findings/{finding}/undone", {
        params: { path: { id, finding } },
        body: { undone },
      }),
    ),
  family: (id: string, version: number) =>
    ask(client.GET("/families/{id}", { params: { path: { id }, query: { version } } })),
  tryOut: (body: Candidate) => ask(client.POST("/assess", { body })),
  layOpen: (at: PointRef, body: Candidate) =>
    ask(
      client.POST("/assess/points/{family}/{point}", {
        params: { path: { family: at.family, point: at.point } },
        body,
      }),
    ),
  whatMoved: (body: Candidate) => ask(client.POST("/assess/moves", { body })),
  whatWouldMove: (body: Candidate) => ask(client.POST("/assess/sensitivity", { body })),
};
