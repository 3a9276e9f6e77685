import Button from "react-bootstrap/Button";
import { useBench } from "../../job/useJob";
import { KeyIn } from "../call/KeyIn";
import { useHand } from "../hand";
import { foundOf, nextStepOf } from "../progress";
import type { StepProps } from "./props";

/** The figure to key in and what the instrument then shows, or that nothing is to be touched. */
export function AdjustStep({ part, step }: StepProps<"adjust">) {
  const bench = useBench();
  const hand = useHand();
  const found = foundOf(part);
  const next = nextStepOf(bench, part, step);
  if (found.call !== "adjust")
    return (
      <p className="lead-text">
        {found.call === "leave"
          ? "Nothing to adjust: it is in order. Leave the factor alone."
          : "Nothing to adjust yet. The factor stays as it is until the call says so."}
      </p>
    );
  return (
    <>
      <KeyIn part={part} />
      {next && (
        <Button className="mt-3" onClick={() => hand.go(next.part.key, next.step.key)}>
          Keyed in: go on to {next.part.key === part.key ? next.step.title.toLowerCase() : next.title.toLowerCase()}
        </Button>
      )}
    </>
  );
}
