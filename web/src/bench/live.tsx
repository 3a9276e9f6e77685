import { createContext, type ReactNode, useContext, useEffect, useState } from "react";
import { api, asked, type Schemas } from "../api/client";
import { useBench } from "./useJob";

type Reading = Schemas["LiveView"];

interface Live {
  reading: Reading | null;
  /** A stand-in is linked to this job. */
  linked: boolean;
  /** Nothing was heard for two seconds. */
  silent: boolean;
}

const LiveContext = createContext<Live>({ reading: null, linked: false, silent: false });
export const useLive = () => useContext(LiveContext);

const SILENT = 2_000;

/** Listens to the stand-in of a practice job. Where it falls silent, the page says so, and typing goes on. */
export function LiveLink({ children }: { children: ReactNode }) {
  const { job, open } = useBench();
  const linked = job.practice && open;
  const [reading, setReading] = useState<Reading | null>(null);
  const [silent, setSilent] = useState(false);
  useEffect(() => {
    if (!linked) return;
    let heard = Date.now();
    const source = new EventSource(`/api/jobs/${job.id}/live`);
    source.onmessage = (event) => {
      heard = Date.now();
      setReading(JSON.parse(event.data as string) as Reading);
      setSilent(false);
    };
    const watch = setInterval(() => setSilent(Date.now() - heard > SILENT), 250);
    return () => {
      source.close();
      clearInterval(watch);
    };
  }, [job.id, linked]);
  return <LiveContext value={{ reading: silent ? null : reading, linked, silent }}>{children}</LiveContext>;
}

let queue: Promise<unknown> = Promise.resolve();

/** One after the other, in the order in which they were asked for: what is done to a machine has an order. */
function inOrder<T>(work: () => Promise<T>): Promise<T> {
  const done = queue.then(work, work);
  queue = done.catch(() => undefined);
  return done;
}

export const act = (job: string, what: string, figure = 0) =>
  inOrder(() =>
    asked(api.POST("/api/jobs/{job_id}/stand-in", { params: { path: { job_id: job } }, body: { what, figure } })),
  );

/** The weighbridge's ticket for what was delivered since the last one. */
export const ticket = (job: string) =>
  inOrder(() => asked(api.POST("/api/jobs/{job_id}/stand-in/ticket", { params: { path: { job_id: job } } })));

/** What of a live reading belongs into a field, as text and unit; null where nothing does. */
export function captured(path: string, reading: Reading): { text: string; unit: string } | null {
  const key = path.split(/[./]/).at(-1) ?? "";
  if (["total_start", "total_end", "indicated_total"].includes(key))
    return { text: reading.total.toFixed(2), unit: "t" };
  if (key === "indicated_rate") return { text: reading.rate.toFixed(1), unit: "t/h" };
  if (key === "live_weight") return { text: reading.live.toFixed(2), unit: "kg" };
  if (key === "speed") return { text: reading.speed.toFixed(2), unit: "m/s" };
  if (key === "revolutions") return { text: String(Math.floor(reading.revolutions)), unit: "" };
  return null;
}
