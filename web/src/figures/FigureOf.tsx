import type { PartView, StepView } from "../api/client";
import { useBench } from "../bench/useJob";
import { BeltFigure } from "./BeltFigure";

/** The drawing of this kind of machine, with the figures that were entered. */
export function FigureOf({ part }: { part: PartView; step?: StepView }) {
  const bench = useBench();
  const kind = bench.methods.get(part.method)?.figure;
  if (kind === "belt") return <BeltFigure figure={part.figure} />;
  return null;
}
