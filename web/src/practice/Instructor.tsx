import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import Table from "react-bootstrap/Table";
import { Link } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { DialogForm } from "../ui/DialogForm";
import { Fault } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { Said, TextField } from "../ui/TextField";
import { day } from "../ui/words";
import { LEVELS, type Level } from "./levels";
import { RowState, Share } from "./parts";

/** Would my people find the fault? */
export function Instructor() {
  const instructor = useQuery({ queryKey: ["instructor"], queryFn: () => asked(api.GET("/api/practice/instructor")) });
  const cache = useQueryClient();
  const [giving, setGiving] = useState(false);
  const found = instructor.data;
  const takeBack = async (id: string) => {
    await asked(api.DELETE("/api/practice/sets/{set_id}", { params: { path: { set_id: id } } }));
    void cache.invalidateQueries({ queryKey: ["instructor"] });
  };
  return (
    <Page title="How my people fare">
      <h1>
        How my people fare
        <small>
          <Link to="/practice">To practise</Link>
        </small>
      </h1>
      <Fault of={instructor.error} />
      {found && (
        <>
          <Table responsive className="plain-table">
            <thead>
              <tr>
                <th>Name</th>
                <th>Practices</th>
                <th>Most often missed</th>
                <th>Overlooked</th>
              </tr>
            </thead>
            <tbody>
              {found.people.map((one) => (
                <tr key={one.username}>
                  <td>
                    <Link to={`/practice/progress?who=${encodeURIComponent(one.username)}`}>{one.name}</Link>
                  </td>
                  <td>{one.practices ? <Share right={one.right} of={one.practices} /> : "none yet"}</td>
                  <td>{one.missed.join("; ")}</td>
                  <td>{one.overlooked[0]?.words}</td>
                </tr>
              ))}
            </tbody>
          </Table>
          <h2>Sets of machines that were given</h2>
          <Button variant="outline-primary" onClick={() => setGiving(true)}>
            Give a set
          </Button>
          {found.sets.map((one) => (
            <OneSet key={one.id} set={one} onTakeBack={() => void takeBack(one.id)} />
          ))}
          {giving && <GiveForm people={found.people} onDone={() => setGiving(false)} />}
        </>
      )}
    </Page>
  );
}

function OneSet({ set, onTakeBack }: { set: Schemas["SetView"]; onTakeBack: () => void }) {
  return (
    <section className="set">
      <h3>
        {set.name}
        <small>
          {set.given_by}, {day(set.given_at)}
          {set.until && `, until ${day(set.until)}`}
        </small>
        <Button variant="link" onClick={onTakeBack} aria-label={`Take back ${set.name}`}>
          Take back
        </Button>
      </h3>
      <Table responsive className="plain-table">
        <thead>
          <tr>
            <th>Machine</th>
            {set.people.map((who) => (
              <th key={who.username}>{who.name}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {set.scenarios.map((title, at) => (
            <tr key={at}>
              <td>{title}</td>
              {set.people.map((who) => (
                <td key={who.username}>
                  {who.rows[at] ? <RowState row={who.rows[at]} /> : <span className="soft">not begun</span>}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </Table>
    </section>
  );
}

interface Wanted {
  kind: string;
  level: Level;
}

function GiveForm({ people, onDone }: { people: Schemas["LearnerRow"][]; onDone: () => void }) {
  const cache = useQueryClient();
  const page = useQuery({ queryKey: ["practice"], queryFn: () => asked(api.GET("/api/practice/page")) }).data;
  const [name, setName] = useState("");
  const [until, setUntil] = useState("");
  const [who, setWho] = useState<string[]>([]);
  const [scenarios, setScenarios] = useState<Wanted[]>([]);
  const keep = async () => {
    const body = { name, people: who, scenarios, until: until || null };
    await asked(api.POST("/api/practice/sets", { body }));
    void cache.invalidateQueries({ queryKey: ["instructor"] });
  };
  const change = (at: number, with_: Partial<Wanted>) =>
    setScenarios(scenarios.map((one, place) => (place === at ? { ...one, ...with_ } : one)));
  return (
    <DialogForm title="Give a set" keep="Give it" onKeep={keep} onDone={onDone} wide>
      {(problem) => (
        <>
          <TextField
            name="name"
            label="What it is called"
            value={name}
            onChange={setName}
            problem={problem}
            long={80}
          />
          <fieldset className="mb-3">
            <legend className="form-label">For whom</legend>
            {people.map((one) => (
              <Form.Check
                key={one.username}
                inline
                id={`who-${one.username}`}
                label={one.name}
                checked={who.includes(one.username)}
                onChange={(event) =>
                  setWho(event.target.checked ? [...who, one.username] : who.filter((other) => other !== one.username))
                }
              />
            ))}
            <Said problem={problem} path="people" />
          </fieldset>
          <fieldset className="mb-3">
            <legend className="form-label">Machines, in their order</legend>
            {scenarios.map((one, at) => (
              <div key={at} className="d-flex gap-2 mb-2">
                <Form.Select
                  aria-label={`Machine ${at + 1}`}
                  value={one.kind}
                  onChange={(event) => change(at, { kind: event.target.value })}
                >
                  {page?.kinds.map((kind) => (
                    <option key={kind.key} value={kind.key}>
                      {kind.title}
                    </option>
                  ))}
                </Form.Select>
                <Form.Select
                  aria-label={`How hard is machine ${at + 1}`}
                  className="w-auto"
                  value={one.level}
                  onChange={(event) => change(at, { level: event.target.value as Level })}
                >
                  {LEVELS.map((level) => (
                    <option key={level}>{level}</option>
                  ))}
                </Form.Select>
                <Button
                  variant="link"
                  aria-label={`Leave out machine ${at + 1}`}
                  onClick={() => setScenarios(scenarios.filter((_, place) => place !== at))}
                >
                  ✕
                </Button>
              </div>
            ))}
            <Button
              variant="outline-primary"
              onClick={() => setScenarios([...scenarios, { kind: page?.kinds[0]?.key ?? "", level: "fair" }])}
            >
              Add a machine
            </Button>
            <Said problem={problem} path="scenarios" />
          </fieldset>
          <TextField
            name="until"
            label="Until"
            type="date"
            value={until}
            onChange={setUntil}
            problem={problem}
            hint="May stay open"
          />
        </>
      )}
    </DialogForm>
  );
}
