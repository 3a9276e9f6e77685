import type { StepView } from "../../api/client";
import { useBench } from "../../job/useJob";
import { useHand } from "../hand";
import { ticket } from "./live";
import { placesFor } from "./places";

/** Weighs on an outside scale: its ticket goes into the row in hand, or where its figures say that they belong; what it printed. */
export function useWeigh(step: StepView | undefined, field: string | null) {
  const bench = useBench();
  const hand = useHand();
  return async (scale: string): Promise<string> => {
    const got = await ticket(bench.job.id, scale);
    const places = placesFor(bench, bench.part(hand.part), step, field, hand.row, got.figures);
    const captured = { source: "captured" as const, steady: true, raw: got.title };
    bench.enter(
      ...places.flatMap(({ figure, path, also }) => [
        ...also.map((one) => ({ ...one, ...captured })),
        { path, text: figure.text, unit: figure.unit, ...captured },
      ]),
    );
    return got.title;
  };
}
