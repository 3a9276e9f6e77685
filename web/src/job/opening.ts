/** Opening a job: at the server, or, where that is out of reach, on this device, to be opened there under the same id. */
import { api, asked, type JobView, Problem, type Schemas } from "../api/client";
import { queries } from "../api/queries";
import { signedIn } from "../api/session";
import { core } from "../core/core";
import { dayIn } from "../ui/words";
import { keep, keptOf } from "./kept";
import type { AtHand } from "./local";
import { pendingNow, readPending } from "./pending";
import { opened, type Opening } from "./store";

interface OpenedHere {
  bench: JobView & { stage: JobView["state"] };
  log: AtHand["log"];
  occasion_words: string;
  practice?: PracticeHere["practice"];
}

/** A practice on this device: what is hidden, what was done, and when it began. */
export interface PracticeHere {
  practice: Schemas["PracticeSent"];
  at: string;
}

type Along = Schemas["SystemAtHand"];
type Open = Schemas["OpenJobIn"];

/** Opens a job: one method, or `visit` for the usual visit; a system not tested yet begins with a first calibration. */
export async function openJob(
  system: { id: string; not_tested: boolean },
  method: string,
  channel?: string,
  inputs: Record<string, string> = {},
): Promise<{ id: string }> {
  const occasion = system.not_tested ? "first" : "routine";
  const begun = pendingNow().openings.find(
    (one) => !one.back && one.open.system === system.id && one.open.method === method,
  );
  if (begun) return { id: begun.job };
  const body: Open = { id: crypto.randomUUID(), system: system.id, method, channel, inputs, occasion };
  try {
    return await asked(api.POST("/api/jobs", { body }));
  } catch (wrong) {
    const along = wrong instanceof Problem && wrong.status === 0 ? await keptOf<Along>("along", system.id) : undefined;
    const opening = along?.openings.find((one) => one.method === method && (!channel || one.channel === channel));
    if (!along || !opening || core.state.is === "failed" || Object.keys(inputs).length) throw wrong;
    return openedHere(body, along.may_lead, opening);
  }
}

/** Opens it on this device; a practice draws what is hidden in its machine here. */
export async function openedHere(
  body: Open,
  leads: boolean,
  opening: Along["openings"][number],
  practice?: { kind: string; level: string },
): Promise<{ id: string }> {
  const id = body.id!;
  const at = new Date().toISOString();
  const who = queries.getQueryData<Schemas["Me"]>(["me"])?.name ?? "";
  const parts = JSON.parse(opening.document) as object;
  core.start();
  const said = {
    job: id,
    opening: { ...parts, first: opening.first },
    who,
    at,
    day: dayIn(new Date(), opening.brief.time_zone),
  };
  const found = await core.call<OpenedHere>(
    practice ? "practise" : "open",
    practice ? { ...said, ...practice } : { ...said, occasion: body.occasion },
  );
  const { stage, ...bench } = found.bench;
  const view: JobView = {
    ...opening.head,
    ...bench,
    id,
    state: stage,
    entries: found.log?.length ?? 0,
    occasion_words: found.occasion_words,
    system: opening.brief,
    remembered: opening.remembered,
    opened_by: who,
    opened_at: at,
    may_lead: leads,
    record: null,
    closing: null,
  };
  if (found.practice) await keep("practising", id, { practice: found.practice, at } satisfies PracticeHere);
  const waits: Opening = {
    job: id,
    name: opening.brief.name,
    person: signedIn(),
    open: { ...body, channel: opening.channel, at },
    at,
    practice: !!practice,
  };
  const db = await opened();
  if (!db)
    throw new Problem(
      507,
      "This browser keeps nothing",
      "Without signal a job can only be begun where the browser may keep it. Leave the private window.",
      [],
    );
  await db.put("opening", waits);
  await readPending();
  const log = found.log;
  await keep("job", id, {
    job: id,
    entries: view.entries,
    time_zone: opening.brief.time_zone,
    document: opening.document,
    log,
  } satisfies AtHand);
  await keep("query", JSON.stringify(["job", id]), { data: view, at: Date.now() });
  queries.setQueryData(["job", id], view);
  return { id };
}
