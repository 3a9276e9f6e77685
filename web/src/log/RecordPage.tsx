import { Link, useParams } from "react-router";
import { useMe, useRecord } from "../api/queries";
import { Fault, Waiting } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { moment, signed } from "../ui/words";
import { Calls } from "./Calls";

/** A sealed record: its paper, its seal, and every entry that led to it. */
export function RecordPage() {
  const { id = "" } = useParams();
  const found = useRecord(id);
  const me = useMe().data;
  const record = found.data;
  if (!record)
    return found.error ? (
      <Page title="Record">
        <Fault of={found.error} />
      </Page>
    ) : (
      <Waiting />
    );
  const { trail, parts } = record;
  const superseded = new Set(trail.map((entry) => entry.supersedes));
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
      {parts.map((part) => (
        <section key={part.title} className="sealed-part">
          <h2>
            {part.title}: {part.headline}
          </h2>
          {part.differs && <p className="wrong-text">{part.differs}</p>}
          {part.reasons.map((reason) => (
            <p key={reason}>{reason}</p>
          ))}
        </section>
      ))}
      <div className="begin">
        <a className="btn btn-primary" href={`/api/records/${id}/certificate.pdf`}>
          Certificate, PDF
        </a>
        <a className="btn btn-outline-primary" href={`/api/records/${id}/record.json`} download>
          The sealed job file
        </a>
        {me?.works && (
          <Link className="btn btn-outline-primary" to={`/jobs/${record.job}`}>
            See it on the bench
          </Link>
        )}
      </div>
      <h2>Seal</h2>
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
      <h2>Every entry</h2>
      <table className="table plain-table">
        <thead>
          <tr>
            <th>When</th>
            <th>Who</th>
            <th>Where</th>
            <th>Typed</th>
          </tr>
        </thead>
        <tbody>
          {trail.map((entry) => (
            <tr key={entry.id} className={superseded.has(entry.id) || entry.undoes ? "soft" : undefined}>
              <td className="text-nowrap">{moment(entry.at, record.time_zone)}</td>
              <td>{entry.who}</td>
              <td>{entry.path}</td>
              <td>
                {entry.undoes ? (
                  "taken back"
                ) : superseded.has(entry.id) ? (
                  <s>{`${entry.text} ${entry.unit}`}</s>
                ) : (
                  `${entry.text} ${entry.unit}`
                )}
                {SOURCE[entry.source] && <span className="soft"> {SOURCE[entry.source]}</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Page>
  );
}

const SOURCE: Record<string, string | undefined> = {
  record: "from the record",
  imported: "from a file",
  captured: "captured",
};
