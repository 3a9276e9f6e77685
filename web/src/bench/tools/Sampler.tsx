import { useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import { useBench } from "../../job/useJob";
import { counted } from "../../ui/words";
import { newRow } from "../hand";
import { useLive } from "../live/live";
import { fitting } from "../live/places";
import { at } from "../../job/path";
import type { ToolProps } from "./props";

const MOST = 600;

/** Takes rows from the live readings while it runs: one each so many seconds, until it is stopped. */
export function Sampler({ tool, part, full }: ToolProps<"sampler">) {
  const bench = useBench();
  const live = useLive();
  const [since, setSince] = useState<number | null>(null);
  const [count, setCount] = useState(0);
  const taken = useRef(-Infinity);
  const { reading } = live;
  useEffect(() => {
    if (since === null || !reading) return;
    const now = performance.now() / 1000;
    if (now - taken.current < (tool.every ?? 1) - 0.05) return;
    const row = `${full}.${newRow()}`;
    const step = bench.method(part).steps.find((one) => one.kind === "rows" && at(part.key, one.rows.list) === full);
    const keys = step?.kind === "rows" ? (step.rows.typed ?? []).filter((key) => key !== tool.time) : [];
    const found = keys.map((key) => ({ key, one: fitting(bench, `${row}.${key}`, reading.readouts, "") }));
    if (found.some(({ one }) => !one)) return;
    taken.current = now;
    bench.enter(
      { path: `${row}.${tool.time}`, text: (now - since).toFixed(1), unit: "s", source: "captured", steady: true },
      ...found.map(({ key, one }) => ({
        path: `${row}.${key}`,
        text: one!.capture,
        unit: one!.unit,
        source: "captured" as const,
        steady: one!.steady,
        raw: one!.raw ?? "",
      })),
    );
    const next = count + 1;
    setCount(next);
    if (next >= MOST) setSince(null);
  }, [bench, count, full, part, reading, since, tool]);
  if (!bench.open || !live.linked) return null;
  const begin = () => {
    taken.current = -Infinity;
    setCount(0);
    setSince(performance.now() / 1000);
  };
  return (
    <div className="timer">
      <Button
        className="timer-tap"
        data-entry=""
        disabled={since === null && live.silent}
        onClick={since === null ? begin : () => setSince(null)}
      >
        {since === null ? `Sample ${tool.title}` : "Stop sampling"}
      </Button>
      <span className="soft">
        {since === null && !count ? "one row each second, from the live readings" : `${counted(count, "row")} taken`}
        {live.silent && since !== null && ", and now it is silent"}
      </span>
    </div>
  );
}
