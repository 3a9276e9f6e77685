import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Link } from "react-router";
import type { PartView, Schemas } from "../../api/client";
import { useReferences } from "../../api/queries";
import { useBench } from "../../job/useJob";
import { type Code, labelled } from "../../ui/scan/codes";
import { Scan } from "../../ui/scan/Scan";
import { EntryField } from "../entry/EntryField";
import type { StepProps } from "./props";

/** What the plan says to arrange, in sentences. */
export function PlanStep({ part }: StepProps<"plan">) {
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

/** Which references the job names, one after the other; what the record of each says goes in with it. */
export function ReferenceChoice({ part }: { part: PartView }) {
  const bench = useBench();
  const references = useReferences().data ?? [];
  const rows = bench.rows("references").map((one) => one.row);
  const named = rows.filter(
    (row) => bench.field(`references.${row}.name`).text || bench.field(`references.${row}.id`).text,
  );
  const [more, setMore] = useState(false);
  const next = `r${Math.max(0, ...named.map((row) => Number(row.replace(/\D/g, "")) || 0)) + 1}`;
  const shown = named.length ? [...named, ...(more ? [next] : [])] : [rows[0] ?? "r1"];
  const overdue = part.assessment.reasons.some((reason) => reason.code === "reference-out-of-date");
  return (
    <>
      {shown.map((row, place) => (
        <OneReference
          key={row}
          row={row}
          title={place ? `Reference ${place + 1}` : "Reference"}
          references={references}
          overdue={overdue}
          onNamed={() => setMore(false)}
        />
      ))}
      {bench.open && named.length > 0 && !more && references.length > 1 && (
        <Button variant="link" onClick={() => setMore(true)}>
          Another reference beside it
        </Button>
      )}
      {references.length === 0 && (
        <p>
          No reference is on record yet. <Link to="/references">Add one</Link>, or type its division below.
        </p>
      )}
    </>
  );
}

interface OneProps {
  row: string;
  title: string;
  references: Schemas["ReferenceView"][];
  overdue: boolean;
  onNamed: () => void;
}

function OneReference({ row, title, references, overdue, onNamed }: OneProps) {
  const bench = useBench();
  const path = (key: string) => `references.${row}.${key}`;
  const chosen = bench.field(path("id")).text;
  const known = references.find((one) => one.id === chosen);
  const allowed = bench.field(path("allowed_by"));
  const due = bench.field(path("due"));
  const late = overdue && !!due.text && due.text < new Date().toLocaleDateString("sv");
  const named = bench.field(path("name")).text;
  const scanned = (code: Code) => {
    const found = labelled(code, references);
    if (!found) return "This is no reference on record.";
    bench.enter({ path: path("id"), text: found.id });
    onNamed();
  };
  return (
    <div className="fields">
      <div className="entry">
        <label htmlFor={`reference-${row}`}>{title}</label>
        <select
          id={`reference-${row}`}
          className="form-select"
          data-entry=""
          data-open={named ? undefined : ""}
          value={known ? chosen : ""}
          disabled={!bench.open}
          onChange={(event) => {
            bench.enter({ path: path("id"), text: event.target.value });
            onNamed();
          }}
        >
          <option value="" disabled>
            {named || "choose one"}
          </option>
          {references.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
              {one.overdue ? " (overdue)" : ""}
            </option>
          ))}
        </select>
        {bench.open && <Scan title="Which reference?" onCode={scanned} />}
        <div className="entry-says">
          {known ? [known.due_words, known.shows].filter(Boolean).join("; ") : due.text && `in date until ${due.text}`}
        </div>
      </div>
      {!!known?.weights.length && <Used path={path("used")} weights={known.weights} />}
      {(late || allowed.text) && bench.job.may_lead && (
        <EntryField path={path("allowed_by")} label="Let pass although overdue, by" kind="string" />
      )}
      {late && !bench.job.may_lead && (
        <p className="say fault">This reference is overdue. A lead may let it pass, on the record; or use another.</p>
      )}
    </div>
  );
}

/** Which weights of a set are used: what they come to, and until when they are in date, goes in with them. */
function Used({ path, weights }: { path: string; weights: Schemas["WeightRow"][] }) {
  const bench = useBench();
  const field = bench.field(path);
  const used = new Set(
    field.text
      .split(",")
      .map((one) => one.trim().toLowerCase())
      .filter(Boolean),
  );
  const turn = (label: string) => {
    const key = label.toLowerCase();
    const next = weights.filter((one) => used.has(one.label.toLowerCase()) !== (one.label.toLowerCase() === key));
    bench.enter({ path, text: next.map((one) => one.label).join(", ") });
  };
  return (
    <fieldset className="entry used">
      <legend>Which of the set</legend>
      <div className="used-weights">
        {weights.map((one) => (
          <button
            key={one.label}
            type="button"
            className="btn btn-outline-primary"
            aria-pressed={used.has(one.label.toLowerCase())}
            disabled={!bench.open}
            onClick={() => turn(one.label)}
          >
            {one.label} <small>{one.nominal}</small>
          </button>
        ))}
      </div>
      <div className="entry-says">{field.said ?? (used.size ? "" : "all of it, where none is named")}</div>
    </fieldset>
  );
}
