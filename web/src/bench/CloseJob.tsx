import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import { api, asked, type PartView, Problem } from "../api/client";
import { useMe } from "../api/queries";
import { counted } from "../ui/words";
import { EntryField } from "./EntryField";
import { useBench } from "./useJob";

const OUTCOMES: Record<string, string> = {
  complete: "Complete",
  "not-confirmed": "Adjusted, not confirmed",
  limited: "Limited by the reference",
  "out-of-service": "Taken out of service",
  abandoned: "Given up, nothing decided",
};

/** What is still loose, what was set aside, what it is closed as, and by whom. */
export function CloseJob({ part }: { part: PartView }) {
  const bench = useBench();
  const cache = useQueryClient();
  const me = useMe().data;
  const { job } = bench;
  const [outcome, setOutcome] = useState<string>("");
  const [reason, setReason] = useState("");
  const [looseReason, setLooseReason] = useState("");
  const [signed, setSigned] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);

  if (job.closing) return job.practice ? <Truth job={job.id} /> : <Closed />;
  const chosen =
    outcome ||
    (job.complete
      ? "complete"
      : part.assessment.as_found || bench.field("read_back").text
        ? "not-confirmed"
        : "complete");
  const open = job.loose_ends.filter((end) => !end.done);
  const waiting = bench.box.waiting.length;
  const aside = ["runs", "as_left"].flatMap((list) =>
    bench
      .rows(list)
      .map((row, number) => ({ number: number + 1, why: bench.field(`${list}.${row.row}.set_aside`).text }))
      .filter((row) => row.why),
  );

  const close = async (event: React.FormEvent) => {
    event.preventDefault();
    setBusy(true);
    try {
      const body = { signed, outcome: chosen, reason, loose_reason: looseReason };
      const view = await asked(api.POST("/api/jobs/{job_id}/close", { params: { path: { job_id: job.id } }, body }));
      setProblem(null);
      bench.fresh(view);
      void cache.invalidateQueries({ queryKey: ["round"] });
      void cache.invalidateQueries({ queryKey: ["system", job.system.id] });
      void cache.invalidateQueries({ queryKey: ["log"] });
    } catch (raised) {
      if (raised instanceof Problem) setProblem(raised);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Form onSubmit={close} noValidate className="close-job">
      {open.length > 0 && (
        <section>
          <h3>Still loose</h3>
          {open.map((end) => (
            <div key={end.key} className="loose-row">
              <span>{end.text}</span>
              {end.tick && (
                <Button variant="outline-primary" onClick={() => bench.enter({ path: end.key, text: "done" })}>
                  Put back
                </Button>
              )}
            </div>
          ))}
          <Form.Group controlId="loose-reason" className="mt-2">
            <Form.Label>Or why they stay as they are</Form.Label>
            <Form.Control
              value={looseReason}
              maxLength={1000}
              onChange={(event) => setLooseReason(event.target.value)}
            />
            <Said problem={problem} path="loose_reason" />
          </Form.Group>
        </section>
      )}
      {aside.length > 0 && (
        <p>
          {counted(aside.length, "run")} set aside: {aside.map((row) => `run ${row.number}, ${row.why}`).join("; ")}.
        </p>
      )}
      {job.parts.some((one) => one.limits.changed) && (
        <p>Limits were changed on this job; that stands on the record.</p>
      )}
      <div className="fields">
        <EntryField path="conditions" label="Conditions" kind="string" why="weather, material, what ran beside it" />
        <EntryField path="note" label="Note for the record" kind="string" />
      </div>
      <fieldset className="outcomes">
        <legend>Close it as</legend>
        {Object.entries(OUTCOMES).map(([key, words]) => (
          <Form.Check
            key={key}
            type="radio"
            name="outcome"
            id={`outcome-${key}`}
            label={words}
            checked={chosen === key}
            onChange={() => setOutcome(key)}
          />
        ))}
        <Said problem={problem} path="outcome" />
      </fieldset>
      {chosen !== "complete" && (
        <Form.Group controlId="why" className="mb-3">
          <Form.Label>Why</Form.Label>
          <Form.Control value={reason} maxLength={1000} onChange={(event) => setReason(event.target.value)} />
          <Said problem={problem} path="reason" />
        </Form.Group>
      )}
      <div className="sign">
        <Form.Group controlId="signed">
          <Form.Label>Your name, to sign</Form.Label>
          <Form.Control
            value={signed}
            placeholder={me?.name}
            autoComplete="off"
            maxLength={120}
            onChange={(event) => setSigned(event.target.value)}
          />
        </Form.Group>
        <Button type="submit" disabled={busy || waiting > 0}>
          {job.practice ? "Close the practice" : "Close and seal"}
        </Button>
      </div>
      <Said problem={problem} path="signed" />
      {waiting > 0 && (
        <p className="asks">{counted(waiting, "entry", "entries")} must be kept first: the server is out of reach.</p>
      )}
      {problem && !problem.errors.length && <p className="wrong-text">{problem.message}</p>}
    </Form>
  );
}

function Said({ problem, path }: { problem: Problem | null; path: string }) {
  const text = problem?.at(path);
  return text ? (
    <p className="wrong-text" role="alert">
      {text}
    </p>
  ) : null;
}

/** After a practice: what was true beside what was done. */
function Truth({ job }: { job: string }) {
  const truth = useQuery({
    queryKey: ["truth", job],
    queryFn: () => asked(api.GET("/api/jobs/{job_id}/truth", { params: { path: { job_id: job } } })),
  }).data;
  if (!truth) return null;
  return (
    <div className="truth">
      <h3>What was true</h3>
      <p className="lead-text">{truth.text}</p>
      <h3>What you did</h3>
      <p className={`lead-text ${truth.good ? "good-text" : "wrong-text"}`}>
        <b>{truth.verdict}</b>
      </p>
      {truth.lines.map((line) => (
        <p key={line}>{line}</p>
      ))}
      <Link className="btn btn-primary" to="/practice">
        Another belt
      </Link>
    </div>
  );
}

function Closed() {
  const { job } = useBench();
  const closing = job.closing as Record<string, string>;
  return (
    <div>
      <p className="lead-text">
        Closed as <b>{closing.words}</b> by {closing.closed_by}.{closing.reason && ` ${closing.reason}`}
      </p>
      {job.record && (
        <p>
          <Link className="btn btn-primary" to={`/records/${job.record}`}>
            To its record and certificate
          </Link>
        </p>
      )}
    </div>
  );
}
