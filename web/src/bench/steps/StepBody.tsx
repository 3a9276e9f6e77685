import type { ReactElement } from "react";
import Button from "react-bootstrap/Button";
import type { PartView, StepKind, StepView } from "../../api/client";
import { at } from "../../job/path";
import { useBench } from "../../job/useJob";
import { AttachmentStrip } from "../../attachments/Strip";
import { Tool } from "../tools/Tool";
import { type Asked, cautionsOf, fieldsOf, itemsOf } from "../together";
import { MethodField } from "../entry/MethodField";
import { isBefore } from "../entry/before";
import { day, counted } from "../../ui/words";
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
  const bench = useBench();
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
      <Cautions part={part} step={step} />
      <AsBefore part={part} step={step} />
      {step.kind === "look" && <Items part={part} step={step} />}
      {step.kind === "plan" && <ReferenceChoice part={part} />}
      {!!step.fields?.length && <Fields fields={fieldsOf(bench, part, step)} />}
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

/** What the visit before left in a step, and one key that says: it is still so. */
function AsBefore({ part, step }: AnyStep) {
  const bench = useBench();
  const { remembered, system } = bench.job;
  const list = step.kind === "rows" ? step.rows.list : "list" in step ? step.list : "";
  const heads = [
    ...fieldsOf(bench, part, step).flatMap(({ under, key }) => [`inputs.${key}`, at(under, `inputs.${key}`)]),
    ...(list ? [at(part.key, list)] : []),
  ];
  const held = (remembered?.paths ?? []).filter(
    (path) => isBefore(bench, path) && heads.some((head) => path === head || path.startsWith(`${head}.`)),
  );
  if (!remembered || !held.length || !bench.open) return null;
  const say = () =>
    bench.enter(
      ...held.map((path) => {
        const { text, unit } = bench.field(path);
        return { path, text, unit };
      }),
    );
  return (
    <div className="as-before">
      <span>
        {counted(held.length, "figure")} as on {day(remembered.on, system.time_zone)}
      </span>
      <Button variant="outline-primary" data-entry="" onClick={say}>
        Still so
      </Button>
    </div>
  );
}

function Cautions({ part, step }: AnyStep) {
  const bench = useBench();
  const path = at(part.key, `caution.${step.key}`);
  const cautions = cautionsOf(bench, part, step);
  if (!cautions.length) return null;
  const seen = bench.field(path).text === "yes";
  return (
    <div className={`cautions${seen ? " seen" : ""}`}>
      <div>
        {cautions.map((caution) => (
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
  const bench = useBench();
  const items = itemsOf(bench, part, step);
  if (!items.length) return null;
  const plain = items.filter((item) => !item.loose_end);
  const loose = items.filter((item) => item.loose_end);
  return (
    <div className="look">
      <div>
        {plain.map((item) => (
          <Tick key={item.path} path={item.path} text={item.text} />
        ))}
      </div>
      {loose.length > 0 && (
        <div>
          <h3>Changed for the test, to be put back</h3>
          {loose.map((item) => (
            <Tick key={item.path} path={item.path} text={item.text} loose />
          ))}
        </div>
      )}
    </div>
  );
}

function Fields({ fields }: { fields: Asked[] }) {
  const bench = useBench();
  return (
    <div className="fields">
      {fields.map(({ part, under, key }) => {
        const input = bench.method(part).inputs.find((one) => one.key === key);
        return input && <MethodField key={key} part={under} input={input} />;
      })}
    </div>
  );
}
