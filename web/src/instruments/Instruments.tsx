import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { api, asked, type Schemas } from "../api/client";
import { useLinks, useSystemNames } from "../api/queries";
import { DialogForm } from "../ui/DialogForm";
import { Fault } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { ChoiceField, Said, TextField } from "../ui/TextField";
import { Teach } from "./Teach";

type LinkView = Schemas["LinkView"];
type LinkIn = Schemas["LinkIn"];

/** Which instruments send their readings by themselves, and what do their lines mean? */
export function Instruments() {
  const links = useLinks();
  const [changing, setChanging] = useState<Partial<LinkView> | null>(null);
  const [teaching, setTeaching] = useState<string | null>(null);
  const taught = links.data?.find((one) => one.id === teaching);
  return (
    <Page title="Instruments on the line">
      <h1>
        Instruments on the line
        <small>{links.data && !links.data.length && "none yet"}</small>
      </h1>
      <Fault of={links.error} />
      <ul className="line-list">
        {links.data?.map((one) => (
          <li key={one.id} className={one.off ? "soft" : undefined}>
            <span>
              <b>{one.name}</b>
              <small>
                {one.way === "network"
                  ? `${one.host}, port ${one.port}`
                  : `serial port of one's own device, ${one.baud} baud`}
                {one.off && ", switched off"}
              </small>
            </span>
            <span>{one.pattern ? "taught" : "simple format"}</span>
            <span className="line-acts">
              <Button
                variant={teaching === one.id ? "primary" : "outline-primary"}
                onClick={() => setTeaching(teaching === one.id ? null : one.id)}
                aria-label={`Teach ${one.name}`}
                aria-expanded={teaching === one.id}
              >
                Teach
              </Button>
              <Button variant="link" onClick={() => setChanging(one)} aria-label={`Change ${one.name}`}>
                Change
              </Button>
            </span>
          </li>
        ))}
      </ul>
      <Button variant="outline-primary" onClick={() => setChanging({ way: "network", systems: [] })}>
        Register an instrument
      </Button>
      {taught && <Teach key={taught.id} link={taught} />}
      {!taught && (
        <details className="line-format">
          <summary>The simple format</summary>
          <p>
            One reading a line, in UTF-8: <code>weight=1234.5 kg steady</code>. Name and state may be left out; instead
            of the figure it may say <code>over</code>, <code>under</code> or <code>fault</code>. Whatever speaks
            otherwise is taught by pointing at a line that it sent.
          </p>
        </details>
      )}
      {changing && <LinkForm link={changing} onDone={() => setChanging(null)} />}
    </Page>
  );
}

const WAYS = [
  ["network", "on the local network (TCP)"],
  ["serial", "on the serial port of one's own device"],
] as const;
const BAUDS = [1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200] as const;

function LinkForm({ link, onDone }: { link: Partial<LinkView>; onDone: () => void }) {
  const cache = useQueryClient();
  const systems = useSystemNames().data ?? [];
  const [name, setName] = useState(link.name ?? "");
  const [way, setWay] = useState<LinkIn["way"]>(link.way ?? "network");
  const [host, setHost] = useState(link.host ?? "");
  const [port, setPort] = useState(link.port ? String(link.port) : "");
  const [baud, setBaud] = useState(String(link.baud ?? 9600));
  const [most, setMost] = useState(link.most ?? "");
  const [off, setOff] = useState(link.off ?? false);
  const [of, setOf] = useState<string[]>(link.systems ?? []);
  const keep = async () => {
    const body: LinkIn = {
      ...{ name, way, host, most, off, systems: of },
      port: Math.round(Number(port)) || 0,
      baud: Number(baud) as LinkIn["baud"],
    };
    await asked(
      link.id
        ? api.PUT("/api/links/{link_id}", { params: { path: { link_id: link.id } }, body })
        : api.POST("/api/links", { body }),
    );
    void cache.invalidateQueries({ queryKey: ["links"] });
  };
  return (
    <DialogForm title={link.name ?? "An instrument on the line"} keep="Keep" onKeep={keep} onDone={onDone} wide>
      {(problem) => (
        <>
          <TextField name="name" label="Name" value={name} onChange={setName} problem={problem} long={80} />
          <ChoiceField
            name="way"
            label="Where it is"
            value={way ?? "network"}
            onChange={(value) => setWay(value as LinkIn["way"])}
            options={WAYS}
          />
          {way === "network" ? (
            <div className="d-flex gap-3">
              <div className="flex-grow-1">
                <TextField
                  name="host"
                  label="Address"
                  value={host}
                  onChange={setHost}
                  problem={problem}
                  long={120}
                  hint="Looked up now, and reached there for good"
                />
              </div>
              <TextField name="port" label="Port" value={port} onChange={setPort} problem={problem} />
            </div>
          ) : (
            <ChoiceField
              name="baud"
              label="Baud"
              value={baud}
              onChange={setBaud}
              options={BAUDS.map((one) => [String(one), String(one)] as const)}
            />
          )}
          <TextField
            name="most"
            label="Its range ends at"
            value={most}
            onChange={setMost}
            problem={problem}
            hint="Such as 1500 kg: what shows more is not taken"
          />
          <fieldset className="mb-3">
            <legend className="form-label">Systems that take their readings from it</legend>
            <div className="line-systems">
              {systems.map((one) => (
                <Form.Check
                  key={one.id}
                  id={`system-${one.id}`}
                  label={one.name}
                  checked={of.includes(one.id)}
                  onChange={(event) => setOf(event.target.checked ? [...of, one.id] : of.filter((id) => id !== one.id))}
                />
              ))}
            </div>
            <Said problem={problem} path="systems" />
          </fieldset>
          <Form.Check
            id="link-off"
            label="Switched off"
            checked={off}
            onChange={(event) => setOff(event.target.checked)}
          />
        </>
      )}
    </DialogForm>
  );
}
