import type { ReactElement } from "react";
import type { PartView, StepKind, StepView } from "../../api/client";
import { at } from "../../job/path";
import { useBench } from "../../job/useJob";
import { AttachmentStrip } from "../../attachments/Strip";
import { Tool } from "../tools/Tool";
import { MethodField } from "../entry/MethodField";
import { step as moveOn } from "../entry/EntryField";
import { AdjustStep } from "./Adjust";
import { CloseStep } from "./Close";
import { FiguresStep } from "./Figures";
import { ListedStep } from "./Listed";
import { PlanStep, ReferenceChoice } from "./Plan";
import { SheetStep } from "./Sheet";
import { TallyStep } from "./Tally";
import type { StepProps } from "./props";

type Drawn<K extends StepKind> = (props: StepProps<K>) => ReactElement | null;

const nothing = () => null;

/** The tool that counts one of the figures of a step, where there is one. */
function EnterStep({ part, step }: StepProps<"enter">) {
  return step.tool ? <Tool tool={step.tool} part={part} full={at(part.key, "inputs")} /> : null;
}

/** What each kind of step asks for, beside the fields, ticks and cautions that all of them may have. */
const STEPS: { [K in StepKind]: Drawn<K> } = {
  look: nothing,
  enter: EnterStep,
  plan: PlanStep,
  tally: TallyStep,
  rows: ListedStep,
  sheet: SheetStep,
  figures: FiguresStep,
  adjust: AdjustStep,
  close: CloseStep,
};

/** What one step of the run sheet asks for, with its cautions where they bite. */
export function StepBody({ part, step }: { part: PartView; step: StepView }) {
  const Body = STEPS[step.kind] as Drawn<StepKind>;
  return (
    <section
      className={`step step-${step.kind}`}
      id={`step-${part.key}-${step.key}`}
      aria-label={step.title}
      data-sheet=""
    >
      <header className="step-head">
        <h2>{step.title}</h2>
        {step.text && <p>{step.text}</p>}
      </header>
      {!!step.cautions?.length && <Cautions part={part} step={step} />}
      {step.kind === "look" && <Items part={part} step={step} />}
      {step.kind === "plan" && <ReferenceChoice part={part} />}
      {!!step.fields?.length && <Fields part={part} fields={step.fields} />}
      <Body part={part} step={step} />
      {step.kind !== "look" && <Items part={part} step={step} />}
      <AttachmentStrip part={part} step={step} />
    </section>
  );
}

interface AnyStep {
  part: PartView;
  step: StepView;
}

function Cautions({ part, step }: AnyStep) {
  const bench = useBench();
  const path = at(part.key, `caution.${step.key}`);
  const seen = bench.field(path).text === "yes";
  return (
    <div className={`cautions${seen ? " seen" : ""}`}>
      <div>
        {step.cautions?.map((caution) => (
          <p key={caution}>{caution}</p>
        ))}
      </div>
      <Tick path={path} text={seen ? "seen" : "I have seen to it"} caution />
    </div>
  );
}

interface TickProps {
  path: string;
  text: string;
  caution?: boolean;
  /** It leaves a loose end: only a tap or the space bar ticks it. */
  loose?: boolean;
}

/** A tick as large as a thumb. Enter ticks a plain one and goes on; one that leaves a loose end it passes. */
function Tick({ path, text, caution, loose }: TickProps) {
  const bench = useBench();
  const ticked = bench.field(path).text === "yes";
  return (
    <label className={`tick${loose ? " tick-loose" : ""}`}>
      <input
        type="checkbox"
        className="form-check-input"
        data-entry=""
        data-path={path}
        data-caution={caution ? "" : undefined}
        data-loose={loose ? "" : undefined}
        checked={ticked}
        disabled={!bench.open}
        onChange={(event) => bench.enter({ path, text: event.target.checked ? "yes" : "no" })}
        onKeyDown={(event) => {
          if (event.key !== "Enter") return;
          event.preventDefault();
          if (!ticked && !loose && !event.shiftKey) bench.enter({ path, text: "yes" });
          moveOn(event.currentTarget, event.shiftKey ? -1 : 1);
        }}
      />
      <span>{text}</span>
    </label>
  );
}

function Items({ part, step }: AnyStep) {
  const items = step.items ?? [];
  if (!items.length) return null;
  const plain = items.filter((item) => !item.loose_end);
  const loose = items.filter((item) => item.loose_end);
  const path = (key: string) => at(part.key, `tick.${step.key}.${key}`);
  return (
    <div className="look">
      <div>
        {plain.map((item) => (
          <Tick key={item.key} path={path(item.key)} text={item.text} />
        ))}
      </div>
      {loose.length > 0 && (
        <div>
          <h3>Changed for the test, to be put back</h3>
          {loose.map((item) => (
            <Tick key={item.key} path={path(item.key)} text={item.text} loose />
          ))}
        </div>
      )}
    </div>
  );
}

function Fields({ part, fields }: { part: PartView; fields: string[] }) {
  const bench = useBench();
  const inputs = bench.method(part).inputs;
  return (
    <div className="fields">
      {fields.map((key) => {
        const input = inputs.find((one) => one.key === key);
        return input && <MethodField key={key} part={part.key} input={input} />;
      })}
    </div>
  );
}
