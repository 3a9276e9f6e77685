import type { PartView, StepView } from "../api/client";
import { useHand } from "../bench/hand";
import { at, useBench } from "../bench/useJob";
import { BeltFigure } from "./BeltFigure";
import { CellsFigure } from "./CellsFigure";
import { LineFigure, LoadedFigure, VesselFigure } from "./StillFigures";

const ROWS = ["runs", "passes", "points", "corners", "cells", "rows", "idle", "revolutions", "list"];

/** The drawing of this kind of machine, with the figures that were entered. */
export function FigureOf({ part, step }: { part: PartView; step?: StepView }) {
  const bench = useBench();
  const hand = useHand();
  const kind = bench.methods.get(part.method)?.figure;
  const figure = part.figure;
  const list = step?.runs ? at(part.key, step.runs) : "";
  const rows = list ? bench.rows(list) : [];
  const crowded = !!step && ROWS.includes(step.kind) && (step.kind !== "runs" || rows.length > 2 || bench.job.practice);
  if (kind === "belt") return <BeltFigure figure={figure} compact={crowded} />;
  if (kind === "cells") {
    const taken = rows.findIndex((row) => row.row === hand.row(list));
    const round = bench.job.system.kind.startsWith("hopper");
    return <CellsFigure figure={figure} taken={taken} round={round} />;
  }
  if (kind === "loaded") return <LoadedFigure figure={figure} />;
  if (kind === "line") return <LineFigure figure={figure} unit="" />;
  if (kind === "loop") return <LineFigure figure={figure} unit="mA" />;
  if (kind === "vessel") return <VesselFigure figure={figure} />;
  return null;
}
