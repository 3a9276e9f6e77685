/** Opening a job: at the server, or, where that is out of reach, on this device, to be opened there under the same id. */
import { api, asked, type JobView, Problem, type Schemas } from "../api/client";
import { queries } from "../api/queries";
import { signedIn } from "../api/session";
import { core } from "../core/core";
import { dayIn } from "../ui/words";
import { keep, keptOf } from "./kept";
import type { AtHand } from "./local";
import { opened, type Opening } from "./store";

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

async function openedHere(body: Open, leads: boolean, opening: Along["openings"][number]): Promise<{ id: string }> {
  const id = body.id!;
  const at = new Date().toISOString();
  const who = queries.getQueryData<Schemas["Me"]>(["me"])?.name ?? "";
  const parts = JSON.parse(opening.document) as object;
  core.start();
  const found = await core.call<{
    bench: JobView & { stage: JobView["state"] };
    log: AtHand["log"];
    occasion_words: string;
  }>("open", {
    job: id,
    opening: { ...parts, first: opening.first },
    occasion: body.occasion,
    who,
    at,
    day: dayIn(new Date(), opening.brief.time_zone),
  });
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
  const waits: Opening = { job: id, person: signedIn(), open: { ...body, channel: opening.channel, at }, at };
  const db = await opened();
  if (!db)
    throw new Problem(
      507,
      "This browser keeps nothing",
      "Without signal a job can only be begun where the browser may keep it. Leave the private window.",
      [],
    );
  await db.put("opening", waits);
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
