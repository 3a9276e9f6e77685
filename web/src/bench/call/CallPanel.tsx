import { useState } from "react";
import Button from "react-bootstrap/Button";
import Offcanvas from "react-bootstrap/Offcanvas";
import type { PartView, Schemas } from "../../api/client";
import { at } from "../../job/path";
import { useBench } from "../../job/useJob";
import { CallShape, callColour } from "../../ui/CallShape";
import { focusOn, useHand } from "../hand";
import { foundOf, sheetOf } from "../progress";
import { KeyIn } from "./KeyIn";
import { nextLook } from "./looking";
import { CouldBe, LookNext, PutRight, Unseen } from "./Machine";
import { whyAside } from "../why";

/** What is said of a part: of the one that decides, what follows for the machine, by all that is known of it. */
function useSaid(part: PartView) {
  const { machine } = useBench().job;
  return part.key === machine.about || machine.shown ? machine : part.assessment;
}

function Shape({ part, size }: { part: PartView; size?: number }) {
  const { call } = useSaid(part);
  const { down, comparison } = part.assessment;
  const have = comparison?.in_set ?? 0;
  const want = comparison?.wanted ?? Math.max(part.limits.minimum_runs, have + 1);
  return <CallShape call={call} down={down} have={have} want={want} size={size} />;
}

/** The answer to “may I touch the factor?”, always in view. */
export function CallPanel({ part }: { part: PartView }) {
  return (
    <aside className="call" aria-label="The call">
      <Verdict part={part} />
    </aside>
  );
}

function Verdict({ part }: { part: PartView }) {
  const bench = useBench();
  const answer = useSaid(part);
  const first = bench.job.machine.looks.length > 0;
  const likely = !first && bench.job.machine.otherwise !== "";
  return (
    <>
      <h2>{bench.method(part).question}</h2>
      <div aria-live="polite">
        <div className="verdict" style={{ color: callColour(answer.call) }}>
          <Shape part={part} />
          <b>{answer.headline}</b>
        </div>
        <p className="call-lead">{answer.lead}</p>
        {part.assessment.risk && <p className="call-risk">{part.assessment.risk}</p>}
      </div>
      <LookNext />
      <PutRight />
      {bench.job.not_valid.map((why) => (
        <p key={why} className="not-valid">
          <b>Not valid.</b> {why}
        </p>
      ))}
      {first && <CouldBe />}
      <KeyIn part={part} later={answer.call !== "adjust"} />
      {likely && <CouldBe />}
      <Reasons part={part} said={answer.reasons} />
      <Unseen />
      {!first && !likely && <CouldBe />}
      <Next part={part} />
    </>
  );
}

function Reasons({ part, said: reasons }: { part: PartView; said: Schemas["ReasonView"][] }) {
  const bench = useBench();
  const hand = useHand();
  const answer = part.assessment;
  const hasLeft = bench.rows(at(part.key, "as_left")).length > 0;
  const list = at(part.key, hasLeft ? "as_left" : "runs");
  const said = new Set([...answer.reasons, ...reasons].map((reason) => reason.text));
  // What stands as the lead, with the look to make, or as the one number, is not said twice.
  const listed = reasons.filter((reason) => reason.code !== "look-first" && reason.code !== "otherwise");
  const checks = answer.checks.filter((check) => check.state !== "pass" && !said.has(check.text));
  const ends = bench.job.loose_ends.filter((end) => !end.done);
  const runAt = (place: number | null | undefined) => (place == null ? undefined : bench.rows(list)[place]?.row);
  return (
    <ul className="reasons">
      {listed.map((reason) => (
        <li key={reason.code + reason.text}>{reason.text}</li>
      ))}
      {answer.suggestions.map((suggestion) => {
        const row = runAt(suggestion.run);
        const other = bench.job.parts.find((one) => one.method === suggestion.code);
        const first = other && bench.job.sheet.find((one) => one.part === other.key)?.steps[0];
        return (
          <li key={suggestion.text}>
            {suggestion.text}
            {row && bench.open && (
              <Button
                variant="outline-primary"
                className="reason-act"
                onClick={() => hand.ask(whyAside(bench, list, row))}
              >
                Set run {suggestion.run! + 1} aside
              </Button>
            )}
            {other && first && bench.open && (
              <Button variant="outline-primary" className="reason-act" onClick={() => hand.go(other.key, first)}>
                Go to {other.title.toLowerCase()}
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
  const { in_set: count = 0, spread } = part.assessment.comparison ?? {};
  if (count < 2 || spread == null || !part.limits.repeat) return null;
  return (
    <li>
      {count} runs agree within {spread.toFixed(2)}&nbsp;%; up to {part.limits.repeat.replace(" ", "\u00a0")} counts as
      repeating.
    </li>
  );
}

/** What to do next, as one button. */
function Next({ part }: { part: PartView }) {
  const bench = useBench();
  const hand = useHand();
  const answer = part.assessment;
  const { call } = useSaid(part);
  if (!bench.open || (call !== answer.call && !bench.field(at(part.key, "read_back")).text)) return null;
  const sheet = sheetOf(bench);
  const closing = sheet.find(({ step }) => step.kind === "close");
  const deciding = bench.job.decides === part.key;
  if (answer.call === "leave" && closing && deciding && hand.step !== closing.step.key)
    return (
      <Button className="call-next" onClick={() => hand.go(closing.part.key, closing.step.key)}>
        Write it up
      </Button>
    );
  const found = foundOf(part);
  if (found.call !== "adjust" || !found.key_in) return null;
  const path = at(part.key, "read_back");
  const left = sheet.find((one) => one.part.key === part.key && one.step.kind === "tally" && one.step.stage === "left");
  if (!bench.field(path).text)
    return (
      <Button className="call-next" onClick={() => focusOn(path)}>
        Key it in, then read back
      </Button>
    );
  if (!left || answer.as_found) return null;
  return (
    <Button className="call-next" onClick={() => hand.go(left.part.key, left.step.key)}>
      Go on to {left.step.title.toLowerCase()}
    </Button>
  );
}

/** On a tablet upright and a phone the call is a bar at the bottom, which opens. */
export function CallBar({ part }: { part: PartView }) {
  const [open, setOpen] = useState(false);
  const bench = useBench();
  const key = foundOf(part).key_in;
  const ends = bench.job.loose_ends.filter((end) => !end.done).length;
  const invalid = bench.job.not_valid.length > 0;
  const answer = useSaid(part);
  const look = nextLook(bench);
  return (
    <>
      <button type="button" className="call-bar" onClick={() => setOpen(true)} aria-haspopup="dialog">
        <Shape part={part} size={34} />
        <span className="call-bar-words" style={{ color: callColour(answer.call) }} aria-live="polite">
          <b>{answer.headline}</b>
          <small>{look && answer.call !== "leave" ? look.words : answer.reasons[0]?.text}</small>
        </span>
        {key?.figure && answer.call === "adjust" && <strong>{key.figure}</strong>}
        {(ends > 0 || invalid) && (
          <em>{[invalid && "not valid", ends && `${ends} loose`].filter(Boolean).join(", ")}</em>
        )}
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
