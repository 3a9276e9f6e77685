import { useEffect, useState } from "react";
import Button from "react-bootstrap/Button";
import type { StepKind, StepView } from "../../api/client";
import { useBench } from "../../job/useJob";
import { numberIn, spoken } from "../../ui/quantity";
import { act, type Control, fitting, ticket, useLive } from "./live";

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
  enter: ["run", "load", "time"],
  plan: [],
  tally: ["run", "load", "weigh", "time"],
  rows: ["run", "set", "time"],
  sheet: ["set"],
  figures: ["set"],
  adjust: ["set"],
  close: ["run", "load"],
};

/** A machine's front: its readouts large, then its controls in groups, each one line, and only what the step needs. */
export function StandIn({ step }: { step?: StepView }) {
  const bench = useBench();
  const live = useLive();
  const [field, setField] = useState<string | null>(null);
  const [all, setAll] = useState(false);
  const { reading } = live;

  useEffect(() => {
    const note = (event: FocusEvent) => {
      const path = event.target instanceof HTMLInputElement ? event.target.dataset.path : undefined;
      if (path) setField(path);
    };
    addEventListener("focusin", note);
    return () => removeEventListener("focusin", note);
  }, []);

  const found = reading && field ? fitting(field, reading) : null;
  const capture = () => {
    if (field && found)
      bench.enter({ path: field, text: found.capture, unit: found.unit, source: "captured", steady: found.steady });
  };
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const target = event.target instanceof HTMLInputElement ? event.target : null;
      if (event.key !== "c" || event.ctrlKey || event.metaKey || event.altKey || (target && target.value !== ""))
        return;
      if (!found) return;
      event.preventDefault();
      capture();
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  });
  if (!live.linked) return null;
  const groups = (Object.keys(GROUPS) as Group[]).filter(
    (group) => all || NEEDED[step?.kind ?? "enter"].includes(group),
  );
  return (
    <section className="stand-in" aria-label="Stand-in">
      <div className="stand-in-display" aria-live="off">
        {live.silent ? (
          <p className="stand-in-silent" role="alert">
            The stand-in is silent. Type the readings; they are taken in as before.
          </p>
        ) : (
          <>
            {reading?.readouts.map((one) => (
              <span key={one.key} className="stand-in-figure">
                <b>{one.text}</b> <small>{spoken(one.unit)}</small>
                <i>{one.title}</i>
              </span>
            ))}
            <span className={reading?.readouts[0]?.steady ? "steady" : "unsteady"}>
              {reading ? (reading.readouts[0]?.steady ? "steady" : "moving") : "listening"}
            </span>
          </>
        )}
      </div>
      <div className="stand-in-groups">
        {groups.map((group) => (
          <div key={group} className="stand-in-group" role="group" aria-label={GROUPS[group]}>
            <span>{GROUPS[group]}</span>
            {live.controls
              .filter((control) => control.group === group && (!reading || reading.offers?.includes(control.name)))
              .map((control) => (
                <Press key={control.name} control={control} />
              ))}
            {group === "weigh" && <Weigh field={field} step={step} />}
          </div>
        ))}
        <Button className="stand-in-capture" disabled={!found} onClick={capture}>
          Capture{found ? ` ${found.capture} ${spoken(found.unit)}` : ""} <kbd>c</kbd>
        </Button>
        <Button variant="link" className="stand-in-all" aria-expanded={all} onClick={() => setAll(!all)}>
          {all ? "Only what this step needs" : "All its controls"}
        </Button>
      </div>
    </section>
  );
}

/** One control: a press, or a figure and a press. */
function Press({ control }: { control: Control }) {
  const { job } = useBench();
  const [typed, setTyped] = useState(control.figure ? String(control.figure) : "");
  const press = () => void act(job.id, control.does, control.typed ? numberIn(typed) || 0 : control.figure);
  return (
    <span className="stand-in-press">
      {control.typed && (
        <input
          className="form-control"
          inputMode="decimal"
          aria-label={`${control.words}, ${control.unit}`}
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
      )}
      <Button variant="outline-primary" onClick={press}>
        {control.words}
        {control.typed && control.unit !== "factor" && ` ${control.unit}`}
      </Button>
    </span>
  );
}

/** The outside scale: its ticket goes into the run in hand. */
function Weigh({ field, step }: { field: string | null; step?: StepView }) {
  const bench = useBench();
  const [printed, setPrinted] = useState("");
  const list = step?.kind === "tally" ? (step.list ?? "runs") : "runs";
  const weigh = async () => {
    const got = await ticket(bench.job.id);
    setPrinted(got.title);
    const row = field?.startsWith(`${list}.`) ? field.split(".")[1] : undefined;
    if (row)
      bench.enter(
        ...got.figures.map(({ into, text, unit }) => ({
          path: `${list}.${row}.${into}`,
          text,
          unit,
          source: "captured" as const,
          steady: true,
        })),
      );
  };
  return (
    <>
      <Button variant="outline-primary" onClick={() => void weigh()}>
        Weigh the lorry
      </Button>
      {printed && <span className="soft">{printed}</span>}
    </>
  );
}
