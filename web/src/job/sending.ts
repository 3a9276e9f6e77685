/**
 * What waits on this device, sent when the server is in reach: jobs that were opened here, what was typed into any of
 * them, and jobs that were closed here, which the server seals once it has every entry.
 *
 * All of it is one person's, and goes out in that person's session alone.
 */
import { api, asked, clockOff, Problem } from "../api/client";
import { queries } from "../api/queries";
import { signedIn } from "../api/session";
import { boxOf, when } from "./outbox";
import { keptOf } from "./kept";
import { leaveLocal } from "./local";
import type { PracticeHere } from "./opening";
import { pendingNow, readPending } from "./pending";
import { FILES, opened, type Opening, type Sealing } from "./store";

/** What else waits on the device, such as photographs. */
let others: (() => Promise<void>)[] = [];
let busy = false;

/** Sends all that waits, in its order. It is asked for whenever the server may be in reach. */
export async function sendAll() {
  if (busy || !signedIn()) return;
  busy = true;
  try {
    await readPending();
    for (const one of pendingNow().openings) if (!one.back) await open(one);
    const db = await opened();
    const waiting = ((await db?.getAll("waiting")) ?? []).filter((one) => one.person === signedIn() && !one.refused);
    for (const job of new Set(waiting.map((one) => one.job))) {
      if (pendingNow().openings.some((one) => one.job === job)) continue;
      const box = boxOf(
        signedIn(),
        job,
        () => queries.getQueryData<{ entries: number }>(["job", job])?.entries,
        () => queries.invalidateQueries({ queryKey: ["job", job] }),
      );
      await box.send();
      const closed = pendingNow().sealings.find((one) => one.job === job && !one.back);
      if (box.state.held === "closed" && closed)
        await (await opened())?.put("sealing", { ...closed, back: "Somebody else closed this job meanwhile." });
    }
    for (const what of others) await what();
    for (const one of pendingNow().sealings) if (!one.back) await seal(one);
  } finally {
    busy = false;
  }
}

async function open(one: Opening) {
  try {
    const headers = { "X-Person": one.person };
    const practice = one.practice ? await keptOf<PracticeHere>("practising", one.job) : undefined;
    if (practice) {
      const body = { id: one.job, ...practice, at: when(practice.at) ?? serverNow() };
      await asked(api.POST("/api/practice/brought", { headers, body }));
    } else await asked(api.POST("/api/jobs", { headers, body: { ...one.open, at: when(one.open.at) } }));
    await (await opened())?.delete("opening", one.job);
    await readPending();
    leaveLocal(one.person, one.job);
    await queries.invalidateQueries({ queryKey: ["job", one.job] });
  } catch (wrong) {
    if (!(wrong instanceof Problem) || !lasting(wrong)) return;
    await (await opened())?.put("opening", { ...one, back: wrong.message });
  }
  await readPending();
}

async function seal(one: Sealing) {
  const db = await opened();
  const entries = ((await db?.getAllFromIndex("waiting", "job", one.job)) ?? []).filter((entry) => !entry.refused);
  const files = ((await db?.getAllFromIndex(FILES, "job", one.job)) ?? []).filter((file) => !file.refused);
  if (entries.length || files.length || pendingNow().openings.some((open) => open.job === one.job)) return;
  try {
    const params = { path: { job_id: one.job } };
    const view = await asked(
      api.POST("/api/jobs/{job_id}/close", {
        params,
        headers: { "X-Person": one.person },
        body: { ...one.close, at: when(one.at) },
      }),
    );
    await db?.delete("sealing", one.job);
    queries.setQueryData(["job", one.job], view);
    for (const key of ["round", "system", "log", "record", "references"])
      void queries.invalidateQueries({ queryKey: [key] });
  } catch (wrong) {
    if (!(wrong instanceof Problem) || !lasting(wrong)) return;
    // It comes back to whoever closed it, open, with the reason.
    await db?.put("sealing", { ...one, back: [wrong.title, ...wrong.errors.map((error) => error.text)].join(". ") });
    await queries.invalidateQueries({ queryKey: ["job", one.job] });
  }
  await readPending();
}

/** Now, by the server's clock, as far as the device knows it. */
const serverNow = () => new Date(Date.now() - clockOff()).toISOString();

/** Whether sending it again would come to the same. */
const lasting = ({ status }: Problem) => [403, 404, 409, 410, 422].includes(status);

/** Asks for it whenever the server may be in reach again. */
export function sentWhenInReach(...also: (() => Promise<void>)[]) {
  others = also;
  const soon = () => void sendAll();
  addEventListener("online", soon);
  document.addEventListener("visibilitychange", () => document.visibilityState === "visible" && soon());
  setInterval(soon, 10_000);
  soon();
}
