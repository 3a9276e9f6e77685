import { useState } from "react";
import Button from "react-bootstrap/Button";
import type { PartView } from "../api/client";
import { EntryField } from "./EntryField";
import { newRow } from "./hand";
import { at, useBench } from "./useJob";

const GROUPS: [string, [string, string][]][] = [
  [
    "Identity",
    [
      ["maker_number", "Serial number"],
      ["firmware", "Firmware"],
    ],
  ],
  [
    "Measuring",
    [
      ["capacity", "Capacity"],
      ["division", "Division"],
      ["change_over", "Change-over point"],
      ["division_above", "Division above it"],
      ["minimum_load", "Minimum load"],
      ["unit_shown", "Unit shown"],
      ["unit_calibrating", "Unit for calibrating"],
      ["cells", "Cells"],
      ["factor", "Factor"],
      ["gain", "Gain"],
      ["offset", "Offset"],
    ],
  ],
  [
    "Behaviour",
    [
      ["filter", "Filter: heavier is steadier and slower"],
      ["zero_tracking", "Zero tracking, in divisions"],
      ["power_up_zero", "Zero range at power-up"],
      ["gravity", "Gravity, and its place"],
    ],
  ],
  [
    "Outputs",
    [
      ["outputs", "Outputs"],
      ["address", "Address"],
    ],
  ],
  [
    "Access",
    [
      ["unlocked_by", "How it was unlocked, never the code"],
      ["seal", "Seal"],
    ],
  ],
];

/** What the instrument is set to, as found beside as left, by purpose. */
export function Settings({ part, list }: { part: PartView; list: string }) {
  const bench = useBench();
  const full = at(part.key, list);
  const [extra, setExtra] = useState("");
  const usual = GROUPS.flatMap(([, rows]) => rows.map(([name]) => name));
  const more = bench.rows(full).filter((row) => !usual.includes(rowName(row.row)));
  function rowName(row: string) {
    return bench.field(`${full}.${row}.name`).text;
  }
  /** The usual settings have rows of their own names, so that two devices type into the same. */
  const keyOf = (name: string) => name.replaceAll("_", "").slice(0, 16);
  const named = (name: string) => {
    const path = `${full}.${keyOf(name)}.name`;
    if (!bench.field(path).text) bench.enter({ path, text: name });
  };
  const differences = (part.assessment.results.differences ?? []) as Record<string, { value: string }>[];
  return (
    <div className="settings">
      {differences.length > 0 && (
        <div className="say">
          <strong>Differs between as found and as left</strong>
          {differences.map((row) => (
            <p key={row.name!.value}>
              {row.name!.value}: {row.found!.value} → {row.left!.value}
            </p>
          ))}
        </div>
      )}
      {GROUPS.map(([group, rows]) => (
        <section key={group}>
          <h3>{group}</h3>
          {rows.map(([name, title]) => (
            <div
              key={name}
              className="settings-row"
              onBlur={(event) => event.target instanceof HTMLInputElement && event.target.value && named(name)}
            >
              <span>{title}</span>
              <EntryField path={`${full}.${keyOf(name)}.found`} label={`${title}, as found`} hideLabel kind="string" />
              <EntryField path={`${full}.${keyOf(name)}.left`} label={`${title}, as left`} hideLabel kind="string" />
            </div>
          ))}
        </section>
      ))}
      <section>
        <h3>Of this instrument</h3>
        {more.map((row) => (
          <div key={row.row} className="settings-row">
            <span>
              {rowName(row.row)}
              <small className="soft d-block">{bench.field(`${full}.${row.row}.digits`).text}</small>
            </span>
            <EntryField
              path={`${full}.${row.row}.found`}
              label={`${rowName(row.row)}, as found`}
              hideLabel
              kind="string"
            />
            <EntryField
              path={`${full}.${row.row}.left`}
              label={`${rowName(row.row)}, as left`}
              hideLabel
              kind="string"
            />
          </div>
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
