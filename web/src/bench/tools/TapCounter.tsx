import { useState } from "react";
import Button from "react-bootstrap/Button";
import { VALUE } from "../../job/path";
import { useBench } from "../../job/useJob";
import { counted } from "../../ui/words";
import { newRow } from "../hand";
import { beep } from "./tone";
import type { ToolProps } from "./Tool";

/** Counts taps, each with a short tone, and enters their number: of an input each tap at once, of a list when asked. */
export function TapCounter(props: ToolProps<"counter">) {
  return (props.tool.into ?? VALUE) === VALUE ? <IntoList {...props} /> : <IntoInput {...props} />;
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
