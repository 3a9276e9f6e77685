/** Practice without signal: the stand-in of a practice that was begun on this device is worked out on it. */
import { useCallback, useEffect, useState } from "react";
import { api, asked, Problem, type Schemas } from "../api/client";
import { core } from "../core/core";
import type { Reading } from "../bench/live/types";
import { keep, keptOf } from "../job/kept";
import { openedHere, type PracticeHere } from "../job/opening";
import { pendingNow } from "../job/pending";

/** How often its readings are looked at, in ms. */
const EVERY = 400;

/** Whether the practice of a job is on this device, and not at the server yet. */
export const isHere = (job: string) => pendingNow().openings.some((one) => one.job === job && one.practice);

const begun = new Map<string, Promise<string>>();

/** Takes a practice in hand once in this window; answers with when it began. */
function taken(job: string): Promise<string> {
  let at = begun.get(job);
  if (!at) {
    at = keptOf<PracticeHere>("practising", job).then(async (held) => {
      if (!held) throw new Problem(0, "This practice is not on this device", "", []);
      await core.call("stand_in", { job, practice: held.practice });
      return held.at;
    });
    begun.set(job, at);
    at.catch(() => begun.delete(job));
  }
  return at;
}

const elapsed = (at: string) => Math.max(0, (Date.now() - Date.parse(at)) / 1000);

/** Does something to it, or looks at something of it, and keeps what was done. */
export async function doneHere<T>(job: string, act: "act" | "look" | "ticket", said: object): Promise<T> {
  const at = await taken(job);
  const answer = await core.call<T>(act, { job, ...said, elapsed: elapsed(at) });
  const practice = await core.call<PracticeHere["practice"]>("practised", { job });
  await keep("practising", job, { practice, at } satisfies PracticeHere);
  return answer;
}

/** What a stand-in on this device tells of itself. */
export async function toldHere(job: string): Promise<Schemas["StandInView"]> {
  const held = await keptOf<PracticeHere>("practising", job);
  if (!held) throw new Problem(0, "This practice is not on this device", "", []);
  begun.set(job, Promise.resolve(held.at));
  return core.call("stand_in", { job, practice: held.practice });
}

/** Its readings as they come. */
export function useStandInHere(job: string | null) {
  const [reading, setReading] = useState<Reading | null>(null);
  const hear = useCallback((said: Reading) => setReading(said), []);
  useEffect(() => {
    if (!job) return;
    let over = false;
    const look = async () => {
      try {
        const at = await taken(job);
        const said = await core.call<Reading>("live", { job, elapsed: elapsed(at) });
        if (!over) setReading(said);
      } catch {
        // The core is not there yet: it is looked at again.
      }
      if (!over) setTimeout(() => void look(), EVERY);
    };
    void look();
    return () => {
      over = true;
      setReading(null);
    };
  }, [job]);
  return { reading, silent: false, hear };
}

type Along = Schemas["PracticeAtHand"];
const FRESH = 60 * 60_000;

/** Takes every kind along, one after the other, so that it can be practised on without signal. */
export async function kindsAlong(kinds: string[]) {
  for (const kind of kinds) {
    const before = await keptOf<{ at: number }>("practice", kind);
    if (!navigator.onLine || (before && Date.now() - before.at < FRESH)) continue;
    try {
      const found = await asked(api.POST("/api/practice/at-hand", { params: { query: { kind } } }));
      await keep("practice", kind, { ...found, at: Date.now() });
    } catch {
      return;
    }
  }
}

/** Begins a practice of a kind on this device, where that was taken along. */
export async function practiseHere(kind: string, level: string): Promise<{ id: string } | null> {
  const along = await keptOf<Along>("practice", kind);
  if (!along || core.state.is === "failed") return null;
  const id = crypto.randomUUID();
  const body = { id, system: along.opening.brief.id, method: "visit", inputs: {}, occasion: "routine" } as const;
  return openedHere(body, false, along.opening, { kind, level });
}
