import { type ReactNode, useState } from "react";
import Button from "react-bootstrap/Button";
import { asProblem, type InputView, type JobView, type PartView, type RowView } from "../api/client";
import { type Figured, shown, signed } from "../ui/words";
import { Choice, EntryField } from "./EntryField";
import { focusOn, newRow, useHand } from "./hand";
import { at, useBench } from "./useJob";

export const VALUE = "value";
const READINGS = ["mV/V", "kg", "t", "lb", "counts"];

/** The keys of a row of a list, as the method describes them; a plain list has the one key `value`. */
export function columnsOf(inputs: InputView[], list: string): InputView[] {
  const input = inputs.find((one) => one.key === list);
  if (!input) return [];
  if (input.fields.length) return input.fields;
  return [{ ...input, key: VALUE, kind: input.of ?? "number", fields: [] }];
}

const unitsOf = (column: InputView) => (column.kind === "reading" ? READINGS : column.units);

/** A result of the part's list of results, for the row at a place. */
export function resultAt(part: PartView, name: string, place: number): unknown {
  const found = part.assessment.results[name];
  return Array.isArray(found) ? found[place] : undefined;
}

/** A figure for reading, with its unit; per cent with its sign. */
export function figured(found: unknown, sign = false): string {
  const result = found as Figured | undefined;
  if (result?.value == null) return "";
  if (typeof result.value === "boolean") return result.value ? "yes" : "no";
  if (typeof result.value === "string") return result.value;
  if (result.unit === "%") return sign ? signed(result.value) : `${result.value.toFixed(2)} %`;
  const text = `${shown(result.value)} ${result.unit}`.trim();
  return sign && result.value > 0 ? `+${text}` : text;
}

export interface Column {
  title: string;
  cell: (row: RowView, place: number, text: (key: string) => string) => ReactNode;
}

/** The rows of a list, to read; one that is taken is typed in the dock below. */
export function ListTable({
  part,
  list,
  columns,
  empty,
}: {
  part: PartView;
  list: string;
  columns: Column[];
  empty: string;
}) {
  const bench = useBench();
  const hand = useHand();
  const full = at(part.key, list);
  const rows = bench.rows(full);
  let place = -1;
  return (
    <div className="tally-frame">
      <table className="list-table">
        <thead>
          <tr>
            <th scope="col">No.</th>
            {columns.map((column) => (
              <th key={column.title} scope="col">
                {column.title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, number) => {
            if (row.in_set) place += 1;
            const here = place;
            const text = (key: string) => {
              const field = bench.field(`${full}.${row.row}.${key}`);
              return field.text && field.unit && /^[\d.,\s+−-]+$/.test(field.text)
                ? `${field.text} ${field.unit}`
                : field.text;
            };
            return (
              <tr
                key={row.row}
                className={hand.row(full) === row.row ? "taken" : undefined}
                onClick={() => hand.take(full, row.row)}
              >
                <td>
                  <Button
                    variant="link"
                    className="tally-number"
                    aria-label={`Row ${number + 1}: change`}
                    aria-pressed={hand.row(full) === row.row}
                  >
                    {number + 1}
                  </Button>
                </td>
                {columns.map((column) => (
                  <td key={column.title}>{column.cell(row, here, text)}</td>
                ))}
              </tr>
            );
          })}
          {rows.length === 0 && (
            <tr>
              <td colSpan={columns.length + 1} className="soft">
                {empty}
              </td>
            </tr>
          )}
        </tbody>
      </table>
    </div>
  );
}

interface DockProps {
  part: PartView;
  list: string;
  name: string;
  /** The keys to type here; all of them where nothing is said. */
  keys?: string[];
  /** Keys of which either ends the row, once it is typed. */
  ends?: string[];
  /** Rows that are named already and lack a figure come first. */
  resume?: boolean;
  /** Only rows that are there already: the next one is the next in the list. */
  fixed?: boolean;
  children?: ReactNode;
}

/** Where a row of a list is typed: large, and then straight on to the next. */
export function ListDock({ part, list, name, keys, ends, resume, fixed, children }: DockProps) {
  const bench = useBench();
  const hand = useHand();
  const full = at(part.key, list);
  const all = columnsOf(bench.methods.get(part.method)?.inputs ?? [], list);
  const columns = all.filter((column) => !keys || keys.includes(column.key));
  const [fresh, setFresh] = useState(newRow);
  const [units, setUnits] = useState<Record<string, string>>({});
  const rows = bench.rows(full);
  const taken = hand.row(full) ?? (fixed ? (nextOpen() ?? rows[0]?.row) : resume ? nextOpen() : undefined);
  const row = taken ?? fresh;
  const place = rows.findIndex((one) => one.row === row);
  const path = (key: string) => `${full}.${row}.${key}`;
  const first = columns.find((column) => !column.words.length) ?? columns[0];
  if (!bench.open || !first) return null;

  function nextOpen(): string | undefined {
    return rows.find((one) => lacks(one.row))?.row;
  }
  function lacks(one: string): boolean {
    return columns.some((column) => !column.words.length && !bench.field(`${full}.${one}.${column.key}`).text);
  }
  function unitFor(column: InputView): string {
    const known = unitsOf(column);
    if (!known.length) return "";
    if (units[column.key]) return units[column.key]!;
    for (const one of [row, ...rows.map((each) => each.row).reverse()])
      for (const key of [column.key, ...all.filter((other) => other.kind === column.kind).map((other) => other.key)]) {
        const field = bench.field(`${full}.${one}.${key}`);
        const said = field.unit || /[^\d.,\s+-]\S*$/.exec(field.text)?.[0];
        if (said && known.includes(said)) return said;
        if (column.kind === "reading" && field.text && !said) return "counts";
      }
    return known.includes(usual(bench.job, column)) ? usual(bench.job, column) : known[0]!;
  }
  const next = () => {
    if (fixed) {
      const after = rows[place + 1] ?? rows[0];
      hand.take(full, after?.row);
      if (after) focusOn(`${full}.${after.row}.${first.key}`);
      return;
    }
    const another = newRow();
    setFresh(another);
    hand.take(full, undefined);
    const waiting = resume ? rows.find((one) => one.row !== row && lacks(one.row)) : undefined;
    if (waiting) {
      focusOn(`${full}.${waiting.row}.${columns.at(-1)!.key}`);
      return;
    }
    focusOn(`${full}.${another}.${first.key}`);
  };
  const move = (way: 1 | -1) => {
    const to = rows[(place < 0 ? rows.length : place) + way];
    if (to) hand.take(full, to.row);
    else if (way === 1 && !fixed) next();
  };
  const takeOut = () => {
    const filled = all.filter((column) => bench.field(path(column.key)).text);
    bench.enter(...filled.map((column) => ({ path: path(column.key), text: "" })));
    hand.take(full, undefined);
  };
  const number = place < 0 ? rows.length + 1 : place + 1;
  const label = bench.field(path("label")).text;
  return (
    <div className="dock" data-sheet="" role="group" aria-label={`${name} ${number}`}>
      <div className="dock-head">
        <strong>
          {name} {label || number}
          {fixed && rows.length > 0 && <small className="unit"> of {rows.length}</small>}
        </strong>
        {children}
        {place >= 0 && (
          <span className="dock-acts">
            {!fixed && (
              <Button variant="link" onClick={takeOut}>
                Take out
              </Button>
            )}
            <Button variant="link" onClick={next}>
              {fixed ? `Next ${name.toLowerCase()}` : "New row"}
            </Button>
          </span>
        )}
      </div>
      <div className="dock-fields">
        {columns.map((column, index) =>
          column.words.length ? (
            <Choice key={path(column.key)} path={path(column.key)} label={column.title} words={column.words} />
          ) : (
            <EntryField
              key={path(column.key)}
              path={path(column.key)}
              label={column.title}
              kind={column.kind}
              big
              unit={unitFor(column)}
              units={unitsOf(column)}
              onUnit={(unit) => setUnits({ ...units, [column.key]: unit })}
              onEnter={
                ends?.includes(column.key)
                  ? (text) => (text.trim() || index === lastTyped(columns) ? next() : false)
                  : index === lastTyped(columns)
                    ? next
                    : undefined
              }
              onRow={move}
            />
          ),
        )}
      </div>
    </div>
  );
}

const lastTyped = (columns: InputView[]) =>
  columns.reduce((last, column, index) => (column.words.length ? last : index), 0);

/** The unit that the plates of this system speak in. */
function usual(job: JobView, column: InputView): string {
  if (column.kind === "mass") {
    const plate =
      job.system.plates.division ?? job.system.plates.indicated_division ?? job.system.plates.capacity ?? "";
    return /[a-z]+$/.exec(plate)?.[0] ?? "kg";
  }
  return "";
}

/** Rows of a list out of a CSV file; refused rows are listed by line and reason. */
export function BringRows({ full }: { full: string }) {
  const bench = useBench();
  const [said, setSaid] = useState<{ path: string; text: string }[]>([]);
  const bring = async (file: File | undefined) => {
    if (!file) return;
    const token = document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? "";
    const answer = await fetch(`/api/jobs/${bench.job.id}/rows?list=${encodeURIComponent(full)}`, {
      method: "POST",
      body: file,
      headers: { "X-CSRFToken": token, "Content-Type": "text/csv" },
    });
    const body: unknown = await answer.json().catch(() => null);
    if (answer.ok) {
      setSaid([]);
      bench.fresh((body as { job: JobView }).job);
    } else {
      const problem = asProblem(answer.status, body);
      setSaid(problem.errors.length ? problem.errors : [{ path: "", text: problem.title }]);
    }
  };
  if (!bench.open) return null;
  return (
    <div className="bring-rows">
      <label className="btn btn-link">
        Bring in from CSV
        <input
          type="file"
          accept=".csv,text/csv"
          className="visually-hidden"
          onChange={(event) => void bring(event.target.files?.[0])}
        />
      </label>
      {said.length > 0 && (
        <div className="say fault" role="alert">
          <strong>Nothing was brought in</strong>
          {said.map((row) => (
            <p key={row.path + row.text}>
              {row.path}: {row.text}
            </p>
          ))}
        </div>
      )}
    </div>
  );
}
