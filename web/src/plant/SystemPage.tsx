import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Dropdown from "react-bootstrap/Dropdown";
import Table from "react-bootstrap/Table";
import { Link, useNavigate } from "react-router";
import { openJob } from "../job/opening";
import { api, asFile, asked, type SystemView } from "../api/client";
import { useMe } from "../api/queries";
import { Fault } from "../ui/Fault";
import { FileButton } from "../ui/FileButton";
import { DialogForm } from "../ui/DialogForm";
import { Page } from "../ui/Layout";
import { TextField } from "../ui/TextField";
import { day, moment, signed } from "../ui/words";
import { Cells } from "./Cells";
import { Events } from "./Events";
import { Found } from "./Found";
import { HistoryChart } from "./HistoryChart";
import { Intervals } from "./Intervals";
import { OfSystem } from "./OfSystem";
import { OwnLists } from "./OwnLists";
import { PlateForm } from "./PlateForm";
import { Recipes } from "./Recipes";
import { FactorChange, StateShape } from "./words";

/** What is this machine, how has it behaved, when is it due? */
export function SystemPage() {
  return <OfSystem title="System">{(system) => <Whole system={system} />}</OfSystem>;
}

function Whole({ system }: { system: SystemView }) {
  const me = useMe().data;
  const [editing, setEditing] = useState(false);
  const open = system.open_jobs;
  return (
    <Page title={system.name}>
      <div className="system-head">
        <StateShape system={system} size={40} />
        <h1>
          {system.name}
          <small>
            {system.kind_name}
            {system.material && ` · ${system.material}`} · {system.site.name}
          </small>
        </h1>
      </div>
      <p className="mt-2 mb-0">
        <b>{system.state_words[0]!.toUpperCase() + system.state_words.slice(1)}</b>, {system.due_words}. {system.limits}
        .
        {system.stale.length > 0 && (
          <span className="wrong-text"> To do again: {system.stale.join(", ").toLowerCase()}.</span>
        )}
      </p>
      {me?.works && (
        <div className="begin">
          {open.map((job) => (
            <Link key={job.id} className="btn btn-primary" to={`/jobs/${job.id}`}>
              Carry on: {job.title.toLowerCase()}, {job.headline || "just begun"}
            </Link>
          ))}
          <BeginMethods system={system} />
          {system.keeps_loads && (
            <Link className="btn btn-outline-primary" to={`/systems/${system.id}/loads`}>
              Load log
            </Link>
          )}
          {system.has_card &&
            system.channels.map((channel) => (
              <a key={channel.id} className="btn btn-link" href={`/api/channels/${channel.id}/card.pdf`}>
                Card for the cab{system.channels.length > 1 && `, ${channel.name}`}
              </a>
            ))}
          <a className="btn btn-link" href={`/api/systems/${system.id}/label.pdf`}>
            Label with its code
          </a>
          <BringIn system={system} />
          <CopyOf system={system} />
        </div>
      )}
      {editing ? (
        <section>
          <h2>What is on record</h2>
          <PlateForm system={system} onDone={() => setEditing(false)} />
        </section>
      ) : (
        <>
          {me?.works &&
            system.channels
              .filter(showsHistory(system))
              .map((channel) => <HistoryChart key={channel.id} system={system} channel={channel} />)}
          <Recipes system={system} works={!!me?.works} />
          <div className="system-grid">
            <Done system={system} />
            <div>
              <Plates system={system} onEdit={me?.works ? () => setEditing(true) : undefined} />
              <OwnLists system={system} works={!!me?.works} />
              {me?.works && <Intervals system={system} />}
              {me?.works && <Cells system={system} />}
              {me?.works && <Events system={system} />}
              <Found system={system} />
            </div>
          </div>
        </>
      )}
    </Page>
  );
}

/** Of many recipes those that were proved have something to show. */
const showsHistory = (system: SystemView) => (channel: SystemView["channels"][number]) =>
  !system.channel_fields.length || !!channel.proved_at;

function BeginMethods({ system }: { system: SystemView }) {
  const navigate = useNavigate();
  const [channel, setChannel] = useState(system.channels[0]?.id);
  const [fault, setFault] = useState<unknown>(null);
  const begin = async (method: string) => {
    try {
      navigate(`/jobs/${(await openJob(system, method, channel)).id}`);
    } catch (problem) {
      setFault(problem);
    }
  };
  return (
    <>
      {system.channels.length > 1 && (
        <select
          className="form-select w-auto"
          aria-label={system.channel_name === "channel" ? "Channel" : `Which ${system.channel_name}`}
          value={channel}
          onChange={(event) => setChannel(event.target.value)}
        >
          {system.channels.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
      )}
      <Button variant={system.open_jobs.length ? "outline-primary" : "primary"} onClick={() => begin("visit")}>
        Begin a visit: {system.visit.slice(0, 3).join(", ").toLowerCase()}
      </Button>
      <Dropdown>
        <Dropdown.Toggle variant="outline-primary">One method alone</Dropdown.Toggle>
        <Dropdown.Menu>
          {system.methods.map((method) => (
            <Dropdown.Item key={method.key} as="button" onClick={() => begin(method.key)}>
              {method.title}
              <small className="d-block soft">{method.summary}</small>
            </Dropdown.Item>
          ))}
        </Dropdown.Menu>
      </Dropdown>
      <Fault of={fault} />
    </>
  );
}

/** A job file from elsewhere, as a new job on this system. */
/** A further machine of the same make-up: its plates, lists, limits and channels. */
function CopyOf({ system }: { system: SystemView }) {
  const navigate = useNavigate();
  const cache = useQueryClient();
  const [name, setName] = useState<string | null>(null);
  const copy = async () => {
    const params = { path: { system_id: system.id } };
    const twin = await asked(api.POST("/api/systems/{system_id}/copy", { params, body: { name: name ?? "" } }));
    void cache.invalidateQueries({ queryKey: ["round"] });
    setName(null);
    navigate(`/systems/${twin.id}`);
  };
  return (
    <>
      <Button variant="link" onClick={() => setName("")}>
        Add one like it
      </Button>
      {name !== null && (
        <DialogForm title={`One like ${system.name}`} keep="Add it" onKeep={copy} onDone={() => setName(null)}>
          {(problem) => (
            <>
              <p>It has the same plates, limits and channels. Factor, zero, serial number and reference are its own.</p>
              <TextField name="name" label="What it is called" value={name} onChange={setName} problem={problem} />
            </>
          )}
        </DialogForm>
      )}
    </>
  );
}

function BringIn({ system }: { system: SystemView }) {
  const navigate = useNavigate();
  const [fault, setFault] = useState<unknown>(null);
  const bring = async (file: File) => {
    const params = { path: { system_id: system.id } };
    try {
      const job = await asked(api.POST("/api/systems/{system_id}/jobs/import", { params, ...asFile(file) }));
      navigate(`/jobs/${job.id}`);
    } catch (problem) {
      setFault(problem);
    }
  };
  return (
    <>
      <FileButton accept=".json,application/json" onFile={(file) => void bring(file)}>
        Bring in a job file
      </FileButton>
      <Fault of={fault} />
    </>
  );
}

function Done({ system }: { system: SystemView }) {
  return (
    <section>
      <h2>What was done</h2>
      {system.jobs.length === 0 ? (
        <p>Nothing yet: the first job will stand here.</p>
      ) : (
        <Table responsive className="plain-table">
          <thead>
            <tr>
              <th>When</th>
              <th>What</th>
              <th>Closed as</th>
              <th className="num">Left at</th>
              <th className="num">{system.factor_name}</th>
            </tr>
          </thead>
          <tbody>
            {system.jobs.map((job) => (
              <tr key={job.job}>
                <td className="text-nowrap">{day(job.closed_at, system.site.time_zone)}</td>
                <td>{job.record ? <Link to={`/records/${job.record}`}>{job.title}</Link> : job.title}</td>
                <td>
                  {job.outcome}
                  <div className="soft">{job.closed_by}</div>
                </td>
                <td className="num figure-text">
                  {job.error == null ? "–" : signed(job.error)}
                  {job.uncertainty != null && <div className="soft">± {job.uncertainty.toFixed(2)} %</div>}
                </td>
                <td className="num figure-text">
                  <FactorChange done={job} />
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
      <p className="mt-2">
        <Link to={`/log?system=${system.id}`}>All in the log</Link>
      </p>
    </section>
  );
}

function Plates({ system, onEdit }: { system: SystemView; onEdit?: () => void }) {
  const plates = system.plate_fields.filter((plate) => system.plates[plate.key] !== undefined);
  return (
    <section>
      <h2>On record</h2>
      <dl className="plates">
        {system.channels.map((channel) =>
          channel.factor ? (
            <Row
              key={channel.id}
              name={`${system.factor_name}${system.channels.length > 1 ? `, ${channel.name}` : ""}`}
              value={channel.factor}
            />
          ) : null,
        )}
        {system.nominal_factor && <Row name="factor it should be near" value={system.nominal_factor} />}
        {plates.map((plate) => (
          <Row key={plate.key} name={plate.title} value={String(system.plates[plate.key])} />
        ))}
        {system.serial && <Row name="Serial number" value={system.serial} />}
      </dl>
      {system.notes && <p className="mt-3">{system.notes}</p>}
      {onEdit && (
        <Button variant="outline-primary" className="mt-3" onClick={onEdit}>
          Change what is on record
        </Button>
      )}
      {system.changes.length > 0 && (
        <>
          <h2>Changes</h2>
          <ul className="list-unstyled">
            {system.changes.map((change) => (
              <li key={change.at + change.field} className="mb-2">
                {change.field.replaceAll("_", " ")}: {change.before || "nothing"} → {change.after || "nothing"}
                {change.why && <small className="d-block soft">{change.why}</small>}
                <span className="soft">
                  {" "}
                  · {change.who}, {moment(change.at, system.site.time_zone)}
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

function Row({ name, value }: { name: string; value: string }) {
  return (
    <>
      <dt>{name}</dt>
      <dd>{value}</dd>
    </>
  );
}
