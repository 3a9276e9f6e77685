/**
 * Whether the server is in reach, and what is shown from this device instead of it.
 *
 * Each answer of the server that is of use without signal is kept under the name of its question; where the server
 * cannot be asked, or does not answer in time, the kept one is taken, and the page says as of when it is.
 */
import { keep, keptOf } from "../job/kept";
import { pendingNow, pendingRead } from "../job/pending";
import { Problem } from "./client";
import { lastPerson, signedIn, whenMet } from "./session";

/** What is of use without signal, by the first word of its question. */
const OF_USE = new Set([
  ...["me", "units", "machines", "profiles", "round", "system", "systems", "references", "history", "job"],
  ...["sums", "practice", "log", "due-dates", "event-kinds", "colleagues", "stand-in", "calendar"],
]);
/** How long the server may take where there is an answer from before, in ms. */
const PATIENCE = 4_000;

interface Answer {
  data: unknown;
  at: number;
}

export interface Reach {
  /** Since when what is shown is from, in ms; nothing where it all is the server's own. */
  asOf?: number;
}

let reach: Reach = {};
const shown = new Map<string, number>();
const listeners = new Set<() => void>();
const found = () => {
  const asOf = shown.size ? Math.min(...shown.values()) : undefined;
  if (asOf === reach.asOf) return;
  reach = { asOf };
  listeners.forEach((listener) => listener());
};

export const subscribeReach = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};
export const reachNow = () => reach;

/** The server is in reach again: what was answered from this device is to be asked anew. Gives whether a question was one of it. */
export function backInReach(): (hash: string) => boolean {
  const before = [...shown.keys()];
  shown.clear();
  found();
  // The pages of a list have their place behind the name of their question.
  return (hash) => before.some((one) => one === hash || one.startsWith(`${hash} `));
}

/** Whether what is kept stands for the answer: the server is out of reach, or the job was opened here and is not sent yet. */
async function isHere(status: number, hash: string) {
  if (status !== 404) return status === 0;
  await pendingRead();
  return pendingNow().openings.some((one) => hash === JSON.stringify(["job", one.job]));
}

/** Asks, and keeps the answer; or takes the one that is kept. */
export async function reached(hash: string, key: unknown, ask: () => Promise<unknown>): Promise<unknown> {
  if (!OF_USE.has(String(key))) return ask();
  const asker = signedIn();
  const person = asker || lastPerson();
  const before = () => keptOf<Answer>("query", hash, person);
  const asking = ask();
  const late = new Promise<Answer | undefined>((done) => setTimeout(() => void before().then(done), PATIENCE));
  try {
    const first = await Promise.race([
      asking.then((data) => ({ data, at: 0 })),
      late.then((known) => known ?? asking.then((data) => ({ data, at: 0 }))),
    ]);
    if (first.at) {
      asking.catch(() => undefined);
      shown.set(hash, first.at);
    } else {
      shown.delete(hash);
      // What was asked by somebody who left meanwhile is nobody's.
      const answer = { data: first.data, at: Date.now() } satisfies Answer;
      whenMet((now) => (!asker || now === asker) && void keep("query", hash, answer));
    }
    found();
    return first.data;
  } catch (wrong) {
    const known = wrong instanceof Problem && (await isHere(wrong.status, hash)) ? await before() : undefined;
    if (!known) throw wrong;
    shown.set(hash, known.at);
    found();
    return known.data;
  }
}
