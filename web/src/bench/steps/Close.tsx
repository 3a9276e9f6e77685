import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link, useNavigate } from "react-router";
import { api, asked, Problem, type Schemas } from "../../api/client";
import { useMe } from "../../api/queries";
import { signedIn } from "../../api/session";
import { at } from "../../job/path";
import { notToSeal, toSeal } from "../../job/pending";
import type { Sealing } from "../../job/store";
import { type Bench, useBench } from "../../job/useJob";
import { toClose, useNextToWriteUp } from "../../round/writeUp";
import { useAttachments } from "../../attachments/attachments";
import { useHeld } from "../../ui/held";
import { Said } from "../../ui/TextField";
import { counted, moment } from "../../ui/words";
import { EntryField } from "../entry/EntryField";

type Outcome = Schemas["WayView"]["outcome"];

/** Closes it at the server; out of reach it is closed on this device, to be sealed when the server has every entry. */
async function closed(bench: Bench, body: Schemas["CloseIn"]) {
  const { id } = bench.job;
  const here = async () => {
    const { errors, expected } = await bench.local.closing(body);
    if (errors.length) throw new Problem(409, "Not ready to close", "Something is still open.", errors);
    await toSeal({ job: id, name: bench.job.system.name, close: { ...body, expected }, at: new Date().toISOString() });
    return null;
  };
  if (bench.here.works && (bench.opening || bench.box.held === "offline")) return here();
  try {
    return await asked(api.POST("/api/jobs/{job_id}/close", { params: { path: { job_id: id } }, body }));
  } catch (wrong) {
    if (bench.here.works && wrong instanceof Problem && wrong.status === 0) return here();
    throw wrong;
  }
}

/** What is still loose, what was set aside, what it is closed as, and by whom. */
export function CloseStep() {
  const bench = useBench();
  const { job } = bench;
  if (bench.sealing && !bench.sealing.back) return <ClosedHere sealing={bench.sealing} />;
  if (job.closing) return job.practice ? <ToTheTruth job={job.id} /> : <Closed />;
  return <Closing />;
}

/** Every run that was set aside in any part, with its reason. */
const setAside = (bench: Bench) =>
  bench.job.parts.flatMap((part) =>
    bench
      .method(part)
      .inputs.filter((input) => input.fields?.some((one) => one.key === "set_aside"))
      .flatMap((input) => {
        const list = at(part.key, input.key);
        return bench.rows(list).map((row, number) => ({
          number: number + 1,
          why: bench.field(`${list}.${row.row}.set_aside`).text,
        }));
      })
      .filter((row) => row.why),
  );

function Closing() {
  const bench = useBench();
  const cache = useQueryClient();
  const navigate = useNavigate();
  const me = useMe().data;
  const { job } = bench;
  // What came back from the server is as it was signed.
  const before = bench.sealing?.close;
  const { typed, hold, letGo } = useHeld(`close ${signedIn()} ${job.id}`, {
    outcome: (before?.outcome ?? "") as Outcome | "",
    reason: before?.reason ?? "",
    loose_reason: before?.loose_reason ?? "",
    fault: before?.fault ?? "",
    told: before?.told ?? "",
    suspect: before?.suspect ?? "",
    signed: before?.signed ?? me?.name ?? "",
  });
  const [all, setAll] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  const possible = job.ways.filter((way) => !way.why_not);
  const others = job.ways.filter((way) => way.why_not);
  // Only what the calls speak for is chosen beforehand; anything less is chosen by whoever signs.
  const chosen = typed.outcome || job.ways.find((way) => way.spoken_for)?.outcome;
  const open = job.loose_ends.filter((end) => !end.done);
  const waiting = bench.box.waiting.length;
  const attachments = useAttachments();
  const photographs = attachments?.waiting.length ?? 0;
  const away = bench.here.works && (bench.box.held === "offline" || !!bench.opening);
  const aside = setAside(bench);
  const text = (key: keyof typeof typed, label: string, long = 1000) => (
    <Form.Group controlId={`close-${key}`} className="mb-2">
      <Form.Label>{label}</Form.Label>
      <Form.Control
        value={typed[key]}
        maxLength={long}
        autoComplete="off"
        placeholder={key === "signed" ? me?.name : undefined}
        onChange={(event) => hold({ ...typed, [key]: event.target.value })}
      />
      <Said problem={problem} path={key} />
    </Form.Group>
  );

  const close = async (event: React.FormEvent) => {
    event.preventDefault();
    if (!chosen) {
      setProblem(new Problem(422, "Not closed yet", "", [{ path: "outcome", text: "Choose how it is closed." }]));
      return;
    }
    setBusy(true);
    try {
      const view = await closed(bench, { ...typed, outcome: chosen });
      setProblem(null);
      // What is closed on this device may be taken back, or come back: then it stands there as it was.
      if (!view) return;
      letGo();
      await notToSeal(job.id);
      bench.fresh(view);
      if (job.practice) navigate(`/practice/${job.id}`);
      void cache.invalidateQueries({ queryKey: ["round"] });
      void cache.invalidateQueries({ queryKey: ["system", job.system.id] });
      for (const key of ["log", "record", "references", "trace"]) void cache.invalidateQueries({ queryKey: [key] });
    } catch (raised) {
      if (raised instanceof Problem) setProblem(raised);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Form onSubmit={close} noValidate className="close-job">
      {bench.sealing?.back && (
        <div className="say fault" role="alert">
          <strong>It was closed on this device, and came back</strong>
          <p>{bench.sealing.back}</p>
        </div>
      )}
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
          {text("loose_reason", "Or why they stay as they are")}
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
      {job.not_valid.map((why) => (
        <p key={why} className="not-valid">
          <b>Not valid.</b> {why}
        </p>
      ))}
      <fieldset className="outcomes">
        <legend>Close it as</legend>
        {(all ? job.ways : possible).map((way) => (
          <Form.Check
            key={way.outcome}
            type="radio"
            name="outcome"
            id={`outcome-${way.outcome}`}
            label={way.words[0]!.toUpperCase() + way.words.slice(1)}
            checked={chosen === way.outcome}
            onChange={() => hold({ ...typed, outcome: way.outcome })}
          />
        ))}
        {others.length > 0 && !all && (
          <Button variant="link" onClick={() => setAll(true)}>
            Why not {others.map((way) => way.words).join(", or ")}?
          </Button>
        )}
        {all &&
          others.map((way) => (
            <p key={way.outcome} className="soft">
              {way.words[0]!.toUpperCase() + way.words.slice(1)}: {way.why_not}
            </p>
          ))}
        <Said problem={problem} path="outcome" />
      </fieldset>
      {chosen === "left-for-repair" && (
        <>
          <Form.Group controlId="close-suspect" className="mb-2">
            <Form.Label>What was found</Form.Label>
            <Form.Select
              value={typed.suspect || job.machine.shown || "-"}
              onChange={(event) => hold({ ...typed, suspect: event.target.value })}
            >
              <option value="-">something else, said below</option>
              {job.machine.suspects.map((one) => (
                <option key={one.key} value={one.key}>
                  {one.title}
                </option>
              ))}
            </Form.Select>
          </Form.Group>
          {text("fault", "What is wrong with it")}
          {text("told", "Who was told", 120)}
        </>
      )}
      {chosen && chosen !== "complete" && chosen !== "left-for-repair" && text("reason", "Why")}
      <div className="sign">
        {text("signed", "Your name, to sign", 120)}
        <Button type="submit" className="mb-2" disabled={busy || (!away && waiting + photographs > 0)}>
          {away ? "Close on this device" : job.practice ? "Close the practice" : "Close and seal"}
        </Button>
      </div>
      {away && <p className="asks">Without signal it is closed here, and sealed once the server has all of it.</p>}
      {!away && waiting > 0 && (
        <p className="asks">{counted(waiting, "entry", "entries")} must be kept first: the server is out of reach.</p>
      )}
      {!away && photographs > 0 && (
        <p className="asks">
          {counted(photographs, "photograph")} must be kept first, since none comes in after the seal
          {attachments?.held ? ": the server is out of reach." : "."}
        </p>
      )}
      {problem && !problem.errors.length && <p className="wrong-text">{problem.message}</p>}
    </Form>
  );
}

/** It is closed as far as this device goes; it can be taken back until the server has sealed it. */
function ClosedHere({ sealing }: { sealing: Sealing }) {
  const { job } = useBench();
  return (
    <div>
      <p className="lead-text">
        Closed on this device by {sealing.close.signed}, {moment(sealing.at, job.system.time_zone)}:{" "}
        <b>{sealing.close.expected?.headline}</b>, {counted(sealing.close.expected?.entries ?? 0, "entry", "entries")}.
      </p>
      <p>The server seals it once it has all of it, and judges again; should anything differ, it comes back to you.</p>
      <Button variant="outline-primary" onClick={() => void notToSeal(job.id)}>
        Take it back and go on
      </Button>
    </div>
  );
}

/** A practice that is closed says what was true on a page of its own. */
function ToTheTruth({ job }: { job: string }) {
  return (
    <p>
      <Link className="btn btn-primary" to={`/practice/${job}`}>
        What was true
      </Link>
    </p>
  );
}

function Closed() {
  const { job } = useBench();
  const closing = job.closing!;
  const next = useNextToWriteUp(job.id);
  const navigate = useNavigate();
  return (
    <div>
      <p className="lead-text">
        Closed as <b>{closing.words}</b> by {closing.closed_by}.{closing.reason && ` ${closing.reason}`}
        {closing.fault && ` ${closing.fault}. Told: ${closing.told}.`}
      </p>
      {job.record && (
        <p>
          <Link className="btn btn-primary" to={`/records/${job.record}`}>
            To its record and certificate
          </Link>
        </p>
      )}
      {next && (
        <p>
          <Button
            variant="outline-primary"
            autoFocus
            onClick={() => {
              toClose(next.job);
              navigate(`/jobs/${next.job}`);
            }}
          >
            Next to write up: {next.system}
          </Button>
        </p>
      )}
    </div>
  );
}
