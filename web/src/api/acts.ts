import {
  api,
  body,
  csrfToken,
  problemOf,
  type ConfigurationShape,
  type PartShape,
  type ReviewShape,
  type SessionShape,
  type SystemDetail,
  type WorkloadShape,
} from "./client";

export async function signIn(username: string, password: string, code: string): Promise<SessionShape> {
  return body(await api.POST("/api/session", { body: { username, password, code } }));
}

export async function signOut(): Promise<void> {
  await api.DELETE("/api/session");
}

export async function askForPasses(
  review: number,
  tests: number[],
  columns: number[],
  passes: number,
): Promise<number> {
  const answer = await api.POST("/api/reviews/{review}/docket", {
    params: { path: { review } },
    body: { tests, columns, passes },
  });
  return body(answer).asked;
}

export async function withdraw(entry: number): Promise<void> {
  await api.DELETE("/api/docket/{entry}", { params: { path: { entry } } });
}

export async function setAside(pass_id: string, reason: string): Promise<void> {
  await api.PUT("/api/passes/{pass_id}/set-aside", { params: { path: { pass_id } }, body: { reason } });
}

export async function takeBack(pass_id: string): Promise<void> {
  await api.DELETE("/api/passes/{pass_id}/set-aside", { params: { path: { pass_id } } });
}

export async function makeBaseline(review: number, column: number): Promise<void> {
  await api.PUT("/api/reviews/{review}/baseline/{column}", { params: { path: { review, column } } });
}

const match = (version: number) => ({ "If-Match": `"v${version}"` });

/** Save changes made on a version; a version that is no longer the present one is refused with status 412. */
export async function editReview(
  review: number,
  version: number,
  changes: Partial<ReviewShape>,
): Promise<ReviewShape> {
  const params = { path: { review }, header: match(version) };
  return body(await api.PATCH("/api/reviews/{review}", { params, body: changes as never }));
}

export async function editPart(
  part: number,
  version: number,
  changes: Partial<PartShape>,
): Promise<PartShape> {
  const params = { path: { part }, header: match(version) };
  return body(await api.PATCH("/api/parts/{part}", { params, body: changes as never }));
}

export async function editSystem(
  system: number,
  version: number,
  changes: Partial<SystemDetail>,
): Promise<SystemDetail> {
  const params = { path: { system }, header: match(version) };
  return body(await api.PATCH("/api/systems/{system}", { params, body: changes as never }));
}

export interface Build {
  name?: string;
  note?: string;
  base?: number | null;
  settings?: Record<string, unknown>;
  fitted?: Record<string, { part: number; module: number | null } | null>;
  blocked?: string;
}

export async function editConfiguration(
  configuration: number,
  version: number,
  changes: Build,
): Promise<ConfigurationShape> {
  const params = { path: { configuration }, header: match(version) };
  return body(await api.PATCH("/api/configurations/{configuration}", { params, body: changes as never }));
}

export async function addConfiguration(system: number, build: Build): Promise<ConfigurationShape> {
  const params = { path: { system } };
  return body(await api.POST("/api/systems/{system}/configurations", { params, body: build as never }));
}

export async function populate(system: number, fitted: Build["fitted"], settings: Record<string, unknown>) {
  const params = { path: { system } };
  return body(
    await api.POST("/api/systems/{system}/populate", { params, body: { fitted, settings } as never }),
  );
}

export async function editWorkload(
  workload: number,
  version: number,
  changes: Partial<WorkloadShape>,
): Promise<WorkloadShape> {
  const params = { path: { workload }, header: match(version) };
  return body(await api.PATCH("/api/workloads/{workload}", { params, body: changes as never }));
}

export async function editHypothesis(hypothesis: number, version: number, changes: object) {
  const params = { path: { hypothesis }, header: match(version) };
  return body(await api.PATCH("/api/hypotheses/{hypothesis}", { params, body: changes as never }));
}

/** A plain act on one of our addresses that needs no version. */
export async function act<T = unknown>(
  method: string,
  path: string,
  content?: unknown,
  /** The entity tag of what is edited, as it was read. */
  tag?: string,
): Promise<T> {
  const response = await fetch(path, {
    method,
    headers: {
      "X-CSRFToken": csrfToken(),
      "Content-Type": "application/json",
      ...(tag ? { "If-Match": `"${tag}"` } : {}),
    },
    body: content === undefined ? undefined : JSON.stringify(content),
  });
  if (!response.ok) throw await problemOf(response);
  return (response.status === 204 ? undefined : await response.json()) as T;
}

/** Publish the next edition. The id is made by who asks, so that a repeated send publishes once. */
export async function publish(
  review: number,
  said: { change_note: string; request: string; without_sensors: string[]; with_files: boolean },
) {
  return body(
    await api.POST("/api/reviews/{review}/records", {
      params: { path: { review } },
      body: said,
    }),
  );
}

export async function addSystem(key: string, name: string, description: string): Promise<void> {
  await api.POST("/api/systems", { body: { key, name, description } });
}

export async function issueToken(system: number): Promise<string> {
  return body(await api.POST("/api/systems/{system}/bench-token", { params: { path: { system } } })).token;
}

/** Bring in the data package of a record that others have published. */
export async function bringRecord(file: File): Promise<void> {
  const form = new FormData();
  form.append("file", file);
  const response = await fetch("/api/foreign", {
    method: "POST",
    body: form,
    headers: { "X-CSRFToken": csrfToken() },
  });
  if (!response.ok) throw await problemOf(response);
}

/** Send a file of frame times for a cell. The id is made here, so that a repeated send stores one pass. */
export async function sendFrames(review: number, test: number, column: number, file: File): Promise<void> {
  const form = new FormData();
  form.append("file", file);
  const id = crypto.randomUUID();
  const response = await fetch(`/api/reviews/${review}/tests/${test}/columns/${column}/frames/${id}`, {
    method: "PUT",
    body: form,
    headers: { "X-CSRFToken": csrfToken() },
  });
  if (!response.ok) throw await problemOf(response);
}

/** The entity tag of a test in a review as it was saved. */
export function tagOf(saved: ReviewShape, test: number): string | undefined {
  return saved.tests.find((one) => one.id === test)?.tag;
}
