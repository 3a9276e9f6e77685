import type { PartView, StepView } from "../api/client";
import { useHand } from "./hand";
import { progressOf } from "./progress";
import { useBench } from "./useJob";

interface Props {
  whole: boolean;
  onWhole: (whole: boolean) => void;
}

/** The steps of the visit in the order of the work, each with what is still open. */
export function RunSheet({ whole, onWhole }: Props) {
  const bench = useBench();
  return (
    <nav className="sheet" aria-label="Run sheet">
      {bench.job.parts.map((part) => (
        <Part key={part.key} part={part} />
      ))}
      <div className="sheet-ways" role="group" aria-label="How the sheet is shown">
        <button type="button" className="btn btn-link" aria-pressed={!whole} onClick={() => onWhole(false)}>
          step by step
        </button>
        <button type="button" className="btn btn-link" aria-pressed={whole} onClick={() => onWhole(true)}>
          whole sheet
        </button>
      </div>
    </nav>
  );
}

function Part({ part }: { part: PartView }) {
  const bench = useBench();
  const steps = bench.methods.get(part.method)?.steps ?? [];
  return (
    <section>
      <h2>{part.title}</h2>
      <ol>
        {steps.map((step, number) => (
          <Step key={step.key} part={part} step={step} number={number + 1} />
        ))}
      </ol>
    </section>
  );
}

function Step({ part, step, number }: { part: PartView; step: StepView; number: number }) {
  const bench = useBench();
  const hand = useHand();
  const { done, says } = progressOf(bench, part, step);
  const now = hand.part === part.key && hand.step === step.key;
  return (
    <li>
      <button
        type="button"
        className={`sheet-step${now ? " now" : ""}${done ? " done" : ""}`}
        aria-current={now ? "step" : undefined}
        onClick={() => hand.go(part.key, step.key)}
      >
        <span className="sheet-mark">
          {done ? (
            <svg width="15" height="13" viewBox="0 0 15 13" aria-label="done">
              <path d="M1 7 5.5 11.5 14 1" fill="none" stroke="var(--leave)" strokeWidth="2.6" />
            </svg>
          ) : (
            number
          )}
        </span>
        <b>{step.title}</b>
        {says && <em>{says}</em>}
      </button>
    </li>
  );
}
