import type { DrawingView } from "../api/client";

export type Shape = DrawingView["shape"];
/** The drawing of a shape. */
export type Of<S extends Shape> = Extract<DrawingView, { shape: S }>;

export interface DrawnProps<S extends Shape> {
  drawing: Of<S>;
  /** Lower, where the rows of a list need the room. */
  compact?: boolean;
  /** The place of the row in hand. */
  taken?: number;
}
