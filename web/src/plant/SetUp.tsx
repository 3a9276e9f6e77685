import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Table from "react-bootstrap/Table";
import { Link } from "react-router";
import { api, asFile, asked, type Schemas } from "../api/client";
import { useMe } from "../api/queries";
import { Fault } from "../ui/Fault";
import { FileButton } from "../ui/FileButton";
import { Page } from "../ui/Layout";
import { counted } from "../ui/words";

type Answer = Schemas["SetUpView"];

/** A plant from one spreadsheet: filled in, looked at, and taken as a whole. */
export function SetUp() {
  const me = useMe().data;
  const cache = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const [answer, setAnswer] = useState<Answer | null>(null);
  const [fault, setFault] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const send = async (chosen: File, keep: boolean) => {
    setBusy(true);
    setFault(null);
    try {
      const params = { query: { name: chosen.name.slice(0, 200), keep } };
      setAnswer(await asked(api.POST("/api/set-up", { params, ...asFile(chosen) })));
      if (keep) void cache.invalidateQueries();
    } catch (problem) {
      setAnswer(null);
      setFault(problem);
    } finally {
      setBusy(false);
    }
  };
  const choose = (chosen: File) => {
    setFile(chosen);
    void send(chosen, false);
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
      {answer && <Looked answer={answer} />}
      {answer && file && !answer.taken && !answer.refused && (
        <Button size="lg" className="mt-3" disabled={busy} onClick={() => void send(file, true)}>
          Keep all of it
        </Button>
      )}
    </Page>
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
          <strong>Invited{answer.invited[0]?.link ? ": hand each their link, shown this once" : " by mail"}</strong>
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
