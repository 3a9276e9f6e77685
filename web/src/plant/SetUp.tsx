import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Table from "react-bootstrap/Table";
import { Link } from "react-router";
import { api, asFile, asked, type Schemas } from "../api/client";
import { useMe } from "../api/queries";
import { Fault } from "../ui/Fault";
import { FileButton } from "../ui/FileButton";
import { HowFar } from "../ui/HowFar";
import { Page } from "../ui/Layout";
import { counted, moment } from "../ui/words";

type Answer = Schemas["SetUpView"];
type Long = Schemas["LongSetUp"];
const KEY = ["set-ups"];
const POLL = 1_000;
const underWay = (one: Long) => !one.finished_at && !one.failed;

/** A plant from one spreadsheet: filled in, looked at, and taken as a whole; a long one while the page may be closed. */
export function SetUp() {
  const me = useMe().data;
  const cache = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const [here, setHere] = useState<Answer | null>(null);
  const [fault, setFault] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const [long, again] = useLong(!!me?.leads);
  const attempt = async (act: () => Promise<Answer | { id: string }>, keep: boolean) => {
    setBusy(true);
    setFault(null);
    try {
      const came = await act();
      setHere("lines" in came ? came : null);
      if (!("lines" in came)) await again();
      else if (keep) void cache.invalidateQueries();
    } catch (problem) {
      setHere(null);
      setFault(problem);
    } finally {
      setBusy(false);
    }
  };
  const send = (chosen: File, keep: boolean) =>
    attempt(() => {
      const params = { query: { name: chosen.name.slice(0, 200), keep } };
      return asked(api.POST("/api/set-up", { params, ...asFile(chosen) }));
    }, keep);
  const choose = (chosen: File) => {
    setFile(chosen);
    void send(chosen, false);
  };
  const shown = here ?? (fault ? null : long?.found) ?? null;
  const keep = () => {
    if (here && file) return send(file, true);
    const params = { path: { set_up_id: long!.id } };
    return attempt(() => asked(api.POST("/api/set-ups/{set_up_id}/keep", { params })), true);
  };
  if (me && !me.leads)
    return (
      <Page title="From a spreadsheet">
        <h1>From a spreadsheet</h1>
        <p>A lead sets a plant up. Ask one of yours.</p>
      </Page>
    );
  return (
    <Page title="From a spreadsheet">
      <h1>From a spreadsheet</h1>
      <ol className="set-up-steps">
        <li>
          <a href="/api/set-up/template.xlsx" download>
            Take the template
          </a>
          : a sheet for each kind of machine with its plates, one for references, one for people.
        </li>
        <li>Fill in what you know, one line for each. A table saved as CSV does, too.</li>
        <li>
          Choose it here. Everything is shown before it is kept.{" "}
          <FileButton accept=".xlsx,.csv,text/csv" onFile={choose}>
            {file ? "Choose another" : "Choose the file"}
          </FileButton>
        </li>
      </ol>
      <Fault of={fault} />
      {!here && !fault && long && !long.found && <Going long={long} />}
      {!here && long?.found && shown && (
        <p className="soft">
          {long.file}, {moment(long.finished_at!)}
        </p>
      )}
      {shown && <Looked answer={shown} />}
      {shown && !shown.taken && !shown.refused && (
        <Button size="lg" className="mt-3" disabled={busy} onClick={() => void keep()}>
          Keep all of it
        </Button>
      )}
    </Page>
  );
}

/** The long spreadsheet chosen last, asked for as long as it is under way, and what asks at once. */
function useLong(leads: boolean): [Long | undefined, () => Promise<unknown>] {
  const cache = useQueryClient();
  const found = useQuery({
    queryKey: KEY,
    enabled: leads,
    queryFn: async () => {
      const before = cache.getQueryData<Long[]>(KEY)?.[0];
      const all = await asked(api.GET("/api/set-ups"));
      // What was kept meanwhile stands in every list from now on.
      if (before && underWay(before) && all[0]?.found?.taken)
        void cache.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== KEY[0] });
      return all;
    },
    refetchInterval: ({ state }) => (state.data?.some(underWay) ? POLL : false),
  });
  return [found.data?.[0], () => found.refetch()];
}

function Going({ long }: { long: Long }) {
  if (long.failed)
    return (
      <p className="wrong-text" role="alert">
        {long.file}: {long.failed}
      </p>
    );
  return (
    <div className="cell-row" aria-live="polite">
      <span>
        {long.file}: {counted(long.of, "line")} {long.keep ? "being kept" : "being looked at"}
        <small className="soft d-block">It goes on when you close this page.</small>
      </span>
      <HowFar done={long.done} of={long.of} what="Gone through" />
    </div>
  );
}

function Looked({ answer }: { answer: Answer }) {
  const { lines, refused, taken } = answer;
  const [all, setAll] = useState(false);
  const shown = refused && !all ? lines.filter((line) => line.refused.length) : lines;
  return (
    <section aria-live="polite">
      {taken ? (
        <div className="say">
          <strong>{counted(lines.length, "line")} kept</strong>
          <p>
            <Link to="/systems">To the systems</Link>
          </p>
        </div>
      ) : (
        <p className={refused ? "wrong-text" : undefined}>
          {refused
            ? `${counted(refused, "line")} of ${lines.length} cannot be kept, so nothing was. Put them right, and choose the file again.`
            : `${counted(lines.length, "line")}, and all of them can be kept. Nothing is kept yet.`}
        </p>
      )}
      {answer.new_sites.length > 0 && !refused && (
        <p>
          {taken ? "New sites: " : "Sites that are made: "}
          {answer.new_sites.join(", ")}.
        </p>
      )}
      {answer.invited.length > 0 && (
        <div className="say">
          <strong>
            Invited
            {answer.mailed ? " by mail" : answer.invited[0]?.link ? ": hand each their link, shown this once" : ""}
          </strong>
          {!answer.mailed && !answer.invited[0]?.link && (
            <p>
              No mail is sent here: invite each once more on the page of <Link to="/people">people</Link>, and hand them
              the link.
            </p>
          )}
          {answer.invited.map((one) => (
            <p key={one.address}>
              {one.name}, {one.address}
              {one.link && (
                <>
                  : <code>{one.link}</code>
                </>
              )}
            </p>
          ))}
        </div>
      )}
      <Table responsive className="plain-table">
        <thead>
          <tr>
            <th>Sheet, line</th>
            <th>What</th>
            <th>Name</th>
            <th>Site</th>
            <th>{refused ? "Why not" : ""}</th>
          </tr>
        </thead>
        <tbody>
          {shown.slice(0, all ? undefined : 200).map((line) => (
            <tr key={`${line.sheet} ${line.line}`}>
              <td className="text-nowrap">
                {line.sheet}, {line.line}
              </td>
              <td>{line.what}</td>
              <td>{line.name}</td>
              <td>{line.where}</td>
              <td>
                {line.refused.map((why) => (
                  <p key={why} className="wrong-text m-0">
                    {why}
                  </p>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      {shown.length < lines.length && (
        <Button variant="link" onClick={() => setAll(true)}>
          Show all {lines.length} lines
        </Button>
      )}
    </section>
  );
}
