import type { PartView, StepView } from "../api/client";
import { at, useBench } from "../bench/useJob";
import { BeltFigure } from "./BeltFigure";

/** The drawing of this kind of machine, with the figures that were entered. */
export function FigureOf({ part, step }: { part: PartView; step?: StepView }) {
  const bench = useBench();
  const crowded = step?.kind === "runs" && bench.rows(at(part.key, "runs")).length > 2;
  const kind = bench.methods.get(part.method)?.figure;
  if (kind === "belt") return <BeltFigure figure={part.figure} compact={crowded} />;
  return null;
}
