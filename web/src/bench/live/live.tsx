import { useQuery } from "@tanstack/react-query";
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from "react";
import { api, asked, type Schemas } from "../../api/client";
import { useBench } from "../../job/useJob";
import { doneHere, isHere, toldHere, useStandInHere } from "../../practice/here";
import { useSerial } from "./serial";
import type { LinkOfJob, Reading, Readout } from "./types";

interface Linked {
  reading: Reading | null;
  /** A source of readings is linked to this job. */
  linked: boolean;
  /** Nothing was heard for two seconds. */
  silent: boolean;
  /** Why nothing comes, where the source says so. */
  fault: string;
  /** What the source is called in a sentence. */
  name: string;
  standIn?: Schemas["StandInView"];
  /** The instruments that this job may take its readings from, and the one that it does. */
  links: LinkOfJob[];
  link: LinkOfJob | null;
  choose: (id: string | null) => void;
  /** Takes a reading that came otherwise, as the answer to something done; older ones that are still on the way are passed over. */
  hear: (said: Reading) => void;
  /** Opens the serial port of this device; a person has to ask for it. */
  plug?: () => Promise<void>;
}

const LiveContext = createContext<Linked>({
  reading: null,
  linked: false,
  silent: false,
  fault: "",
  name: "",
  links: [],
  link: null,
  choose: () => undefined,
  hear: () => undefined,
});
export const useLive = () => useContext(LiveContext);

/** The readout of this name, as it is now; null where no source gives it. */
export function useReadout(key: string): Readout | null {
  return useLive().reading?.readouts.find((one) => one.key === key) ?? null;
}

const SILENT = 1_700;
const LOOK = 200;

/** Events of readings from an address, as long as it is given; what was heard last, and whether it fell silent. */
export function useStream(address: string | null) {
  const [reading, setReading] = useState<Reading | null>(null);
  const [silent, setSilent] = useState(false);
  const least = useRef(0);
  const hear = useCallback((said: Reading) => {
    least.current = said.turn;
    setReading(said);
  }, []);
  useEffect(() => {
    if (!address) return;
    let heard = Date.now();
    least.current = 0;
    const source = new EventSource(address);
    source.onmessage = (event) => {
      const said = JSON.parse(event.data as string) as Reading;
      // A source that only says why it shows nothing is as good as silent.
      if (said.readouts.length) heard = Date.now();
      // It does not show yet what was done here last: by the turn, since two servers may tell the time otherwise.
      if (said.turn < least.current) return;
      setReading(said);
      setSilent(!said.readouts.length);
    };
    const watch = setInterval(() => setSilent(Date.now() - heard > SILENT), LOOK);
    return () => {
      source.close();
      clearInterval(watch);
      setReading(null);
      setSilent(false);
    };
  }, [address]);
  return { reading, silent, hear };
}

/** Listens to the stand-in of a practice, or to an instrument of the system. Where it falls silent, the page says so, and typing goes on. */
export function LiveLink({ children }: { children: ReactNode }) {
  const { job, open, opening } = useBench();
  const practice = job.practice && open;
  const here = practice && !!opening?.practice;
  const links = job.links ?? NONE;
  const key = `live ${job.system.id}`;
  const [chosen, setChosen] = useState<string | null>(() => localStorage.getItem(key));
  const link = open && !practice ? (links.find((one) => one.id === (chosen ?? links[0]?.id)) ?? null) : null;
  const choose = useCallback(
    (id: string | null) => {
      localStorage.setItem(key, id ?? OFF);
      setChosen(id ?? OFF);
    },
    [key],
  );
  const standIn = useQuery({
    queryKey: ["stand-in", job.id],
    queryFn: () =>
      here ? toldHere(job.id) : asked(api.GET("/api/jobs/{job_id}/stand-in", { params: { path: { job_id: job.id } } })),
    enabled: practice,
    staleTime: Infinity,
  }).data;
  const network = link?.way === "network" ? `/api/links/${link.id}/live` : null;
  const server = useStream(here ? null : practice ? `/api/jobs/${job.id}/live` : network);
  const device = useStandInHere(here ? job.id : null);
  const stream = here ? device : server;
  const serial = useSerial(link?.way === "serial" ? link : null);
  const { reading, silent } = link?.way === "serial" ? serial : stream;
  const linked = practice || !!link;
  const value = useMemo<Linked>(
    () => ({
      reading: silent ? null : reading,
      linked,
      silent: linked && silent,
      fault: reading?.fault || (link?.way === "serial" ? serial.fault : ""),
      name: practice ? "The stand-in" : (link?.name ?? ""),
      standIn,
      links: practice ? NONE : links,
      link,
      choose,
      hear: stream.hear,
      plug: link?.way === "serial" && !serial.open ? serial.plug : undefined,
    }),
    [
      choose,
      link,
      linked,
      links,
      practice,
      reading,
      serial.fault,
      serial.open,
      serial.plug,
      silent,
      standIn,
      stream.hear,
    ],
  );
  return <LiveContext value={value}>{children}</LiveContext>;
}

const NONE: LinkOfJob[] = [];
const OFF = "none";

let queue: Promise<unknown> = Promise.resolve();

/** One after the other, in the order in which they were asked for: what is done to a machine has an order. */
function inOrder<T>(work: () => Promise<T>): Promise<T> {
  const done = queue.then(work, work);
  queue = done.catch(() => undefined);
  return done;
}

export const act = (job: string, what: string, figure = 0) =>
  inOrder(() =>
    isHere(job)
      ? doneHere<Reading>(job, "act", { what, figure })
      : asked(api.POST("/api/jobs/{job_id}/stand-in", { params: { path: { job_id: job } }, body: { what, figure } })),
  );

/** What an eye finds at a look at the stand-in; it takes its minutes on its clock. */
export const lookAt = (job: string, at: string) =>
  inOrder(() =>
    isHere(job)
      ? doneHere<Schemas["SeenView"]>(job, "look", { at })
      : asked(api.POST("/api/jobs/{job_id}/stand-in/look", { params: { path: { job_id: job }, query: { at } } })),
  );

/** What an outside scale prints now. */
export const ticket = (job: string, scale: string) =>
  inOrder(() =>
    isHere(job)
      ? doneHere<Schemas["Ticket"]>(job, "ticket", { scale })
      : asked(api.POST("/api/jobs/{job_id}/stand-in/ticket", { params: { path: { job_id: job }, query: { scale } } })),
  );
