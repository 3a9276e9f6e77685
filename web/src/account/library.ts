import { Problem, sent } from "../api/client";

const AT = "/api/account/browser/v1/";

interface Said {
  status: number;
  data?: unknown;
  meta?: unknown;
  errors?: { message: string; param?: string }[];
}

/** A way of signing in that is begun and waits for its next step. */
interface Flow {
  id: string;
  is_pending?: boolean;
  types?: string[];
}

export interface Answer<T> {
  status: number;
  data: T;
  meta: Record<string, string>;
}

/** Asks the library that keeps accounts. What it refuses is a Problem as everywhere, its sentences by their fields. */
export async function library<T = unknown>(
  path: string,
  method: "GET" | "POST" | "PUT" | "PATCH" | "DELETE" = "GET",
  body?: unknown,
  headers: Record<string, string> = {},
): Promise<Answer<T>> {
  // A device that kept the page may have no token yet: the first answer brings one.
  if (method !== "GET" && !document.cookie.includes("csrftoken=")) await reached(new Request(`${AT}config`));
  const answer = await reached(
    new Request(AT + path, {
      method,
      credentials: "same-origin",
      headers: { ...headers, ...(body === undefined ? {} : { "Content-Type": "application/json" }) },
      body: body === undefined ? undefined : JSON.stringify(body),
    }),
  );
  const said = (await answer.json().catch(() => ({}))) as Said & Partial<Problem>;
  if (said.title) throw new Problem(answer.status, said.title, said.detail ?? "", []);
  if (answer.status === 400)
    throw new Problem(
      400,
      said.errors?.find((one) => !one.param)?.message ?? "Not taken",
      "",
      (said.errors ?? []).map((one) => ({ path: one.param ?? "", text: one.message })),
    );
  if (answer.status === 429) throw new Problem(429, "Too often", "Wait a few minutes, and try again.", []);
  if (answer.status >= 500) throw new Problem(answer.status, "The server could not answer", "Try again.", []);
  return { status: answer.status, data: said.data as T, meta: (said.meta ?? {}) as Record<string, string> };
}

async function reached(request: Request): Promise<Response> {
  try {
    return await sent(request);
  } catch {
    throw new Problem(0, "The server is out of reach", "Signing in needs it.", []);
  }
}

/** What signing in waits for: nothing more where it is done, or the kinds of second factor. */
export function waitsFor(answer: Answer<unknown>): string[] | null {
  const flows = (answer.data as { flows?: Flow[] } | undefined)?.flows ?? [];
  const waits = flows.find((one) => one.is_pending && one.id === "mfa_authenticate");
  return answer.status === 200 ? null : (waits?.types ?? []);
}

/** Shows a key or passkey to the library at one of its endpoints, which first says what it would like signed. */
export async function byKey(path: string): Promise<Answer<unknown>> {
  const { startAuthentication } = await import("@simplewebauthn/browser");
  const asked = await library<{ request_options: { publicKey: never } }>(path);
  try {
    const credential = await startAuthentication({ optionsJSON: asked.data.request_options.publicKey });
    return await library(path, "POST", { credential });
  } catch (wrong) {
    throw wrong instanceof Problem
      ? wrong
      : new Problem(400, "No key was shown", "Try again, or come another way.", []);
  }
}
