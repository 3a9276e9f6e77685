import { Link } from "react-router";
import type { PartView } from "../../api/client";
import { useReferences } from "../../api/queries";
import { useBench } from "../../job/useJob";
import { EntryField } from "../entry/EntryField";
import type { StepProps } from "./StepBody";

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

/** Which reference the job names; what its record says goes in with it. */
export function ReferenceChoice({ part }: { part: PartView }) {
  const bench = useBench();
  const references = useReferences().data ?? [];
  const row = bench.rows("references")[0]?.row ?? "r1";
  const chosen = bench.field(`references.${row}.id`).text;
  const known = references.find((one) => one.id === chosen);
  const allowed = bench.field(`references.${row}.allowed_by`);
  const due = bench.field(`references.${row}.due`);
  const overdue = part.assessment.reasons.some((reason) => reason.code === "reference-out-of-date");
  const named = bench.field(`references.${row}.name`).text;
  return (
    <div className="fields">
      <div className="entry">
        <label htmlFor="reference">Reference</label>
        <select
          id="reference"
          className="form-select"
          data-entry=""
          data-open={named ? undefined : ""}
          value={known ? chosen : ""}
          disabled={!bench.open}
          onChange={(event) => bench.enter({ path: `references.${row}.id`, text: event.target.value })}
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
        <div className="entry-says">
          {known ? [known.due_words, known.shows].filter(Boolean).join("; ") : due.text && `in date until ${due.text}`}
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
