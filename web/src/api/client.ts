import createClient from "openapi-fetch";
import type { components, paths } from "./schema";
import { signedIn } from "./session";

export type Schemas = components["schemas"];
export type JobView = Schemas["JobView"];
export type Changes = Schemas["Changes"];
export type PartView = Schemas["PartView"];
export type RowView = Schemas["RowView"];
export type FieldView = Schemas["FieldView"];
export type MethodView = Schemas["MethodView"];
export type StepView = MethodView["steps"][number];
export type StepKind = StepView["kind"];
export type Step<K extends StepKind> = Extract<StepView, { kind: K }>;
export type RowsView = Schemas["Rows"];
export type ToolView = NonNullable<RowsView["tool"]>;
export type DrawingView = NonNullable<PartView["drawing"]>;
export type InputView = Schemas["Input"];
export type EntryIn = Schemas["EntryIn"];
export type SystemRow = Schemas["SystemRow"];
export type SystemView = Schemas["SystemView"];
export type Call = Schemas["StageView"]["call"];

/** What the server says is wrong, why, and what to do; `errors` by the path of each field. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    readonly errors: { path: string; text: string }[],
  ) {
    super(detail ? `${title}. ${detail}` : title);
  }

  /** The sentence for one field, if there is one. */
  at(path: string): string | undefined {
    return this.errors.find((error) => error.path === path)?.text;
  }
}

/** Asks the server, with the token that a request which writes has to carry. */
export function sent(request: Request): Promise<Response> {
  const token = document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1];
  if (token && request.method !== "GET") request.headers.set("X-CSRFToken", token);
  // Where somebody else signed in meanwhile in this browser, nothing is read or written as theirs.
  if (signedIn() && !request.headers.has("X-Person")) request.headers.set("X-Person", signedIn());
  return fetch(request).then(clocked);
}

/** How far the clock of this device is ahead of the server's, in ms, as the answers showed. */
let ahead = 0;
export const clockOff = () => ahead;
function clocked(response: Response): Response {
  const date = Date.parse(response.headers.get("date") ?? "");
  // An answer says the second alone.
  if (date) ahead = Date.now() - date - 500;
  return response;
}

export const api = createClient<paths>({ credentials: "same-origin", fetch: sent });

/** How a file is sent: its own bytes are the body of the request. */
export const asFile = (file: File) => ({
  body: file as unknown as undefined,
  bodySerializer: (body: unknown) => body as File,
  headers: { "Content-Type": file.type || "application/octet-stream" },
});

/** The answer, or a Problem thrown. A server out of reach is a Problem with status 0. */
export async function asked<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let got;
  try {
    got = await answer;
  } catch {
    throw new Problem(0, "The server is out of reach", "What you type is kept here until it is back.", []);
  }
  if (got.response.ok) return got.data as T;
  throw asProblem(got.response.status, got.error);
}

export function asProblem(status: number, found: unknown): Problem {
  const body = (found ?? {}) as Partial<Problem>;
  return new Problem(
    status,
    body.title ?? "The server could not answer",
    body.detail ?? (status >= 500 ? "Try again in a moment; nothing that was kept is lost." : ""),
    body.errors ?? [],
  );
}
