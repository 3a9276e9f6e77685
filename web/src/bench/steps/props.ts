import type { PartView, Step, StepKind } from "../../api/client";

export interface StepProps<K extends StepKind = StepKind> {
  part: PartView;
  step: Step<K>;
}
