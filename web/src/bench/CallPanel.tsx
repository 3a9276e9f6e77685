import { useState } from "react";
import Button from "react-bootstrap/Button";
import Offcanvas from "react-bootstrap/Offcanvas";
import type { PartView } from "../api/client";
import { CallShape, callColour } from "../ui/CallShape";
import { figure } from "../ui/words";
import { EntryField } from "./EntryField";
import { focusOn, useHand } from "./hand";
import { sheetOf } from "./progress";
import { at, useBench } from "./useJob";

const found = (part: PartView) => part.assessment.as_found ?? part.assessment;

/** Whether the reading will go down, for the wedge. */
export const goesDown = (part: PartView) =>
  (figure(part.assessment.results, "mean_error") ?? figure(part.assessment.results, "error") ?? 0) > 0 ||
  (figure(part.assessment.results, "percent_change") ?? 0) < 0;

function Shape({ part, size }: { part: PartView; size?: number }) {
  const results = part.assessment.results;
  const have = figure(results, "runs_in_set") ?? 0;
  const want = figure(results, "runs_needed") ?? Math.max(part.limits.minimum_runs, have + 1);
  return <CallShape call={part.assessment.call} down={goesDown(part)} have={have} want={want} size={size} />;
}

/** The answer to “may I touch the factor?”, always in view. */
export function CallPanel({ part }: { part: PartView }) {
  return (
    <aside className="call" aria-label="The call">
      <Verdict part={part} />
    </aside>
  );
}

const QUESTIONS: Record<string, string> = {
  "cell-check": "Are the cells in order?",
  "corner-test": "Do the corners agree?",
  "belt-zero": "Does the zero hold?",
  "belt-length": "How long is the belt?",
  "data-sheet-span": "What do I key in?",
  "output-check": "Does the output follow?",
  "set-up-sheet": "What was changed?",
  "zero-span": "Do zero and span hold?",
};

function Verdict({ part }: { part: PartView }) {
  const answer = part.assessment;
  return (
    <>
      <h2>{QUESTIONS[part.method] ?? "May I touch the factor?"}</h2>
      <div aria-live="polite">
        <div className="verdict" style={{ color: callColour(answer.call) }}>
          <Shape part={part} />
          <b>{answer.headline}</b>
        </div>
        <p className="call-lead">{answer.lead}</p>
      </div>
      <KeyIn part={part} />
      <Reasons part={part} />
      <Next part={part} />
    </>
  );
}

const FORMS: Record<string, string> = {
  factor: "Key in as",
  percent: "Key in a change of",
};

/** The figure to key in, in the form that this instrument takes, and what it then shows. */
export function KeyIn({ part }: { part: PartView }) {
  const bench = useBench();
  const key = found(part).key_in;
  const { correction, factor_name } = bench.job.system;
  if (!key) return null;
  const inForm = correction === "factor" ? key.factor : correction === "percent" ? `${key.percent} %` : key.figure;
  const decimals = key.factor?.split(".")[1]?.length;
  const question = bench.job.read_back_question;
  const form =
    correction === "factor"
      ? `Key in as ${factor_name}${decimals !== undefined ? `, ${decimals} decimals` : ""}`
      : (key.form ?? FORMS[correction] ?? "Key in");
  return (
    <div className="key-in">
      <span>{form}</span>
      <strong className={inForm ? "" : "key-missing"}>{inForm ?? `${key.percent} %`}</strong>
      <p>
        {key.was
          ? `was ${key.was}, ${key.change}. `
          : "The factor in the instrument was not typed, so the change is given. "}
        {key.would_read && `With it these runs would have read ${key.would_read}.`}
        {key.rounding && key.rounding !== "0.00 %" && key.rounding !== "0.0000 %" && ` Rounding costs ${key.rounding}.`}
      </p>
      <div data-sheet="" className="read-back">
        <EntryField path="read_back" label="Instrument now shows" kind="number" />
      </div>
      {question && <p className="asks">{question}</p>}
    </div>
  );
}

function Reasons({ part }: { part: PartView }) {
  const bench = useBench();
  const hand = useHand();
  const answer = part.assessment;
  const hasLeft = bench.rows(at(part.key, "as_left")).length > 0;
  const list = at(part.key, hasLeft ? "as_left" : "runs");
  const said = new Set(answer.reasons.map((reason) => reason.text));
  const checks = answer.checks.filter((check) => check.state !== "pass" && !said.has(check.text));
  const ends = bench.job.loose_ends.filter((end) => !end.done);
  const runAt = (place: number | null | undefined) => (place == null ? undefined : bench.rows(list)[place]?.row);
  return (
    <ul className="reasons">
      {answer.reasons.map((reason) => (
        <li key={reason.code + reason.text}>{reason.text}</li>
      ))}
      {answer.suggestions.map((suggestion) => {
        const row = runAt(suggestion.run);
        return (
          <li key={suggestion.text}>
            {suggestion.text}
            {row && bench.open && (
              <Button variant="outline-primary" className="reason-act" onClick={() => hand.aside(list, row)}>
                Set run {suggestion.run! + 1} aside
              </Button>
            )}
          </li>
        );
      })}
      {answer.slips.map((slip) => (
        <li key={slip.text + slip.of} className="slip">
          {slip.of === "nominal" && "Factor against its nominal: "}
          {slip.text}
        </li>
      ))}
      {answer.look.length > 0 && (
        <li className="look-at">
          <b>Where to look</b>
          <ol>
            {answer.look.map((where) => (
              <li key={where}>{where}</li>
            ))}
          </ol>
        </li>
      )}
      {checks.map((check) => (
        <li key={check.code + check.text} className={check.state}>
          {check.text}
        </li>
      ))}
      {answer.call !== "not-ready" && answer.call !== "find-fault" && <Repeats part={part} />}
      {ends.map((end) => (
        <li key={end.key} className="loose">
          {end.text}
          {end.tick && bench.open && (
            <Button variant="link" onClick={() => bench.enter({ path: end.key, text: "done" })}>
              Put back
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}

function Repeats({ part }: { part: PartView }) {
  const results = part.assessment.results;
  const count = figure(results, "runs_in_set") ?? 0;
  const spread = figure(results, "spread");
  if (count < 2 || spread === undefined || !part.limits.repeat) return null;
  return (
    <li>
      {count} runs agree within {spread.toFixed(2)} %; up to {part.limits.repeat} counts as repeating.
    </li>
  );
}

/** What to do next, as one button. */
function Next({ part }: { part: PartView }) {
  const bench = useBench();
  const hand = useHand();
  const answer = part.assessment;
  const steps = bench.methods.get(part.method)?.steps ?? [];
  const has = (key: string) => steps.some((step) => step.key === key);
  if (!bench.open) return null;
  const closing = sheetOf(bench).find(({ step }) => step.kind === "close");
  if (answer.call === "leave" && hand.step !== "close" && closing && !part.key)
    return (
      <Button className="call-next" onClick={() => hand.go(closing.part.key, closing.step.key)}>
        Write it up
      </Button>
    );
  if (answer.call === "adjust" && !answer.as_found && has("as-left")) {
    const read = bench.field("read_back").text;
    return (
      <Button
        className="call-next"
        onClick={() => {
          if (read) hand.go(part.key, "as-left");
          else focusOn("read_back");
        }}
      >
        {read ? "Go on to as left" : "Key it in, then read back"}
      </Button>
    );
  }
  return null;
}

/** On a tablet upright and a phone the call is a bar at the bottom, which opens. */
export function CallBar({ part }: { part: PartView }) {
  const [open, setOpen] = useState(false);
  const key = found(part).key_in;
  const bench = useBench();
  const ends = bench.job.loose_ends.filter((end) => !end.done).length;
  return (
    <>
      <button type="button" className="call-bar" onClick={() => setOpen(true)} aria-haspopup="dialog">
        <Shape part={part} size={34} />
        <span className="call-bar-words" style={{ color: callColour(part.assessment.call) }} aria-live="polite">
          <b>{part.assessment.headline}</b>
          <small>{part.assessment.reasons[0]?.text}</small>
        </span>
        {key?.factor && bench.job.system.correction === "factor" && <strong>{key.factor}</strong>}
        {ends > 0 && <em>{ends} loose</em>}
      </button>
      <Offcanvas show={open} onHide={() => setOpen(false)} placement="bottom" className="call-sheet">
        <Offcanvas.Header closeButton>
          <Offcanvas.Title>The call</Offcanvas.Title>
        </Offcanvas.Header>
        <Offcanvas.Body className="call">
          <Verdict part={part} />
        </Offcanvas.Body>
      </Offcanvas>
    </>
  );
}
