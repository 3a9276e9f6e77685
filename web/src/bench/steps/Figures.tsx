import { figured } from "../../ui/words";
import type { StepProps } from "./props";

/** Figures to key in, large, with what each is. */
export function FiguresStep({ part, step }: StepProps<"figures">) {
  const results = part.assessment.results;
  const known = step.figures.filter(({ result }) => results[result]);
  if (!known.length) return <p className="lead-text">The plates and loads come first.</p>;
  return (
    <dl className="key-figures">
      {known.map(({ result, title }) => (
        <div key={result}>
          <dt>{title}</dt>
          <dd>{figured(results[result])}</dd>
        </div>
      ))}
    </dl>
  );
}
