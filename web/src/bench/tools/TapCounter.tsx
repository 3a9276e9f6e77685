import { useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import { VALUE } from "../../job/path";
import { useBench } from "../../job/useJob";
import { counted } from "../../ui/words";
import { dockOf, newRow } from "../hand";
import { beep, useTick } from "./tone";
import type { ToolProps } from "./props";

/** Counts taps, each with a short tone, and enters their number: of an input each tap at once, of a list when asked. */
export function TapCounter(props: ToolProps<"counter">) {
  if (props.tool.seconds) return <IntoRow {...props} />;
  return (props.tool.into ?? VALUE) === VALUE ? <IntoList {...props} /> : <IntoInput {...props} />;
}

/**
 * Counts for a minute from tone to tone: one keeps the time, one counts, each at an end of the vehicle.
 * Turns and seconds go into the row in hand; a last turn that was half made counts as a half.
 */
function IntoRow({ tool, full }: ToolProps<"counter">) {
  const bench = useBench();
  const [since, setSince] = useState<number | null>(null);
  const [count, setCount] = useState(0);
  const whole = tool.seconds ?? 60;
  const gone = since === null ? 0 : (performance.now() - since) / 1000;
  const over = since !== null && gone >= whole;
  useTick(since !== null && !over);
  const told = useRef(false);
  useEffect(() => {
    if (over && !told.current) {
      told.current = true;
      beep(520, 0.9);
    }
  }, [over]);
  if (!bench.open) return null;
  const start = () => {
    beep(880, 0.5);
    told.current = false;
    setCount(0);
    setSince(performance.now());
  };
  const enter = () => {
    const row = dockOf(full)?.dataset.row ?? newRow();
    const captured = { source: "captured" as const, steady: true };
    bench.enter(
      { path: `${full}.${row}.${tool.into}`, text: String(count), ...captured },
      { path: `${full}.${row}.${tool.timed}`, text: String(whole), ...captured },
    );
    setSince(null);
  };
  return (
    <div className="timer">
      {since === null ? (
        <button type="button" className="btn btn-primary timer-tap" data-entry="" onClick={start}>
          Start: {whole} s from tone to tone
        </button>
      ) : (
        <button
          type="button"
          className="btn btn-primary timer-tap"
          disabled={over}
          onClick={() => {
            beep(660, 0.08);
            setCount(count + 1);
          }}
        >
          Count a {tool.title}
        </button>
      )}
      <span className="timer-figure" role="timer">
        {count} <small>{counted(count, tool.title).replace(/^\S+ /, "")}</small>
      </span>
      {since !== null && <span className="soft">{over ? "time" : `${Math.ceil(whole - gone)} s left`}</span>}
      {since !== null && (
        <>
          <Button variant="outline-primary" onClick={() => setCount(count + 0.5)}>
            Half a {tool.title} more
          </Button>
          {over ? (
            <Button onClick={enter}>
              Enter {count} in {whole} s
            </Button>
          ) : (
            <Button variant="link" onClick={() => setSince(null)}>
              Stop
            </Button>
          )}
        </>
      )}
    </div>
  );
}

function IntoInput({ tool, full }: ToolProps<"counter">) {
  const bench = useBench();
  if (!bench.open) return null;
  const path = `${full}.${tool.into}`;
  const count = Math.max(0, Math.round(Number(bench.field(path).text)) || 0);
  const keep = (next: number) => bench.enter({ path, text: String(next), source: "captured", steady: true });
  const tap = () => {
    beep(660, 0.08);
    keep(count + 1);
  };
  return (
    <div className="timer">
      <button type="button" className="btn btn-primary timer-tap" data-entry="" onClick={tap}>
        Count a {tool.title}
      </button>
      <span className="timer-figure" role="status">
        {count}
      </span>
      {count > 0 && (
        <Button variant="link" onClick={() => keep(count - 1)}>
          One less
        </Button>
      )}
    </div>
  );
}

function IntoList({ tool, full }: ToolProps<"counter">) {
  const bench = useBench();
  const [count, setCount] = useState(0);
  if (!bench.open) return null;
  const tap = () => {
    beep(660, 0.08);
    setCount(count + 1);
  };
  const enter = () => {
    bench.enter({ path: `${full}.${newRow()}.${VALUE}`, text: String(count), source: "captured", steady: true });
    setCount(0);
  };
  return (
    <div className="timer">
      <button type="button" className="btn btn-primary timer-tap" data-entry="" onClick={tap}>
        Count {tool.title}
      </button>
      <span className="timer-figure" role="status">
        {count}
      </span>
      {count > 0 && (
        <>
          <Button variant="outline-primary" onClick={enter}>
            Enter {counted(count, tool.title)}
          </Button>
          <Button variant="link" onClick={() => setCount(count - 1)}>
            One less
          </Button>
        </>
      )}
    </div>
  );
}
