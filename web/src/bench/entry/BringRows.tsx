import { useState } from "react";
import Button from "react-bootstrap/Button";
import { api, asFile, asked, type InputView, Problem } from "../../api/client";
import { useBench } from "../../job/useJob";
import { FileButton } from "../../ui/FileButton";

const HEADER = "header.";
type Row = { path: string; text: string };

/** Rows of a list out of a CSV file; refused rows are listed by line and reason, unknown headers are asked about once. */
export function BringRows({ full, columns }: { full: string; columns: InputView[] }) {
  const bench = useBench();
  const [said, setSaid] = useState<Row[]>([]);
  const [asks, setAsks] = useState<{ file: File; headers: Row[] } | null>(null);
  const bring = async (file: File, named: Record<string, string> = {}) => {
    const query = {
      list: full,
      after: bench.job.entries,
      columns: Object.keys(named).length ? JSON.stringify(named) : "",
    };
    const params = { path: { job_id: bench.job.id }, query };
    try {
      bench.take(await asked(api.POST("/api/jobs/{job_id}/rows", { params, ...asFile(file) })));
      setSaid([]);
      setAsks(null);
    } catch (raised) {
      const problem = raised as Problem;
      const headers = problem.errors.filter((error) => error.path.startsWith(HEADER));
      const rows = problem.errors.filter((error) => !error.path.startsWith(HEADER));
      setAsks(headers.length ? { file, headers } : null);
      setSaid(rows.length || headers.length ? rows : [{ path: "", text: problem.title }]);
    }
  };
  if (!bench.open) return null;
  return (
    <div className="bring-rows">
      <FileButton accept=".csv,text/csv" onFile={(file) => void bring(file)}>
        Bring in from CSV
      </FileButton>
      {asks && (
        <Headers
          key={asks.headers.map((one) => one.path).join()}
          headers={asks.headers.map((one) => one.path.slice(HEADER.length))}
          columns={columns}
          onSaid={(named) => void bring(asks.file, named)}
          onLeave={() => setAsks(null)}
        />
      )}
      {said.length > 0 && (
        <div className="say fault" role="alert">
          <strong>Nothing was brought in</strong>
          {said.map((row) => (
            <p key={row.path + row.text}>
              {row.path && `${row.path}: `}
              {row.text}
            </p>
          ))}
        </div>
      )}
    </div>
  );
}

interface HeadersProps {
  headers: string[];
  columns: InputView[];
  onSaid: (named: Record<string, string>) => void;
  onLeave: () => void;
}

/** What each header means; said once, it is remembered for everyone here. */
function Headers({ headers, columns, onSaid, onLeave }: HeadersProps) {
  const [named, setNamed] = useState<Record<string, string | undefined>>({});
  const open = headers.filter((one) => named[one] === undefined);
  return (
    <div className="say" role="group" aria-label="What the headers mean">
      <strong>What do these headers mean?</strong>
      <p>Say it once; it is remembered for every file after this one.</p>
      {headers.map((header) => (
        <label key={header} className="header-row">
          <span>“{header}”</span>
          <select
            className="form-select"
            value={named[header] ?? "?"}
            onChange={(event) =>
              setNamed({ ...named, [header]: event.target.value === "?" ? undefined : event.target.value })
            }
          >
            <option value="?">choose</option>
            <option value="">leave this column out</option>
            {columns
              .filter((one) => one.kind !== "list" && one.kind !== "block")
              .map((one) => (
                <option key={one.key} value={one.key}>
                  {one.title}
                </option>
              ))}
          </select>
        </label>
      ))}
      <Button disabled={open.length > 0} onClick={() => onSaid(named as Record<string, string>)}>
        Bring it in
      </Button>
      <Button variant="link" onClick={onLeave}>
        Leave it
      </Button>
    </div>
  );
}
