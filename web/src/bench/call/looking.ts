import type { Schemas } from "../../api/client";
import { parted, wayTo } from "../../job/path";
import type { Bench } from "../../job/useJob";
import type { Hand } from "../hand";
import { type Placed, sheetOf } from "../progress";
import { fieldsOf } from "../together";

export type Look = Schemas["LookView"];
export type Suspect = Schemas["SuspectView"];

/** Where a look's answer, its note, its reason to be skipped, and a cure are entered. */
export const lookedAt = (look: string) => `looked.${look}`;
export const notedAt = (look: string) => `look_noted.${look}`;
export const skippedAt = (look: string) => `skipped.${look}`;
export const curedAt = (suspect: string) => `cured.${suspect}`;

/** The look to make next: what stands before an adjustment, or what would tell the suspects of a fault apart. */
export const nextLook = (bench: Bench): Look | undefined => bench.job.machine.looks[0];

/** The step in which a look is entered; none where it is only ticked. */
export function stepOf(bench: Bench, look: Look): { part: string; step: string } | null {
  if (!look.path) return null;
  const { part } = parted(look.path);
  const [name = ""] = wayTo(look.path);
  const holds = ({ part: of, step: one }: Placed) => {
    if (fieldsOf(bench, of, one).some((field) => field.part.key === part && field.key === name)) return true;
    if (of.key !== part) return false;
    if (one.kind === "rows") return one.rows.list === name;
    return one.kind === "tally" ? (one.list ?? "runs") === name : one.kind === "sheet" && one.list === name;
  };
  const found = sheetOf(bench).find(holds);
  return found ? { part: found.part.key, step: found.step.key } : null;
}

/** Goes to where a look is entered, or ticks it as fine where it has no place of its own. */
export function makeLook(bench: Bench, hand: Hand, look: Look) {
  const place = stepOf(bench, look);
  if (place) hand.go(place.part, place.step);
  else void bench.enter({ path: lookedAt(look.key), text: "fine" });
}

/** What each place on a machine is called, for the line over its drawing. */
export const PLACES: Record<string, string> = {
  frame: "the frame, all round",
  lines: "pipes, hoses and cables",
  box: "the junction box",
  cell: "each cell",
  corner: "each corner",
  idler: "the weigh idlers",
  track: "the belt and its take-up",
  speed: "the speed sensor",
  chute: "chute, hatch and skirt",
  suspension: "the suspension",
  sensor: "the sensor",
  hose: "the hoses",
  brake: "the brakes",
  pin: "the pins",
  valve: "the flow valve",
  forks: "forks and hooks",
  mount: "the mounts",
  drawbar: "the drawbar",
  hopper: "the hopper",
  air: "the air gauge",
  gate: "the gate",
  outlet: "the outlet",
  coupling: "coupling and shaft",
  roller: "the roller",
  shaft: "the shaft",
  drive: "the drive",
};
