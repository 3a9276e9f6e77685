import { useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { Fault } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { counted, day } from "../ui/words";
import { RowState } from "./parts";

/** What am I good at, and what do I miss? */
export function Progress() {
  const [params] = useSearchParams();
  const username = params.get("who") ?? "";
  const progress = useQuery({
    queryKey: ["progress", username],
    queryFn: () => asked(api.GET("/api/practice/progress", { params: { query: { username } } })),
  });
  const found = progress.data;
  return (
    <Page title="How I fare">
      <h1>
        {username && found ? `How ${found.name} fares` : "How I fare"}
        <small>
          <Link to={username ? "/practice/instructor" : "/practice"}>{username ? "All my people" : "To practise"}</Link>
        </small>
      </h1>
      <Fault of={progress.error} />
      {found && found.practices === 0 && <p>Nothing to say yet: no practice is closed.</p>}
      {found && found.practices > 0 && (
        <>
          <p className="lead-text">
            {found.right} of {counted(found.practices, "practice")} right.
            {found.missed.length > 0 && <> Most often missed: {found.missed.map(lower).join("; ")}.</>}
          </p>
          <div className="practice-grid">
            <section>
              <h2>By decision</h2>
              <Bars rows={found.decisions.map((one) => ({ ...one, key: one.decision }))} />
            </section>
            <section>
              <h2>By kind of machine</h2>
              <Bars rows={found.kinds} />
            </section>
          </div>
          {found.overlooked.length > 0 && (
            <section>
              <h2>Looks that would have told</h2>
              <ul>
                {found.overlooked.map((one) => (
                  <li key={one.words}>
                    {one.words} <small className="soft">overlooked {counted(one.times, "time")}</small>
                  </li>
                ))}
              </ul>
            </section>
          )}
          <h2>Latest</h2>
          <ul className="practice-latest practice-latest-wide">
            {found.latest.map((row) => (
              <li key={row.job}>
                <span>
                  <b>{row.kind}</b>
                  <small>
                    {row.level}, {day(row.began)}
                  </small>
                </span>
                <RowState row={row} />
              </li>
            ))}
          </ul>
        </>
      )}
    </Page>
  );
}

const lower = (text: string) => text[0]!.toLowerCase() + text.slice(1);

/** How often right of how often asked, each as a bar on one scale. */
function Bars({ rows }: { rows: (Pick<Schemas["KindCount"], "title" | "right" | "of"> & { key: string })[] }) {
  const most = Math.max(...rows.map((row) => row.of), 1);
  return (
    <ul className="progress-bars">
      {rows.map((row) => (
        <li key={row.key}>
          <span>{row.title}</span>
          <span className="progress-count">
            {row.right} of {row.of}
          </span>
          <svg viewBox="0 0 100 8" preserveAspectRatio="none" aria-hidden="true">
            <rect className="progress-of" width={(100 * row.of) / most} height="8" />
            <rect className="progress-right" width={(100 * row.right) / most} height="8" />
          </svg>
        </li>
      ))}
    </ul>
  );
}
