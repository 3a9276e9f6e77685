import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Dropdown from "react-bootstrap/Dropdown";
import { Link, useLocation, useNavigate, useParams } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { useMe, useRecord } from "../api/queries";
import { DialogForm } from "../ui/DialogForm";
import { Fault, Waiting } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { aloud } from "../ui/quantity";
import { TextField } from "../ui/TextField";
import { counted, moment, signed } from "../ui/words";
import { Calls } from "./Calls";
import { Doors } from "./Doors";

/** A sealed record: its paper, its seal, and every entry that led to it. */
export function RecordPage() {
  const { id = "" } = useParams();
  const found = useRecord(id);
  const me = useMe().data;
  const handed = useLocation().hash.slice(1);
  const record = found.data;
  if (!record)
    return found.error ? (
      <Page title="Record">
        <Fault of={found.error} />
      </Page>
    ) : (
      <Waiting />
    );
  return (
    <Page title={`Record ${record.number}`}>
      <div className="system-head">
        <Calls done={record} size={40} />
        <h1>
          Record {record.number}
          <small>
            {record.title} · {record.system_name} · {record.site}
          </small>
        </h1>
      </div>
      {record.put_right_by && (
        <div className="say fault" role="alert">
          <strong>
            Put right by <Link to={`/records/${record.put_right_by.id}`}>record {record.put_right_by.number}</Link>
          </strong>
          <p>Do not rely on this one: {record.put_right_by.reason}</p>
        </div>
      )}
      {record.puts_right && (
        <p className="say">
          <strong>
            Puts <Link to={`/records/${record.puts_right.id}`}>record {record.puts_right.number}</Link> right
          </strong>{" "}
          {record.puts_right.reason}
        </p>
      )}
      <p className="mt-3 mb-1">
        Closed as <b>{record.outcome}</b> by {record.closed_by}, {moment(record.closed_at, record.time_zone)}.
        {record.error != null &&
          ` Left at ${signed(record.error)}${record.uncertainty != null ? ` ± ${record.uncertainty.toFixed(2)} %` : ""}.`}
        {record.factor_after &&
          ` Factor ${record.factor_after}${record.factor_before !== record.factor_after ? `, was ${record.factor_before}` : ""}.`}
      </p>
      {record.provisional && (
        <p className="mb-1">
          <b className="provisional">Provisional</b>
        </p>
      )}
      <div className="begin">
        <a className="btn btn-primary" href={`/api/records/${id}/certificate.pdf`}>
          Certificate, PDF
        </a>
        <a className="btn btn-outline-primary" href={`/api/records/${id}/record.json`} download>
          The sealed job file
        </a>
        {record.sheets > 1 ? (
          <Dropdown>
            <Dropdown.Toggle variant="outline-primary">Work sheets</Dropdown.Toggle>
            <Dropdown.Menu>
              {Array.from({ length: record.sheets }, (_, sheet) => (
                <Dropdown.Item key={sheet} href={`/api/records/${id}/work-sheet.pdf?sheet=${sheet + 1}`}>
                  Sheet {sheet + 1} of {record.sheets}
                </Dropdown.Item>
              ))}
            </Dropdown.Menu>
          </Dropdown>
        ) : (
          <a className="btn btn-outline-primary" href={`/api/records/${id}/work-sheet.pdf`}>
            Work sheet
          </a>
        )}
        <a className="btn btn-outline-primary" href={`/api/records/${id}/readings.csv`} download>
          Readings, CSV
        </a>
        <Dropdown>
          <Dropdown.Toggle variant="outline-primary">Sticker</Dropdown.Toggle>
          <Dropdown.Menu>
            <Dropdown.Item href={`/api/records/${id}/sticker.pdf?size=62x29`}>62 × 29 mm</Dropdown.Item>
            <Dropdown.Item href={`/api/records/${id}/sticker.pdf?size=a7`}>A7</Dropdown.Item>
          </Dropdown.Menu>
        </Dropdown>
        {me?.works && (
          <Link className="btn btn-outline-primary" to={`/jobs/${record.job}`}>
            See it on the bench
          </Link>
        )}
      </div>
      <WhatItCameTo record={record} />
      <WhatChanged record={record} />
      {record.papers.length > 0 && (
        <>
          <h2>Photographs and papers</h2>
          <div className="record-attachments">
            {record.papers.map((one) => (
              <figure key={one.id} className={`paper${one.set_aside ? " paper-aside" : ""}`}>
                <a
                  href={`/api/attachments/${one.id}/file`}
                  className={one.kind === "application/pdf" ? "paper-pdf" : undefined}
                >
                  {one.kind === "application/pdf" ? (
                    "PDF"
                  ) : (
                    <img src={`/api/attachments/${one.id}/small`} alt={one.name} loading="lazy" />
                  )}
                </a>
                <figcaption>
                  {one.belongs_to}
                  {one.set_aside && <small>set aside: {one.set_aside}</small>}
                </figcaption>
              </figure>
            ))}
          </div>
        </>
      )}
      {record.late.map((one) => (
        <Late key={one.id} record={id} paper={one} zone={record.time_zone} leads={me?.leads ?? false} />
      ))}
      <Trail record={record} />
      <h2>Seal</h2>
      {handed && handed !== record.sha256 && (
        <div className="say fault" role="alert">
          <strong>This is not the record that the certificate was made from</strong>
          <p>The code on it carries another seal: the chain was made anew since. Ask a lead to verify it.</p>
        </div>
      )}
      {record.fits ? (
        <div className="say fault" role="alert">
          <strong>This record does not fit its seal</strong>
          <p>{record.fits}.</p>
        </div>
      ) : (
        <p className="mb-1">The record fits its seal, and the entries in the log are those that were sealed.</p>
      )}
      <p className="seal-code mb-0">{record.sha256}</p>
      {record.previous && <p className="seal-code soft">after {record.previous}</p>}
      {me?.leads && <Doors record={id} />}
      {record.may_put_right && <PutRight id={id} number={record.number} />}
    </Page>
  );
}

interface OfRecord {
  record: Schemas["RecordView"];
}

/** The call of the machine, and of each part its figures; what was only looked at in passing is one line. */
function WhatItCameTo({ record }: OfRecord) {
  return (
    <>
      {record.machine && (
        <section className="sealed-part">
          <h2>The machine: {record.machine.call}</h2>
          {record.machine.reasons.map((reason) => (
            <p key={reason}>{reason}</p>
          ))}
        </section>
      )}
      {record.parts.map((part) => (
        <section key={part.title} className="sealed-part">
          <h2>
            {part.title}: {part.headline}
          </h2>
          {part.figures.length > 0 ? (
            <Named rows={part.figures} />
          ) : (
            part.line.length > 0 && !part.stages.length && <Named rows={part.line} />
          )}
          <div className="sealed-stages">
            {part.stages.map((stage) => stage.rows.length > 0 && <Stage key={stage.name} stage={stage} />)}
          </div>
          {part.tables.filter(saysMore).map((table) => (
            <Listed key={table.title} table={table} />
          ))}
          {part.reasons.map((reason) => (
            <p key={reason}>{reason}</p>
          ))}
        </section>
      ))}
    </>
  );
}

type Table = Schemas["SealedTable"];

/** Whether a table says anything that none before it says: steps of one list share its columns. */
function saysMore(table: Table, place: number, all: Table[]) {
  return !all.slice(0, place).some((other) => {
    const at = table.heads.map((head) => other.heads.indexOf(head));
    if (at.includes(-1) || other.rows.length !== table.rows.length) return false;
    return table.rows.every((row, number) => row.every((text, column) => text === other.rows[number]![at[column]!]));
  });
}

function Named({ rows }: { rows: Schemas["NamedFigure"][] }) {
  return (
    <dl className="sealed-figures">
      {rows.map(({ name, text }) => (
        <div key={name}>
          <dt>{name}</dt>
          <dd>
            <InRows text={text} />
          </dd>
        </div>
      ))}
    </dl>
  );
}

/** Figures by row and column stand row by row; a single one, or one list, as it is. */
function InRows({ text }: { text: string }) {
  const rows = text.split("; ");
  if (rows.length === 1 || !text.includes(", ")) return aloud(text);
  return rows.map((row, place) => <div key={place}>{aloud(row)}</div>);
}

/** Runs as they were found or left, with what they come to beneath. */
function Stage({ stage }: { stage: Schemas["SealedStage"] }) {
  return (
    <table className="table plain-table">
      <caption>{stage.name}</caption>
      <thead>
        <tr>
          <th scope="col">Run</th>
          <th scope="col">Weighed</th>
          <th scope="col">Shown</th>
          <th scope="col">Off</th>
        </tr>
      </thead>
      <tbody>
        {stage.rows.map((run) => (
          <tr key={run.number} className={run.aside ? "soft" : undefined}>
            <td>{run.number}</td>
            <td className="text-nowrap">{run.reference}</td>
            <td className="text-nowrap">{run.indicated}</td>
            <td className="text-nowrap">{run.aside ? `set aside: ${run.aside}` : run.error}</td>
          </tr>
        ))}
      </tbody>
      {stage.mean && (
        <tfoot>
          <tr>
            <th scope="row" colSpan={3}>
              mean
            </th>
            <td className="text-nowrap">
              <b>{stage.mean}</b>
              {stage.uncertainty && ` ± ${stage.uncertainty}`}
            </td>
          </tr>
        </tfoot>
      )}
    </table>
  );
}

function Listed({ table }: { table: Schemas["SealedTable"] }) {
  return (
    <div className="sealed-table">
      <table className="table plain-table">
        <caption>{table.title}</caption>
        <thead>
          <tr>
            <th scope="col">No.</th>
            {table.heads.map((head) => (
              <th key={head} scope="col">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.rows.map((row, number) => (
            <tr key={number}>
              <td>{number + 1}</td>
              {row.map((text, place) => (
                <td key={place}>{aloud(text)}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** What was keyed in, and why; a record of a machine that was left alone says so. */
function WhatChanged({ record }: OfRecord) {
  const changed = record.parts.filter((part) => part.adjustment.length > 0);
  return (
    <section className="sealed-part">
      <h2>What was changed, and why</h2>
      {!changed.length && <p>No figure was worked out or keyed in.</p>}
      {changed.map((part) => (
        <div key={part.title}>
          <h3>{part.title}</h3>
          <Named rows={part.adjustment} />
          {part.differs && <p className="wrong-text">{part.differs}</p>}
          {(part.stages[0]?.reasons ?? part.reasons).slice(0, 1).map((reason) => (
            <p key={reason}>{reason}</p>
          ))}
        </div>
      ))}
    </section>
  );
}

const SHOWN_AT_FIRST = 60;

/** Every entry in words, under the part of the visit that it was made in. */
function Trail({ record }: OfRecord) {
  const { trail, sections } = record;
  const [all, setAll] = useState(false);
  const [opened, setOpened] = useState<string[]>([]);
  const writtenIn = trail.filter((entry) => entry.source !== "record").length;
  const superseded = new Set(trail.map((entry) => entry.supersedes));
  let left = all ? trail.length : SHOWN_AT_FIRST;
  return (
    <>
      <h2>Every entry</h2>
      <table className="table plain-table trail">
        <thead>
          <tr>
            <th>When</th>
            <th>Who</th>
            <th>Where</th>
            <th>What</th>
          </tr>
        </thead>
        {sections.map((section) => {
          const known = section.entries.filter((place) => trail[place]!.source === "record");
          const written = section.entries.filter((place) => trail[place]!.source !== "record");
          const own = written.slice(0, Math.max(0, left));
          left -= own.length;
          if (!own.length && !known.length) return null;
          return (
            <tbody key={section.title}>
              {sections.length > 1 && (
                <tr>
                  <th colSpan={4} scope="rowgroup">
                    {section.title}
                  </th>
                </tr>
              )}
              {known.length > 0 && (
                <tr>
                  <td colSpan={4}>
                    <Button
                      variant="link"
                      className="p-0"
                      aria-expanded={opened.includes(section.title)}
                      onClick={() => setOpened(toggled(opened, section.title))}
                    >
                      {counted(known.length, "figure")} on record when it was opened
                    </Button>
                  </td>
                </tr>
              )}
              {[...(opened.includes(section.title) ? known : []), ...own].map((place) => (
                <EntryRow key={place} record={record} entry={trail[place]!} gone={superseded.has(trail[place]!.id)} />
              ))}
            </tbody>
          );
        })}
      </table>
      {!all && writtenIn > SHOWN_AT_FIRST && (
        <Button variant="link" onClick={() => setAll(true)}>
          {writtenIn - SHOWN_AT_FIRST} more entries
        </Button>
      )}
    </>
  );
}

const toggled = (list: string[], one: string) =>
  list.includes(one) ? list.filter((other) => other !== one) : [...list, one];

interface EntryRowProps extends OfRecord {
  entry: Schemas["SealedEntry"];
  gone: boolean;
}

function EntryRow({ record, entry, gone }: EntryRowProps) {
  return (
    <tr className={gone || entry.undoes ? "soft" : undefined}>
      <td className="text-nowrap">{moment(entry.at, record.time_zone)}</td>
      <td>{entry.who}</td>
      <td>{entry.where}</td>
      <td>
        {entry.undoes ? "taken back" : gone ? <s>{aloud(entry.says)}</s> : aloud(entry.says)}
        {SOURCE[entry.source] && <span className="soft"> {SOURCE[entry.source]}</span>}
        {!!entry.clock_off && <span className="soft d-block">{clockWords(entry.clock_off)}</span>}
        {entry.raw && <code className="d-block raw-line">{entry.raw}</code>}
      </td>
    </tr>
  );
}

/** That a time was put right, in words: `off` are the seconds by which the device's clock was ahead. */
function clockWords(off: number) {
  const minutes = Math.round(Math.abs(off) / 60);
  const much =
    minutes < 120
      ? `${minutes} min`
      : minutes < 2880
        ? `${Math.round(minutes / 60)} h`
        : `${Math.round(minutes / 1440)} days`;
  return `time by the server’s clock; the device’s was ${much} ${off > 0 ? "ahead" : "behind"}`;
}

const SOURCE: Record<string, string | undefined> = {
  record: "from the record",
  imported: "from a file",
  captured: "captured",
};

interface LateProps {
  record: string;
  paper: Schemas["LateAttachmentView"];
  zone: string;
  leads: boolean;
}

/** A photograph that came in after the seal is no part of the record: a lead says so, and it is not in its way any more. */
function Late({ record, paper, zone, leads }: LateProps) {
  const cache = useQueryClient();
  const [why, setWhy] = useState<string | null>(null);
  const keep = async () => {
    const params = { path: { record_id: record, attachment_id: paper.id } };
    const body = { why: why ?? "" };
    const view = await asked(api.POST("/api/records/{record_id}/late-attachments/{attachment_id}", { params, body }));
    cache.setQueryData(["record", record], view);
  };
  return (
    <div className={`say${paper.set_apart_at ? "" : " fault"}`}>
      <strong>
        “{paper.name}” came in after the seal{paper.set_apart_at ? " and was set apart" : ""}
      </strong>
      <p>
        From {paper.who}, {moment(paper.at, zone)}. It is no part of this record.
        {paper.set_apart_at && ` ${paper.set_apart_by}, ${moment(paper.set_apart_at, zone)}: ${paper.why}`}
      </p>
      {leads && !paper.set_apart_at && (
        <Button variant="outline-primary" onClick={() => setWhy("")}>
          Set it apart
        </Button>
      )}
      {why !== null && (
        <DialogForm title={`Set “${paper.name}” apart`} keep="Set it apart" onKeep={keep} onDone={() => setWhy(null)}>
          {(problem) => (
            <TextField
              name="why"
              label="Why, for the record"
              long={300}
              value={why}
              onChange={setWhy}
              problem={problem}
            />
          )}
        </DialogForm>
      )}
    </div>
  );
}

/** A mistake is put right by a further record that points back; this one stays as it is. */
function PutRight({ id, number }: { id: string; number: number }) {
  const [why, setWhy] = useState<string | null>(null);
  const navigate = useNavigate();
  const begin = async () => {
    const params = { path: { record_id: id } };
    const job = await asked(api.POST("/api/records/{record_id}/put-right", { params, body: { reason: why ?? "" } }));
    navigate(`/jobs/${job.id}`);
  };
  return (
    <p className="mt-2 mb-0">
      <Button variant="link" className="p-0" onClick={() => setWhy("")}>
        Something in it is wrong: put it right
      </Button>
      {why !== null && (
        <DialogForm
          title={`Put record ${number} right`}
          keep="Open it again"
          onKeep={begin}
          onDone={() => setWhy(null)}
        >
          {(problem) => (
            <>
              <p>
                A job is opened that says the same again. Change what was wrong, close it, and it is sealed as a further
                record that points back. This one stays as it is, marked.
              </p>
              <TextField
                name="reason"
                label="What was wrong"
                long={300}
                value={why}
                onChange={setWhy}
                problem={problem}
              />
            </>
          )}
        </DialogForm>
      )}
    </p>
  );
}
