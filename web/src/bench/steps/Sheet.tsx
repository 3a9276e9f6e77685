import { useState } from "react";
import Button from "react-bootstrap/Button";
import { at } from "../../job/path";
import { useBench } from "../../job/useJob";
import { EntryField } from "../entry/EntryField";
import { newRow } from "../hand";
import type { StepProps } from "./props";

/** What the instrument is set to, as found beside as left, by purpose. */
export function SheetStep({ part, step }: StepProps<"sheet">) {
  const bench = useBench();
  const full = at(part.key, step.list);
  const [extra, setExtra] = useState("");
  const usual = new Set(step.groups.flatMap((group) => group.lines.map((line) => line.name)));
  const nameOf = (row: string) => bench.field(`${full}.${row}.name`).text;
  const more = bench.rows(full).filter((row) => !usual.has(nameOf(row.row)));
  const differences = part.assessment.tables[step.differences ?? ""] ?? [];
  const compared = part.assessment.tables[step.compared ?? ""] ?? [];
  return (
    <div className="settings">
      {compared.length > 0 && (
        <table className="list-table told">
          <caption>Is the instrument told what the machine is?</caption>
          <thead>
            <tr>
              <th scope="col">Setting</th>
              <th scope="col">The instrument is told</th>
              <th scope="col">The plate says</th>
              <th scope="col" />
            </tr>
          </thead>
          <tbody>
            {compared.map((row) => (
              <tr key={String(row.name!.value)} className={row.state!.value === "agrees" ? "" : "told-apart"}>
                <td>{String(row.name!.value)}</td>
                <td>{String(row.told!.value)}</td>
                <td>{String(row.plate!.value)}</td>
                <td>{String(row.state!.value)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {differences.length > 0 && (
        <div className="say">
          <strong>Differs between as found and as left</strong>
          {differences.map((row) => (
            <p key={String(row.name!.value)}>
              {String(row.name!.value)}: {String(row.found!.value)} → {String(row.left!.value)}
            </p>
          ))}
        </div>
      )}
      {step.groups.map((group) => (
        <section key={group.title}>
          <h3>{group.title}</h3>
          {group.lines.map((line) => (
            <Line key={line.name} full={full} row={rowNamed(line.name)} title={line.title} name={line.name} />
          ))}
        </section>
      ))}
      <section>
        <h3>Of this instrument</h3>
        {more.map(({ row }) => (
          <Line
            key={row}
            full={full}
            row={row}
            title={nameOf(row)}
            says={bench.field(`${full}.${row}.digits`).text || undefined}
          />
        ))}
        {bench.open && (
          <form
            className="d-flex gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              if (extra.trim()) bench.enter({ path: `${full}.${newRow()}.name`, text: extra.trim() });
              setExtra("");
            }}
          >
            <input
              className="form-control"
              aria-label="Another setting"
              placeholder="another setting"
              value={extra}
              onChange={(event) => setExtra(event.target.value)}
            />
            <Button type="submit" variant="outline-primary">
              Add
            </Button>
          </form>
        )}
      </section>
    </div>
  );
}

/** The usual settings have rows of their own names, so that two devices type into the same. */
const rowNamed = (name: string) => name.replaceAll("_", "").slice(0, 16);

interface LineProps {
  full: string;
  row: string;
  title: string;
  /** The name that the row takes once something is typed in it. */
  name?: string;
  says?: string;
}

function Line({ full, row, title, name, says }: LineProps) {
  const bench = useBench();
  const path = (key: string) => `${full}.${row}.${key}`;
  const named = (event: React.FocusEvent) => {
    if (!name || !(event.target instanceof HTMLInputElement) || !event.target.value) return;
    if (!bench.field(path("name")).text) bench.enter({ path: path("name"), text: name });
  };
  return (
    <div className="settings-row" onBlur={named}>
      <span>
        {title}
        {says && <small className="soft d-block">{says}</small>}
      </span>
      <EntryField path={path("found")} label={`${title}, as found`} hideLabel kind="string" />
      <EntryField path={path("left")} label={`${title}, as left`} hideLabel kind="string" />
    </div>
  );
}
