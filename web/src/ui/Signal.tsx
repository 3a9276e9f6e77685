import { useSyncExternalStore } from "react";
import { Link } from "react-router";
import { reachNow, subscribeReach } from "../api/reach";
import { newerNow, subscribeNewer } from "../core/begin";
import { core } from "../core/core";
import { usePending } from "../job/pending";
import { counted, moment } from "./words";

/** So many of the jobs that wait are named. */
const MOST = 6;

/** What is to be known of the signal: as of when the page is, what waits to be sent, and whether a newer version is here. */
export function Signal() {
  const { asOf } = useSyncExternalStore(subscribeReach, reachNow);
  const newer = useSyncExternalStore(subscribeNewer, newerNow);
  const judges = useSyncExternalStore(core.subscribe, core.snapshot);
  const { openings, sealings } = usePending();
  const jobs = new Map([...openings, ...sealings].map((one) => [one.job, one]));
  const back = [...jobs.values()].filter((one) => one.back).length;
  const waits = jobs.size - back;
  const says = [
    asOf && `Without signal: as of ${moment(new Date(asOf).toISOString())}.`,
    asOf && judges.is === "failed" && "This browser does not judge by itself: the call comes with the signal.",
    waits && `${counted(waits, "job")} of yours ${waits === 1 ? "waits" : "wait"} on this device for the server.`,
    back && `${counted(back, "job")} came back: look at ${back === 1 ? "it" : "them"} once more.`,
    newer && "A newer version is here; it is taken when you open the application again.",
  ].filter(Boolean);
  if (!says.length) return null;
  const links = [...jobs.values()].slice(0, MOST);
  return (
    <p className={`signal${asOf || back ? " signal-away" : ""}`} role="status">
      {says.join(" ")}
      {links.map((one) => (
        <Link key={one.job} to={`/jobs/${one.job}`}>
          {one.name || "the job"}
        </Link>
      ))}
    </p>
  );
}
