import type { ReactElement } from "react";
import type { ToolView } from "../../api/client";
import { Countdown } from "./Countdown";
import { Sampler } from "./Sampler";
import { Stopwatch } from "./Stopwatch";
import { TapCounter } from "./TapCounter";
import type { ToolProps } from "./props";

type Drawn<K extends ToolView["tool"]> = (props: ToolProps<K>) => ReactElement | null;

const TOOLS: { [K in ToolView["tool"]]: Drawn<K> } = {
  stopwatch: Stopwatch,
  countdown: Countdown,
  counter: TapCounter,
  sampler: Sampler,
};

/** The tool that goes with a list. */
export function Tool(props: ToolProps) {
  const Chosen = TOOLS[props.tool.tool] as Drawn<ToolView["tool"]>;
  return <Chosen {...props} />;
}
