import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./types";

export type Shapes = components["schemas"];
export type ReviewShape = Shapes["ReviewShape"];
export type ColumnShape = Shapes["ColumnShape"];
export type TestShape = Shapes["TestShape"];
export type MatrixShape = Shapes["MatrixShape"];
export type SpecifiedShape = Shapes["SpecifiedShape"];
export type RowShape = Shapes["RowShape"];
export type CellShape = Shapes["CellShape"];
export type ProgressCell = Shapes["ProgressCell"];
export type CellDetail = Shapes["CellDetail"];
export type MetricNoteShape = Shapes["MetricNoteShape"];
export type PassShape = Shapes["PassShape"];
export type ToldShape = Shapes["ToldShape"];
export type TraceShape = Shapes["TraceShape"];
export type SessionShape = Shapes["SessionShape"];
export type PartShape = Shapes["PartShape"];
export type CatalogueShape = Shapes["CatalogueShape"];
export type SystemDetail = Shapes["SystemDetail"];
export type ConfigurationShape = Shapes["ConfigurationShape"];
export type WorkloadShape = Shapes["WorkloadShape"];
export type SystemDocket = Shapes["SystemDocket"];
export type HandRun = Shapes["HandRun"];
export type BenchGlance = Shapes["BenchGlance"];
export type LiveShape = Shapes["LiveShape"];
export type PlanShape = Shapes["PlanShape"];
export type VerdictShape = Shapes["VerdictShape"];

/** A refusal of the server (RFC 9457). */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    detail: string,
    readonly members: Record<string, unknown> = {},
  ) {
    super(detail);
  }
}

export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

/** Told to the window when an answer says that nobody is signed in any more. */
export const SIGNED_OUT = "nomothet-signed-out";

/** The problem that a response tells of. */
export async function problemOf(response: Response): Promise<Problem> {
  if (response.status === 401 && !response.url.endsWith("/api/session")) {
    window.dispatchEvent(new Event(SIGNED_OUT));
  }
  try {
    const body = (await response.clone().json()) as Record<string, unknown>;
    return new Problem(response.status, String(body.title), String(body.detail), body);
  } catch {
    return new Problem(
      response.status,
      "The server failed",
      "The server could not answer. Nothing was changed; try again.",
    );
  }
}

const guard: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
  async onResponse({ response }) {
    if (!response.ok) throw await problemOf(response);
    return response;
  },
};

export const api = createClient<paths>({ baseUrl: "" });
api.use(guard);

/** The body of an answer that `guard` has let through. */
export function body<T>(answer: { data?: T }): T {
  return answer.data as T;
}
