/** What is taken along of a round: all that it needs of its systems, fetched one after the other while nothing else is to do. */
import { api, asked, type SystemRow } from "../api/client";
import { jobQuery, queries, referencesQuery, sumsQuery, systemQuery, unitsQuery } from "../api/queries";
import { historyQuery } from "../plant/history";
import { keep, keptOf } from "../job/kept";

/** So many systems of a round are taken along, those that are wanted first. */
const MOST = 100;
const FRESH = 10 * 60_000;

interface Taken {
  at: number;
  said: string;
}

let under = 0;

/** Takes the systems of a round along; a system that is as it was, and was taken a short while ago, is not asked for again. */
export async function takenAlong(systems: SystemRow[]) {
  const own = ++under;
  await queries.prefetchQuery(referencesQuery);
  await queries.prefetchQuery(unitsQuery);
  await queries.prefetchQuery(sumsQuery);
  for (const row of systems.slice(0, MOST)) {
    if (own !== under || !navigator.onLine) return;
    const said = JSON.stringify(row);
    const before = await keptOf<Taken>("taken", row.id);
    if (before && before.said === said && Date.now() - before.at < FRESH) continue;
    try {
      await keep(
        "along",
        row.id,
        await asked(api.GET("/api/systems/{system_id}/at-hand", { params: { path: { system_id: row.id } } })),
      );
      const system = await queries.fetchQuery(systemQuery(row.id));
      for (const channel of system.channels) await queries.prefetchQuery(historyQuery(channel.id));
      for (const job of row.open_jobs) {
        await queries.prefetchQuery(jobQuery(job.id));
        await keep(
          "job",
          job.id,
          await asked(api.GET("/api/jobs/{job_id}/at-hand", { params: { path: { job_id: job.id } } })),
        );
      }
      await keep("taken", row.id, { at: Date.now(), said } satisfies Taken);
    } catch {
      // Out of reach, or gone meanwhile: what was taken along before is there.
    }
    await new Promise((done) => setTimeout(done, 50));
  }
}
