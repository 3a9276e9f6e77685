import { useState } from "react";
import Button from "react-bootstrap/Button";
import { VALUE } from "../../job/path";
import { useBench } from "../../job/useJob";
import { counted } from "../../ui/words";
import { newRow } from "../hand";
import { beep } from "./tone";
import type { ToolProps } from "./Tool";

/** Counts taps, each with a short tone, and enters their number. */
export function TapCounter({ tool, full }: ToolProps<"counter">) {
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
