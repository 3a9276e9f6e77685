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

interface Begun {
  reads: number;
  turns: number;
  trace: Map<number, number>;
}

/** Counts whole turns down with a tone at the end; with a source of readings linked it enters the change by itself. */
export function Countdown({ tool, part, full }: ToolProps<"countdown">) {
  const bench = useBench();
  const reading = useReadout(tool.reads ?? "");
  const turning = useReadout(tool.turns ?? "");
  const times = numberIn(textOf(bench, part.key, tool.times)) || 1;
  const seconds = (numberIn(figureOf(textOf(bench, part.key, tool.time), "").figure) || 0) * times;
  const [end, setEnd] = useState<number | null>(null);
  const begun = useRef<Begun | null>(null);
  useTick(end !== null);
  const left = end === null ? seconds : (end - performance.now()) / 1000;

  useEffect(() => {
    if (end === null) return;
    const start = begun.current;
    const linked = start && reading && turning;
    if (linked) {
      // Where on the turn, in so many places of the first one.
      const place = Math.round((turning.value - start.turns) * PLACES);
      if (place <= PLACES) start.trace.set(place, reading.value);
    }
    // With a linked source the machine itself says when whole turns are over.
    const over = linked ? turning.value - start.turns >= times - 1e-6 : left <= 0;
    if (!over) return;
    const timer = setTimeout(() => {
      beep(1040, 0.6);
      if (linked) {
        const captured = { unit: reading.unit, source: "captured" as const, steady: reading.steady };
        const trace = [...start.trace].sort(([a], [b]) => a - b);
        if (tool.trace && trace.length >= LEAST)
          bench.enter(
            ...trace.map(([place, value]) => ({
              path: `${at(part.key, tool.trace!)}.t${String(place).padStart(2, "0")}.${VALUE}`,
              text: value.toFixed(6),
              ...captured,
            })),
          );
        const change = (reading.value - start.reads).toFixed(6);
        bench.enter({ path: `${full}.${newRow()}.${VALUE}`, text: change, ...captured });
      }
      begun.current = null;
      setEnd(null);
    }, 0);
    return () => clearTimeout(timer);
  });
  if (!bench.open || !seconds) return null;
  const start = () => {
    begun.current = reading && turning ? { reads: reading.value, turns: turning.value, trace: new Map() } : null;
    beep(660, 0.12);
    setEnd(performance.now() + seconds * 1000);
  };
  return (
    <div className="timer">
      <button
        type="button"
        className="btn btn-primary timer-tap"
        data-entry=""
        onClick={end === null ? start : () => setEnd(null)}
      >
        {end === null ? `Run ${counted(times, tool.title)}` : "Stop"}
      </button>
      <span className="timer-figure" role="timer">
        {Math.max(0, left).toFixed(end === null ? 1 : 0)} <small>s</small>
      </span>
      <span className="soft">
        {reading ? "the change is entered by itself" : "note what it shows at the start and at the tone"}
      </span>
    </div>
  );
}
