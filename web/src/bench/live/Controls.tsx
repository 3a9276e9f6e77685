import { useState } from "react";
import Button from "react-bootstrap/Button";
import type { StepKind, StepView } from "../../api/client";
import { useBench } from "../../job/useJob";
import { numberIn } from "../../ui/quantity";
import { lookedAt } from "../call/looking";
import { useHand } from "../hand";
import { act, useLive } from "./live";
import type { Control, Scale } from "./types";
import { litBy } from "./acts";
import { keysOf } from "./places";
import { useWeigh } from "./weigh";

type Group = Control["group"];

const GROUPS: Record<Group, string> = {
  run: "Run",
  load: "Load",
  weigh: "Weigh",
  set: "Set",
  "fault-finding": "Look and mend",
  time: "Time",
};

/** The groups of controls that a step of each kind needs; the others are a tap away. */
const NEEDED: Record<StepKind, Group[]> = {
  look: ["fault-finding"],
  enter: ["run", "load", "weigh", "time"],
  plan: [],
  tally: ["run", "load", "weigh", "time"],
  rows: ["run", "load", "weigh", "time"],
  sheet: ["set"],
  figures: ["set"],
  adjust: ["set"],
  close: ["run", "load"],
};

/** What can be done to a stand-in: in groups, each one line, and only those that the step needs. */
export function Controls({
  step,
  field,
  all,
  onAll,
}: {
  step?: StepView;
  field: string | null;
  all: boolean;
  onAll: (all: boolean) => void;
}) {
  const bench = useBench();
  const hand = useHand();
  const live = useLive();
  const { reading, standIn } = live;
  if (!standIn) return null;
  const keys = step ? keysOf(bench, hand.part, step) : new Set<string>();
  const serves = (control: Control) => all || !control.serves?.length || control.serves.some((key) => keys.has(key));
  // What is mended is offered once a look was made that would show it; before that it would be a venture.
  const found = (control: Control) =>
    all ||
    control.group !== "fault-finding" ||
    !(control.does in standIn.mends) ||
    standIn.mends[control.does]!.some((look) => bench.field(lookedAt(look)).text !== "") ||
    bench.job.machine.suspects.some((one) => one.state === "shown");
  const lit = litBy(bench, standIn.doing, field);
  const offers = (control: Control) =>
    found(control) && serves(control) && (!reading || (reading.offers ?? []).includes(control.name));
  const groups = (Object.keys(GROUPS) as Group[]).filter(
    (group) =>
      (all || NEEDED[step?.kind ?? "enter"].includes(group)) &&
      (standIn.controls.some((control) => control.group === group && offers(control)) ||
        (group === "weigh" && standIn.scales.length > 0)),
  );
  return (
    <>
      <p className="live-handed-over">“{standIn.handed_over}”</p>
      <div className={all ? "live-line live-line-all" : "live-line"}>
        {groups.map((group) => (
          <div key={group} className="live-group" role="group" aria-label={GROUPS[group]}>
            <span>{GROUPS[group]}</span>
            {standIn.controls
              .filter((control) => control.group === group && offers(control))
              .map((control) => (
                <Press key={control.name} control={control} lit={lit.has(control.does)} />
              ))}
            {group === "weigh" &&
              standIn.scales.map((scale) => <Weigh key={scale.name} scale={scale} step={step} field={field} />)}
          </div>
        ))}
      </div>
      <Button variant="link" className="live-all" aria-expanded={all} onClick={() => onAll(!all)}>
        {all ? "Only what this step needs" : "All its controls"}
      </Button>
    </>
  );
}

/** One control: a press, or a figure and a press. */
function Press({ control, lit }: { control: Control; lit?: boolean }) {
  const { job } = useBench();
  const { hear } = useLive();
  const [typed, setTyped] = useState(control.figure ? String(control.figure) : "");
  const press = () => void act(job.id, control.does, control.typed ? numberIn(typed) || 0 : control.figure).then(hear);
  const named = /[a-z]/.test(control.unit ?? "") && ["factor", "constant", "turns"].includes(control.unit ?? "");
  return (
    <span className="live-press">
      {control.typed && (
        <input
          className="form-control"
          inputMode="decimal"
          aria-label={control.unit ? `${control.words}, ${control.unit}` : control.words}
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          onKeyDown={(event) => event.key === "Enter" && press()}
        />
      )}
      <Button variant={lit ? "primary" : "outline-primary"} className={lit ? "live-lit" : ""} onClick={press}>
        {control.words}
        {control.typed && !named && control.unit && ` ${control.unit}`}
      </Button>
    </span>
  );
}

/** An outside scale: its ticket goes into the row in hand, or where its figures say that they belong. */
function Weigh({ scale, step, field }: { scale: Scale; step?: StepView; field: string | null }) {
  const print = useWeigh(step, field);
  const [printed, setPrinted] = useState("");
  const weigh = async () => setPrinted(await print(scale.name));
  return (
    <>
      <Button variant="outline-primary" onClick={() => void weigh()}>
        {scale.words}
      </Button>
      {printed && <span className="soft">{printed}</span>}
    </>
  );
}
