import { useState } from "react";
import Button from "react-bootstrap/Button";
import { VALUE } from "../../job/path";
import { useBench } from "../../job/useJob";
import { counted } from "../../ui/words";
import { dockOf, newRow } from "../hand";
import { beep, useTick } from "./tone";
import type { ToolProps } from "./props";

/**
 * Mark to mark: each tap, or the space bar, ends one time and begins the next; the time is entered. Where
 * it goes into a row that holds more than a time, it starts and stops for the row in hand.
 */
export function Stopwatch({ tool, full }: ToolProps<"stopwatch">) {
  const bench = useBench();
  const [since, setSince] = useState<number | null>(null);
  const [count, setCount] = useState(0);
  const into = tool.into ?? VALUE;
  const single = into !== VALUE;
  useTick(since !== null);
  if (!bench.open) return null;
  const tap = () => {
    const now = performance.now();
    if (since !== null) {
      const seconds = ((now - since) / 1000).toFixed(2);
      const row = (single && dockOf(full)?.dataset.row) || newRow();
      bench.enter({ path: `${full}.${row}.${into}`, text: seconds, unit: "s", source: "captured", steady: true });
      setCount(count + 1);
      beep();
    } else beep(660, 0.12);
    setSince(single && since !== null ? null : now);
  };
  return (
    <div className="timer">
      <button
        type="button"
        className="btn btn-primary timer-tap"
        data-entry=""
        data-open={single || bench.rows(full).length ? undefined : ""}
        onClick={tap}
        onKeyDown={(event) => event.key === "Enter" && (event.preventDefault(), tap())}
      >
        {single
          ? since === null
            ? `Start: ${tool.title}`
            : `Stop: ${tool.title}`
          : since === null
            ? "Mark: start"
            : "Mark"}
      </button>
      <span className="timer-figure" role="timer">
        {since === null ? "0.0" : ((performance.now() - since) / 1000).toFixed(1)} <small>s</small>
      </span>
      <span className="soft">{counted(count, tool.title)} timed</span>
      {since !== null && (
        <Button variant="link" onClick={() => setSince(null)}>
          Stop
        </Button>
      )}
    </div>
  );
}
