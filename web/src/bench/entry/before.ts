import type { Bench } from "../../job/useJob";
import { day } from "../../ui/words";

/** Whether a place still holds what the visit before left there, and nobody in this one said. */
export function isBefore(bench: Bench, path: string): boolean {
  const kept = bench.field(path).kept;
  return kept?.source === "record" && kept.text !== "" && !!bench.job.remembered?.paths.includes(path);
}

/** From when a figure is that the visit before left: `as on 3 Mar 2031`; empty for any other. */
export function asOn(bench: Bench, path: string): string {
  const { remembered, system } = bench.job;
  return remembered && isBefore(bench, path) ? `as on ${day(remembered.on, system.time_zone)}` : "";
}
