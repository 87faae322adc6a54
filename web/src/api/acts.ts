import { api, body, csrfToken, problemOf, type ReviewShape, type SessionShape } from "./client";

export async function signIn(username: string, password: string): Promise<SessionShape> {
  return body(await api.POST("/api/session", { body: { username, password } }));
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

export type ReviewEdit = Partial<
  Pick<
    ReviewShape,
    "question" | "expectation" | "audience" | "constant" | "margin" | "verdict" | "low_definition"
  >
>;

/** Save changes made on a version; a version that is no longer the present one is refused with status 412. */
export async function editReview(review: number, version: number, changes: ReviewEdit): Promise<ReviewShape> {
  const answer = await api.PATCH("/api/reviews/{review}", {
    params: { path: { review }, header: { "If-Match": `"v${version}"` } },
    body: changes as never,
  });
  return body(answer);
}

export async function publish(review: number, change_note: string) {
  return body(
    await api.POST("/api/reviews/{review}/records", { params: { path: { review } }, body: { change_note } }),
  );
}

export async function addSystem(key: string, name: string, description: string): Promise<void> {
  await api.POST("/api/systems", { body: { key, name, description } });
}

export async function issueToken(system: number): Promise<string> {
  return body(await api.POST("/api/systems/{system}/bench-token", { params: { path: { system } } })).token;
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
