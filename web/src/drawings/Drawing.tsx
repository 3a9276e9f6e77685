import type { ReactElement } from "react";
import { AxlesDrawing } from "./Axles";
import { BeltDrawing } from "./Belt";
import { CellsDrawing } from "./Cells";
import { FillsDrawing } from "./Fills";
import { FitDrawing } from "./Fit";
import { GradesDrawing } from "./Grades";
import { GrowingDrawing } from "./Growing";
import { LiftsDrawing } from "./Lifts";
import { LineDrawing } from "./Line";
import { LoadDrawing } from "./Load";
import { RatesDrawing } from "./Rates";
import { RepeatsDrawing } from "./Repeats";
import { SamplesDrawing } from "./Samples";
import { StairsDrawing } from "./Stairs";
import { TrailDrawing } from "./Trail";
import { VesselDrawing } from "./Vessel";
import type { DrawnProps, Shape } from "./props";

const DRAWINGS: { [S in Shape]: (props: DrawnProps<S>) => ReactElement } = {
  belt: BeltDrawing,
  cells: CellsDrawing,
  load: LoadDrawing,
  line: LineDrawing,
  vessel: VesselDrawing,
  axles: AxlesDrawing,
  lifts: LiftsDrawing,
  repeats: RepeatsDrawing,
  fit: FitDrawing,
  fills: FillsDrawing,
  samples: SamplesDrawing,
  grades: GradesDrawing,
  stairs: StairsDrawing,
  growing: GrowingDrawing,
  rates: RatesDrawing,
  trail: TrailDrawing,
};

/** The machine as it is entered, so that a wrong plate figure looks wrong. */
export function Drawing(props: DrawnProps<Shape>) {
  const Shown = DRAWINGS[props.drawing.shape] as (props: DrawnProps<Shape>) => ReactElement;
  return <Shown {...props} />;
}
