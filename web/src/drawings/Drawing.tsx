import type { ReactElement } from "react";
import type { DrawingView } from "../api/client";
import { BeltDrawing } from "./Belt";
import { CellsDrawing } from "./Cells";
import { LineDrawing } from "./Line";
import { LoadDrawing } from "./Load";
import { VesselDrawing } from "./Vessel";

type Shape = DrawingView["shape"];
export type Of<S extends Shape> = Extract<DrawingView, { shape: S }>;

export interface DrawnProps<S extends Shape> {
  drawing: Of<S>;
  /** Lower, where the rows of a list need the room. */
  compact?: boolean;
  /** The place of the row in hand. */
  taken?: number;
}

const DRAWINGS: { [S in Shape]: (props: DrawnProps<S>) => ReactElement } = {
  belt: BeltDrawing,
  cells: CellsDrawing,
  load: LoadDrawing,
  line: LineDrawing,
  vessel: VesselDrawing,
};

/** The machine as it is entered, so that a wrong plate figure looks wrong. */
export function Drawing(props: DrawnProps<Shape>) {
  const Shown = DRAWINGS[props.drawing.shape] as (props: DrawnProps<Shape>) => ReactElement;
  return <Shown {...props} />;
}
