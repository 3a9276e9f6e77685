import { useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import type { PartView } from "../api/client";
import { newRow } from "./hand";
import { useLive } from "./live";
import { VALUE } from "./rows";
import { at, useBench } from "./useJob";

/** A short tone, so that two people hear it from arm's length; nothing where the browser gives no sound. */
export function beep(pitch = 880, seconds = 0.25) {
  try {
    const audio = new AudioContext();
    const tone = audio.createOscillator();
    tone.frequency.value = pitch;
    tone.connect(audio.destination);
    tone.start();
    tone.stop(audio.currentTime + seconds);
    tone.onended = () => void audio.close();
  } catch {
    // No sound here: the figures on the page say the same.
  }
}

function useTick(running: boolean, every = 100) {
  const [, turn] = useState(0);
  useEffect(() => {
    if (!running) return;
    const timer = setInterval(() => turn((count) => count + 1), every);
    return () => clearInterval(timer);
  }, [running, every]);
}

/** Mark to mark: each tap, or the space bar, ends a revolution and begins the next; the time is entered. */
export function Stopwatch({ full }: { full: string }) {
  const bench = useBench();
  const [since, setSince] = useState<number | null>(null);
  const [count, setCount] = useState(0);
  useTick(since !== null);
  const tap = () => {
    const now = performance.now();
    if (since !== null) {
      const seconds = ((now - since) / 1000).toFixed(2);
      bench.enter({ path: `${full}.${newRow()}.${VALUE}`, text: seconds, unit: "s", source: "captured", steady: true });
      setCount(count + 1);
      beep();
    } else beep(660, 0.12);
    setSince(now);
  };
  return (
    <div className="timer">
      <button
        type="button"
        className="btn btn-primary timer-tap"
        data-entry=""
        onClick={tap}
        onKeyDown={(event) => event.key === "Enter" && (event.preventDefault(), tap())}
      >
        {since === null ? "Mark: start" : "Mark"}
      </button>
      <span className="timer-figure" role="timer">
        {since === null ? "0.0" : ((performance.now() - since) / 1000).toFixed(1)} <small>s</small>
      </span>
      <span className="soft">
        {count} {count === 1 ? "revolution" : "revolutions"} timed
      </span>
      {since !== null && (
        <Button variant="link" onClick={() => setSince(null)}>
          Stop
        </Button>
      )}
    </div>
  );
}

const PLACES = 24;
const LEAST = 6;

/** Counts whole revolutions down with a tone at the end; with an instrument linked it enters the change of the total. */
export function Countdown({ part, list }: { part: PartView; list: string }) {
  const bench = useBench();
  const live = useLive();
  const input = (key: string) => bench.field(at(part.key, `inputs.${key}`)).text || bench.field(`inputs.${key}`).text;
  const each = Number(input("revolutions_each").replace(",", ".")) || 1;
  const seconds = (Number.parseFloat(input("revolution_time").replace(",", ".")) || 0) * each;
  const [end, setEnd] = useState<number | null>(null);
  const begun = useRef<{ total: number; turns: number; trace: Map<number, number> } | null>(null);
  useTick(end !== null);
  const left = end === null ? seconds : (end - performance.now()) / 1000;
  const reading = live.reading;

  useEffect(() => {
    if (end === null) return;
    const start = begun.current;
    if (start && reading) {
      // Where on the belt, in so many places of the first revolution.
      const place = Math.round((reading.revolutions - start.turns) * PLACES);
      if (place <= PLACES) start.trace.set(place, reading.total);
    }
    // With a linked instrument the belt itself says when whole revolutions are over.
    const over = start && reading ? reading.revolutions - start.turns >= each - 1e-6 : left <= 0;
    if (!over) return;
    const timer = setTimeout(() => {
      beep(1040, 0.6);
      if (start && reading) {
        const trace = [...start.trace].sort(([a], [b]) => a - b);
        bench.enter(
          ...(trace.length >= LEAST ? trace : []).map(([place, total]) => ({
            path: `${at(part.key, "trace")}.t${String(place).padStart(2, "0")}.${VALUE}`,
            text: (total * 1000).toFixed(2),
            unit: "kg",
            source: "captured" as const,
            steady: reading.steady,
          })),
        );
        const change = ((reading.total - start.total) * 1000).toFixed(2);
        bench.enter({
          path: `${at(part.key, list)}.${newRow()}.${VALUE}`,
          text: change,
          unit: "kg",
          source: "captured",
          steady: reading.steady,
        });
      }
      begun.current = null;
      setEnd(null);
    }, 0);
    return () => clearTimeout(timer);
  });
  if (!bench.open || !seconds) return null;
  const start = () => {
    begun.current = reading ? { total: reading.total, turns: reading.revolutions, trace: new Map() } : null;
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
        {end === null ? `Run ${each} ${each === 1 ? "revolution" : "revolutions"}` : "Stop"}
      </button>
      <span className="timer-figure" role="timer">
        {Math.max(0, left).toFixed(end === null ? 1 : 0)} <small>s</small>
      </span>
      <span className="soft">
        {reading ? "the change of the total is entered by itself" : "note the total at the start and at the tone"}
      </span>
    </div>
  );
}
