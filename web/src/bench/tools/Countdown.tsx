import { useEffect, useRef, useState } from "react";
import { at, VALUE } from "../../job/path";
import { useBench } from "../../job/useJob";
import { numberIn, figureOf } from "../../ui/quantity";
import { counted } from "../../ui/words";
import { textOf } from "../entry/units";
import { newRow } from "../hand";
import { useReadout } from "../live/live";
import { beep, useTick } from "./tone";
import type { ToolProps } from "./props";

const PLACES = 24;
const LEAST = 6;

/** What was shown when: turns, and the figure. */
type Trail = [turns: number, figure: number][];

const GAP = 1 / PLACES;
const BEFORE = 3;

/** The figure at so many turns: on the line through the two readings about it, or through the last two before it where the next is far. */
function figureAt(trail: Trail, turns: number): number {
  const after = trail.findIndex(([at]) => at >= turns);
  const near = after > 0 && trail[after]![0] - trail[after - 1]![0] <= GAP;
  const place = Math.max(1, near ? after : after < 0 ? trail.length - 1 : after - 1);
  const [one, other] = [trail[place - 1]!, trail[place] ?? trail[place - 1]!];
  const part = other[0] > one[0] ? (turns - one[0]) / (other[0] - one[0]) : 0;
  return one[1] + (other[1] - one[1]) * part;
}

/** The change over whole turns, exactly: the reading that ends them comes somewhat late, and an empty belt is uneven. */
function changeOver(trail: Trail, began: number, times: number): number {
  const [now, last] = trail[trail.length - 1]!;
  const before = trail[trail.length - 2] ?? trail[0]!;
  if (now - before[0] <= GAP) return figureAt(trail, began + times) - figureAt(trail, began);
  // Nothing was heard for a while: from the same place of the turn, so many turns before, to here.
  return last - figureAt(trail.slice(0, -1), now - times);
}

/** Counts whole turns down with a tone at the end; with a source of readings linked it enters the change by itself. */
export function Countdown({ tool, part, full }: ToolProps<"countdown">) {
  const bench = useBench();
  const reading = useReadout(tool.reads ?? "");
  const turning = useReadout(tool.turns ?? "");
  const times = numberIn(textOf(bench, part.key, tool.times)) || 1;
  const seconds = (numberIn(figureOf(textOf(bench, part.key, tool.time), "").figure) || 0) * times;
  const [end, setEnd] = useState<number | null>(null);
  /** What was heard since a little before the start, and at how many turns that was. */
  const heard = useRef<Trail>([]);
  const begun = useRef<number | null>(null);
  useTick(end !== null);
  const left = end === null ? seconds : (end - performance.now()) / 1000;

  const stop = () => {
    begun.current = null;
    setEnd(null);
  };

  useEffect(() => {
    if (!reading || !turning) return;
    const last = heard.current.at(-1)?.[0] ?? -1;
    if (turning.value < last) heard.current = [];
    if (turning.value !== last) heard.current.push([turning.value, reading.value]);
    if (begun.current === null) heard.current.splice(0, heard.current.length - BEFORE);
  }, [reading, turning]);
  useEffect(() => {
    if (end === null) return;
    const began = begun.current;
    const linked = began !== null && reading && turning;
    // With a linked source the machine itself says when whole turns are over.
    const over = linked ? turning.value - began >= times - 1e-6 : left <= 0;
    if (!over) return;
    const timer = setTimeout(() => {
      beep(1040, 0.6);
      if (linked) {
        const captured = { unit: reading.unit, source: "captured" as const, steady: reading.steady };
        // Where on the first turn, in so many places of it.
        const since = heard.current.filter(([turns]) => turns >= began);
        const places = since.map(([turns, figure]) => [Math.round((turns - began) * PLACES), figure] as const);
        const trace = [...new Map(places.filter(([place]) => place <= PLACES))];
        if (tool.trace && trace.length >= LEAST)
          bench.enter(
            ...trace.map(([place, value]) => ({
              path: `${at(part.key, tool.trace!)}.t${String(place).padStart(2, "0")}.${VALUE}`,
              text: value.toFixed(6),
              ...captured,
            })),
          );
        const change = changeOver(heard.current, began, times).toFixed(6);
        bench.enter({ path: `${full}.${newRow()}.${VALUE}`, text: change, ...captured });
      }
      stop();
    }, 0);
    return () => clearTimeout(timer);
  });
  if (!bench.open || !seconds) return null;
  const start = () => {
    begun.current = reading && turning ? turning.value : null;
    beep(660, 0.12);
    setEnd(performance.now() + seconds * 1000);
  };
  return (
    <div className="timer">
      <button type="button" className="btn btn-primary timer-tap" data-entry="" onClick={end === null ? start : stop}>
        {end !== null ? "Stop" : tool.times ? `Run ${counted(times, tool.title)}` : "Start the time"}
      </button>
      <span className="timer-figure" role="timer">
        {Math.max(0, left).toFixed(end === null ? 1 : 0)} <small>s</small>
      </span>
      <span className="soft">
        {!tool.times
          ? `${tool.title}, until the tone`
          : reading
            ? "the change is entered by itself"
            : "note what it shows at the start and at the tone"}
      </span>
    </div>
  );
}
