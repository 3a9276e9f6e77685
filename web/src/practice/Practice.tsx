import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import Button from "react-bootstrap/Button";
import { Link, useNavigate } from "react-router";
import { api, asked, Problem, type Schemas } from "../api/client";
import { Fault } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { day } from "../ui/words";
import { kindsAlong, practiseHere } from "./here";
import { LEVELS, type Level } from "./levels";
import { RowState, Share } from "./parts";

type Row = Schemas["PracticeRow"];
interface Asked {
  kind?: string;
  level?: Level;
  scenario?: string;
}

/** Begins a practice and goes to its bench. */
export function useBegin() {
  const navigate = useNavigate();
  return useMutation({
    mutationFn: async (query: Asked & { again?: string }): Promise<{ id: string }> => {
      try {
        return await asked(api.POST("/api/practice", { params: { query } }));
      } catch (wrong) {
        const away = wrong instanceof Problem && wrong.status === 0 && query.kind;
        const here = away ? await practiseHere(away, query.level ?? "") : null;
        if (!here) throw wrong;
        return here;
      }
    },
    onSuccess: (job) => navigate(`/jobs/${job.id}`),
  });
}

/** Would I have found the fault? */
export function Practice() {
  const page = useQuery({ queryKey: ["practice"], queryFn: () => asked(api.GET("/api/practice/page")) });
  const begin = useBegin();
  const found = page.data;
  useEffect(() => {
    if (!found) return;
    const later = setTimeout(() => void kindsAlong(found.kinds.map((one) => one.key)), 2_000);
    return () => clearTimeout(later);
  }, [found]);
  return (
    <Page title="Practice">
      <h1>
        Practice
        <small>
          <Link to="/practice/progress">How I fare</Link>{" "}
          {found?.may_lead && <Link to="/practice/instructor">How my people fare</Link>}
        </small>
      </h1>
      <p className="lead-text practice-lead">
        A machine is handed to you with a sentence. It may be in order, simply out, or have a fault that no factor
        cures; which, you see at the end, beside what you did. Nothing of it is sealed or stands in a history.
      </p>
      <Fault of={page.error ?? begin.error} />
      {found?.given.map((one) => (
        <Given key={one.id} given={one} onBegin={(scenario) => begin.mutate({ scenario })} />
      ))}
      {found && (
        <div className="practice-grid">
          <section>
            <h2>A machine of your choice</h2>
            <ul className="practice-kinds">
              {found.kinds.map((kind) => (
                <li key={kind.key}>
                  <span>
                    <b>{kind.title}</b>
                    <Share right={kind.right} of={kind.of} />
                  </span>
                  <span className="practice-levels" role="group" aria-label={`Practise on a ${kind.title}`}>
                    {LEVELS.map((level) => (
                      <Button
                        key={level}
                        variant="outline-primary"
                        disabled={begin.isPending}
                        onClick={() => begin.mutate({ kind: kind.key, level })}
                      >
                        {level}
                      </Button>
                    ))}
                  </span>
                </li>
              ))}
            </ul>
          </section>
          <section>
            <h2>Your latest</h2>
            {found.mine.length === 0 && (
              <p>
                None yet. Begin with an easy one: run it empty, load it, weigh it, and decide before you set anything.
              </p>
            )}
            <ul className="practice-latest">
              {found.mine.map((row) => (
                <Latest key={row.job} row={row} />
              ))}
            </ul>
          </section>
        </div>
      )}
    </Page>
  );
}

/** A set that a lead gave: its machines in their order, each with how it went. */
function Given({ given, onBegin }: { given: Schemas["GivenView"]; onBegin: (scenario: string) => void }) {
  return (
    <section className="practice-given">
      <h2>
        {given.name}
        <small>
          from {given.given_by}
          {given.until && `, until ${day(given.until)}`}
        </small>
      </h2>
      <ol>
        {given.scenarios.map((one) => (
          <li key={one.id}>
            <b>{one.kind}</b>, {one.level}
            {one.practice ? (
              <RowState row={one.practice} />
            ) : (
              <Button onClick={() => onBegin(one.id)} aria-label={`Begin: ${one.kind}, ${one.level}`}>
                Begin
              </Button>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}

function Latest({ row }: { row: Row }) {
  return (
    <li>
      <span>
        <b>{row.kind}</b>
        <small>
          {row.level}, {day(row.began)}
        </small>
      </span>
      <RowState row={row} />
    </li>
  );
}
