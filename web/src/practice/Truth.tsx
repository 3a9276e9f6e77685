import { useQuery } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import { Link, useParams } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { CallShape } from "../ui/CallShape";
import { Fault } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { useBegin } from "./Practice";

type StoryRow = Schemas["StoryRow"];

/** What was true of a practice machine, beside what was done, and when it could have been known. */
export function Truth() {
  const { id = "" } = useParams();
  const begin = useBegin();
  const truth = useQuery({
    queryKey: ["truth", id],
    queryFn: () => asked(api.GET("/api/jobs/{job_id}/truth", { params: { path: { job_id: id } } })),
  });
  const found = truth.data;
  return (
    <Page title="What was true">
      <h1>
        What was true
        <small>{found && `${found.system}, ${found.level}`}</small>
        <small>
          <span className="practice-flag">practice</span>
        </small>
      </h1>
      <Fault of={truth.error ?? begin.error} />
      {found && (
        <div className="truth-grid">
          <section>
            <p className="truth-true">{found.text}</p>
            <dl className="truth-lines">
              <dt>What showed it</dt>
              <dd>{found.sign}</dd>
              {found.right_figure && (
                <>
                  <dt>Right would be</dt>
                  <dd>{found.right_figure}</dd>
                </>
              )}
              {found.would_have_told.length > 0 && (
                <>
                  <dt>The look that tells</dt>
                  {found.would_have_told.map((words) => (
                    <dd key={words}>{words}</dd>
                  ))}
                </>
              )}
              <dt>When</dt>
              <dd>{found.known}</dd>
            </dl>
            <p className={`truth-verdict ${found.good ? "good-text" : "wrong-text"}`}>{found.verdict}</p>
            <ul className="judged">
              {found.judged.map((one) => (
                <li key={one.decision} className={one.right ? "judged-right" : "judged-not"}>
                  <b>{one.title}</b>
                  <span>{one.text}</span>
                </li>
              ))}
            </ul>
            <p className="truth-acts">
              <Button disabled={begin.isPending} onClick={() => begin.mutate({ again: id })}>
                The same machine again
              </Button>
              <Link className="btn btn-outline-primary" to="/practice">
                Another machine
              </Link>
              <Link className="btn btn-link" to={`/jobs/${id}`}>
                Its bench as it was left
              </Link>
            </p>
            <p className="soft">Seed {found.seed}: the same seed is the same machine for ever.</p>
          </section>
          <section>
            <h2>Step by step</h2>
            <ol className="story">
              {found.rows.map((row, at) => (
                <Step key={at} row={row} />
              ))}
            </ol>
          </section>
        </div>
      )}
    </Page>
  );
}

function Step({ row }: { row: StoryRow }) {
  return (
    <li className={`story-${row.kind}${row.known ? " story-known" : ""}`}>
      <time>{clock(row.at)}</time>
      <span>
        {row.call && <CallShape call={row.call} size={20} />}
        {row.words}
        {row.known && <b>Here it could have been known.</b>}
      </span>
    </li>
  );
}

/** Time on the machine's clock: minutes and seconds, hours where there are any. */
function clock(seconds: number) {
  const whole = Math.floor(seconds);
  const [h, m, s] = [Math.floor(whole / 3600), Math.floor(whole / 60) % 60, whole % 60];
  const two = (figure: number) => String(figure).padStart(2, "0");
  return h ? `${h}:${two(m)}:${two(s)}` : `${m}:${two(s)}`;
}
