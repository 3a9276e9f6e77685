import { useEffect, useRef } from "react";
import type { StepView } from "../../api/client";
import { useBench } from "../../job/useJob";
import { docksShown, useHand } from "../hand";
import { ticket } from "./live";
import { placesFor } from "./places";

/** Weighs on an outside scale: its ticket goes into the row in hand, or where its figures say that they belong; what it printed. */
export function useWeigh(step: StepView | undefined, field: string | null) {
  const bench = useBench();
  const hand = useHand();
  const latest = useRef(bench);
  useEffect(() => {
    latest.current = bench;
  });
  return async (scale: string): Promise<string> => {
    // It belongs into the row in hand as it is asked for; what that holds is known when the ticket is there.
    const docks = docksShown();
    const got = await ticket(bench.job.id, scale);
    const now = latest.current;
    const places = placesFor(now, now.part(hand.part), step, field, docks, got.figures);
    const captured = { source: "captured" as const, steady: true, raw: got.title };
    now.enter(
      ...places.flatMap(({ figure, path, also }) => [
        ...also.map((one) => ({ ...one, ...captured })),
        { path, text: figure.text, unit: figure.unit, ...captured },
      ]),
    );
    return got.title;
  };
}
