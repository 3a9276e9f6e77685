import { useQuery } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useEffect, useState } from "react";
import { api, asked, type Schemas } from "../../api/client";
import { useBench } from "../../job/useJob";

export type Reading = Schemas["Live"];
export type Readout = Schemas["Readout"];
export type Control = Schemas["Control"];

interface Linked {
  reading: Reading | null;
  /** A source of readings is linked to this job. */
  linked: boolean;
  /** Nothing was heard for two seconds. */
  silent: boolean;
  controls: Control[];
}

const LiveContext = createContext<Linked>({ reading: null, linked: false, silent: false, controls: [] });
export const useLive = () => useContext(LiveContext);

/** The readout of this name, as it is now; null where no source gives it. */
export function useReadout(key: string): Readout | null {
  return useLive().reading?.readouts.find((one) => one.key === key) ?? null;
}

const SILENT = 2_000;

/** Listens to the stand-in of a practice job. Where it falls silent, the page says so, and typing goes on. */
export function LiveLink({ children }: { children: ReactNode }) {
  const { job, open } = useBench();
  const linked = job.practice && open;
  const [reading, setReading] = useState<Reading | null>(null);
  const [silent, setSilent] = useState(false);
  const controls = useQuery({
    queryKey: ["stand-in", job.id],
    queryFn: () => asked(api.GET("/api/jobs/{job_id}/stand-in", { params: { path: { job_id: job.id } } })),
    enabled: linked,
    staleTime: Infinity,
  }).data?.controls;
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
  return (
    <LiveContext value={{ reading: silent ? null : reading, linked, silent, controls: controls ?? [] }}>
      {children}
    </LiveContext>
  );
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

/** What the outside scale prints for what was delivered since the last ticket. */
export const ticket = (job: string) =>
  inOrder(() => asked(api.POST("/api/jobs/{job_id}/stand-in/ticket", { params: { path: { job_id: job } } })));

/** The readout that belongs into a field; null where none does. */
export function fitting(path: string, reading: Reading): Readout | null {
  const key = path.split(/[./]/).at(-1) ?? "";
  return reading.readouts.find((one) => one.into?.includes(key)) ?? null;
}
