import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { Fault } from "../ui/Fault";
import { NotYet, Page } from "../ui/Layout";
import { counted, day } from "../ui/words";

const DAY = 86_400_000;

/** A week for whoever leads: done and found in it; what is overdue, provisional and running out now. */
export function Week() {
  const [search, setSearch] = useSearchParams();
  const of = search.get("of") ?? "";
  const found = useQuery({
    queryKey: ["week", of],
    queryFn: () => asked(api.GET("/api/week", { params: { query: { of } } })),
  });
  const week = found.data;
  if (!week) return <NotYet error={found.error} />;
  const shift = (days: number) => new Date(+new Date(week.monday) + days * DAY).toISOString().slice(0, 10);
  return (
    <Page title="The week">
      <h1>
        The week from {day(week.monday)}
        <small>{counted(week.done_count, "job")} closed</small>
      </h1>
      <p className="week-ways">
        <button type="button" className="btn btn-link" onClick={() => setSearch({ of: shift(-7) })}>
          The one before
        </button>
        <button type="button" className="btn btn-link" onClick={() => setSearch({})}>
          This week
        </button>
        <button type="button" className="btn btn-link" onClick={() => setSearch({ of: shift(7) })}>
          The one after
        </button>
      </p>
      <div className="week">
        <Part title="Done" none="Nothing was closed in this week.">
          {week.done.map((one) => (
            <li key={`${one.record} ${one.closed_at}`}>
              <b>{one.record ? <Link to={`/records/${one.record}`}>{one.name}</Link> : one.name}</b> {one.title},{" "}
              {one.outcome}
              <small>
                {one.site}, {day(one.closed_at)}, {one.by}
              </small>
            </li>
          ))}
        </Part>
        <Part title="Faults found" none="No fault was found in this week.">
          {week.faults.map((one) => (
            <li key={`${one.system} ${one.at} ${one.title}`}>
              <b>
                <Link to={`/systems/${one.system}`}>{one.name}</Link>
              </b>{" "}
              {one.title}
              <small>
                {one.site}, {day(one.at)}, {one.put_right ? "put right" : "left for repair"}
              </small>
            </li>
          ))}
        </Part>
        <Part title={`Overdue now${week.overdue_count ? `: ${week.overdue_count}` : ""}`} none="Nothing is overdue.">
          {week.overdue.map((one) => (
            <li key={one.system}>
              <b>
                <Link to={`/systems/${one.system}`}>{one.name}</Link>
              </b>{" "}
              since {one.due && day(one.due)}
              <small>
                {one.site}, {one.state_words}
              </small>
            </li>
          ))}
        </Part>
        <Part title="Not confirmed yet" none="No machine waits for its confirmation.">
          {week.provisional.map((one) => (
            <li key={one.system}>
              <b>
                <Link to={`/systems/${one.system}`}>{one.name}</Link>
              </b>{" "}
              {one.state_words}
              <small>{one.site}</small>
            </li>
          ))}
        </Part>
        <Part title="References that run out" none="No reference runs out within a month.">
          {week.references.map((one) => (
            <li key={one.id}>
              <b>
                <Link to={`/references/${one.id}`}>{one.name}</Link>
              </b>{" "}
              <span className={one.overdue ? "wrong-text" : undefined}>
                {one.overdue ? "ran out" : "in date until"} {day(one.due)}
              </span>
            </li>
          ))}
        </Part>
        {week.left_behind.length > 0 && (
          <Part title="Left by somebody who may no longer" none="">
            {week.left_behind.map((one) => (
              <Left key={`${one.job} ${one.person}`} left={one} />
            ))}
          </Part>
        )}
      </div>
    </Page>
  );
}

/** What somebody typed on a device after they could no longer work on a job: a lead reads it, and lays it aside. */
function Left({ left }: { left: Schemas["LeftInWeek"] }) {
  const cache = useQueryClient();
  const [problem, setProblem] = useState<unknown>(null);
  const seen = () =>
    asked(api.POST("/api/left-behind/seen", { body: { job: left.job, person: left.person } }))
      .then(() => cache.invalidateQueries({ queryKey: ["week"] }))
      .catch(setProblem);
  return (
    <li>
      <b>
        <Link to={left.record ? `/records/${left.record}` : `/jobs/${left.job}`}>{left.name}</Link>
      </b>{" "}
      {counted(left.entries.length, "entry", "entries")} by {left.by}
      <small>
        {left.site}, {day(left.at)}; they are no part of the job
      </small>
      <dl className="left-behind">
        {left.entries.map((entry, place) => (
          <div key={place}>
            <dt>{entry.where}</dt>
            <dd>{entry.says}</dd>
          </div>
        ))}
      </dl>
      <button type="button" className="btn btn-outline-primary" onClick={() => void seen()}>
        Lay aside
      </button>
      {problem != null && <Fault of={problem} />}
    </li>
  );
}

function Part({ title, none, children }: { title: string; none: string; children: ReactNode[] }) {
  return (
    <section>
      <h2>{title}</h2>
      {children.length ? <ul>{children}</ul> : <p className="soft">{none}</p>}
    </section>
  );
}
