import type { JobView, PartView, StepView } from "../api/client";
import { CallShape } from "../ui/CallShape";
import { goesDown } from "./CallPanel";
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
      {bench.job.sheet.map((section) => (
        <Section key={`${section.part} ${section.steps[0]}`} section={section} />
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

function Section({ section }: { section: JobView["sheet"][number] }) {
  const bench = useBench();
  const part = bench.part(section.part);
  const all = bench.methods.get(part.method)?.steps ?? [];
  const steps = section.steps.flatMap((key) => all.find((step) => step.key === key) ?? []);
  const many = bench.job.parts.length > 1;
  return (
    <section>
      <h2>
        {many && <CallShape call={part.assessment.call} size={14} down={goesDown(part)} />} {section.title}
      </h2>
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
