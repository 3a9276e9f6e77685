import { useEffect, useRef, useState } from "react";
import type { JobView, PartView, StepView } from "../api/client";
import { useBench } from "../job/useJob";
import { CallShape } from "../ui/CallShape";
import { useHand } from "./hand";
import { counted } from "../ui/words";
import { progressOf, sheetOf } from "./progress";

interface Props {
  whole: boolean;
  onWhole: (whole: boolean) => void;
}

/** The steps of the visit in the order of the work, each with what is still open. */
export function RunSheet({ whole, onWhole }: Props) {
  const bench = useBench();
  const { part, step } = useHand();
  const sheet = useRef<HTMLElement>(null);
  const left = sheetOf(bench).filter((one) => !one.optional && !progressOf(bench, one.part, one.step).done).length;
  // The step in hand is in view on a long sheet.
  useEffect(() => {
    sheet.current?.querySelector(".now")?.scrollIntoView({ block: "nearest" });
  }, [part, step]);
  return (
    <nav className="sheet" aria-label="Run sheet" ref={sheet}>
      <p className="sheet-left">{left ? `${counted(left, "step")} left` : "all steps done"}</p>
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

/** A stretch of the sheet; a part that is done only now and then is one line until it is begun or in hand. */
function Section({ section }: { section: JobView["sheet"][number] }) {
  const bench = useBench();
  const hand = useHand();
  const part = bench.part(section.part);
  const all = bench.method(part).steps;
  const steps = section.steps.flatMap((key) => all.find((step) => step.key === key) ?? []);
  const many = bench.job.parts.length > 1;
  const { call, down } = part.assessment;
  const done = steps.length > 0 && steps.every((step) => progressOf(bench, part, step).done);
  const [unfolded, setUnfolded] = useState(false);
  const inHand = hand.part === section.part && section.steps.includes(hand.step);
  if (section.optional && !part.begun && hand.part !== section.part)
    return (
      <section>
        <button
          type="button"
          className="sheet-step sheet-now-and-then"
          onClick={() => hand.go(section.part, section.steps[0]!)}
        >
          <span className="sheet-mark">+</span>
          <b>{section.title}</b>
          <em>if it is needed</em>
        </button>
      </section>
    );
  // What is done is one line, until somebody goes back to it.
  if (many && done && !inHand && !unfolded)
    return (
      <section>
        <button type="button" className="sheet-step sheet-done done" onClick={() => setUnfolded(true)}>
          <span className="sheet-mark">
            <CallShape call={call} size={14} down={down} />
          </span>
          <b>{section.title}</b>
          <em>done</em>
        </button>
      </section>
    );
  return (
    <section>
      <h2>
        {many && <CallShape call={call} size={14} down={down} />} {section.title}
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
