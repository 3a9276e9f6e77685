import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Link } from "react-router";
import type { PartView, StepView } from "../api/client";
import { useReferences } from "../api/queries";
import { CloseJob } from "./CloseJob";
import { EntryField, MethodField } from "./EntryField";
import { useHand } from "./hand";
import { KeyIn } from "./CallPanel";
import { StepList } from "./lists";
import { RunDock } from "./RunDock";
import { BringRows, figured } from "./rows";
import { Settings } from "./Settings";
import { Tally } from "./Tally";
import { at, useBench } from "./useJob";

interface StepProps {
  part: PartView;
  step: StepView;
}

/** What one step of the run sheet asks for, with its cautions where they bite. */
export function StepBody({ part, step }: StepProps) {
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
      {step.cautions.length > 0 && <Cautions part={part} step={step} />}
      {step.items.length > 0 && <Look part={part} step={step} />}
      {step.kind === "plan" && <Reference part={part} />}
      {step.fields.length > 0 && <Fields part={part} fields={step.fields} />}
      {step.kind === "plan" && <Plan part={part} />}
      {step.kind === "runs" && <Runs part={part} step={step} />}
      {LISTS.includes(step.kind) && <StepList part={part} step={step} />}
      {step.kind === "settings" && <Settings part={part} list={step.runs!} />}
      {step.kind === "figures" && <KeyFigures part={part} />}
      {step.kind === "adjust" && <Adjust part={part} />}
      {step.kind === "close" && <CloseJob part={part} />}
    </section>
  );
}

const LISTS = ["rows", "cells", "passes", "corners", "points", "list", "revolutions", "idle"];

const KEYED: [string, string][] = [
  ["zero_signal", "Empty"],
  ["span_signal", "Full, beyond empty"],
  ["mean_sensitivity", "Mean sensitivity"],
  ["rated_load", "All cells together"],
  ["usable_capacity", "Usable capacity"],
  ["signal_per_division", "One division"],
  ["share_used", "Share of the cells used"],
];

/** Figures to key in, large, with where they come from. */
function KeyFigures({ part }: { part: PartView }) {
  const rows = KEYED.filter(([name]) => part.assessment.results[name]);
  if (!rows.length) return <p className="lead-text">The plates and loads come first.</p>;
  return (
    <dl className="key-figures">
      {rows.map(([name, title]) => (
        <div key={name}>
          <dt>{title}</dt>
          <dd>{figured(part.assessment.results[name])}</dd>
        </div>
      ))}
    </dl>
  );
}

function Cautions({ part, step }: StepProps) {
  const bench = useBench();
  const path = at(part.key, `caution.${step.key}`);
  const seen = bench.field(path).text === "yes";
  return (
    <div className={`cautions${seen ? " seen" : ""}`}>
      <div>
        {step.cautions.map((caution) => (
          <p key={caution}>{caution}</p>
        ))}
      </div>
      <Tick path={path} text={seen ? "seen" : "I have seen to it"} />
    </div>
  );
}

/** A tick as large as a thumb. */
function Tick({ path, text, danger }: { path: string; text: string; danger?: boolean }) {
  const bench = useBench();
  const ticked = bench.field(path).text === "yes";
  return (
    <label className={`tick${danger ? " tick-loose" : ""}`}>
      <input
        type="checkbox"
        className="form-check-input"
        data-entry=""
        data-path={path}
        checked={ticked}
        disabled={!bench.open}
        onChange={(event) => bench.enter({ path, text: event.target.checked ? "yes" : "no" })}
        onKeyDown={(event) => {
          if (event.key !== "Enter") return;
          event.preventDefault();
          bench.enter({ path, text: ticked ? "no" : "yes" });
          const scope = event.currentTarget.closest("[data-sheet]");
          const all = [...(scope?.querySelectorAll<HTMLElement>("[data-entry]") ?? [])];
          all[all.indexOf(event.currentTarget) + 1]?.focus();
        }}
      />
      <span>{text}</span>
    </label>
  );
}

function Look({ part, step }: StepProps) {
  const plain = step.items.filter((item) => !item.loose_end);
  const loose = step.items.filter((item) => item.loose_end);
  const tick = (key: string) => at(part.key, `tick.${step.key}.${key}`);
  return (
    <div className="look">
      <div>
        {plain.map((item) => (
          <Tick key={item.key} path={tick(item.key)} text={item.text} />
        ))}
      </div>
      {loose.length > 0 && (
        <div>
          <h3>Changed for the test, to be put back</h3>
          {loose.map((item) => (
            <Tick key={item.key} path={tick(item.key)} text={item.text} danger />
          ))}
        </div>
      )}
    </div>
  );
}

function Fields({ part, fields }: { part: PartView; fields: string[] }) {
  const bench = useBench();
  const inputs = bench.methods.get(part.method)?.inputs ?? [];
  return (
    <div className="fields">
      {fields.map((key) => {
        const input = inputs.find((one) => one.key === key);
        return input && <MethodField key={key} part={part.key} input={input} />;
      })}
    </div>
  );
}

/** Which reference the job names; what its record says goes in with it. */
function Reference({ part }: { part: PartView }) {
  const bench = useBench();
  const references = useReferences().data ?? [];
  const row = bench.rows("references")[0]?.row ?? "r1";
  const chosen = bench.field(`references.${row}.id`).text;
  const known = references.find((one) => one.id === chosen);
  const allowed = bench.field(`references.${row}.allowed_by`);
  const due = bench.field(`references.${row}.due`);
  const overdue = part.assessment.reasons.some((reason) => reason.code === "reference-out-of-date");
  return (
    <div className="fields">
      <div className="entry">
        <label htmlFor="reference">Reference</label>
        <select
          id="reference"
          className="form-select"
          data-entry=""
          value={known ? chosen : ""}
          disabled={!bench.open}
          onChange={(event) => bench.enter({ path: `references.${row}.id`, text: event.target.value })}
        >
          <option value="" disabled>
            {bench.field(`references.${row}.name`).text || "choose one"}
          </option>
          {references.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
              {one.overdue ? " (overdue)" : ""}
            </option>
          ))}
        </select>
        <div className="entry-says">
          {known ? `${known.due_words}. ${known.shows}` : due.text && `in date until ${due.text}`}
        </div>
      </div>
      {(overdue || allowed.text) && bench.job.may_lead && (
        <EntryField path={`references.${row}.allowed_by`} label="Let pass although overdue, by" kind="string" />
      )}
      {overdue && !bench.job.may_lead && (
        <p className="say fault">This reference is overdue. A lead may let it pass, on the record; or use another.</p>
      )}
      {references.length === 0 && (
        <p>
          No reference is on record yet. <Link to="/references">Add one</Link>, or type its division below.
        </p>
      )}
    </div>
  );
}

function Plan({ part }: { part: PartView }) {
  const plan = part.assessment.plan;
  if (!plan.length) return null;
  return (
    <ul className="plan">
      {plan.map((sentence) => (
        <li key={sentence}>{sentence}</li>
      ))}
    </ul>
  );
}

function Runs({ part, step }: StepProps) {
  const bench = useBench();
  const [noneFound, setNoneFound] = useState(false);
  const list = step.runs!;
  const usual = bench.job.system.plates.rated_rate?.endsWith("ston/h")
    ? "ston"
    : ["belt", "chain"].some((kind) => bench.job.system.kind.startsWith(kind))
      ? "t"
      : "kg";
  const first = ["first", "repair"].includes(bench.field("occasion").text);
  return (
    <>
      <div className="tally-frame">
        <Tally part={part} />
      </div>
      <RunDock list={at(part.key, list)} usual={usual} />
      <BringRows full={at(part.key, list)} />
      {list === "runs" && first && !noneFound && !bench.rows(at(part.key, "runs")).length && (
        <Button variant="link" onClick={() => setNoneFound(true)}>
          There is nothing as found: say why
        </Button>
      )}
      {(noneFound || bench.field("no_as_found").text) && (
        <EntryField path="no_as_found" label="Why there are no as-found runs" kind="string" />
      )}
    </>
  );
}

function Adjust({ part }: { part: PartView }) {
  const found = part.assessment.as_found ?? part.assessment;
  const hand = useHand();
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
      <Button className="mt-3" onClick={() => hand.go(part.key, "as-left")}>
        Keyed in: go on to as left
      </Button>
    </>
  );
}
