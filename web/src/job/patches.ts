import type { Changes, JobView, RowView } from "../api/client";

/** A row that holds nothing yet. */
export const emptyRow = (row: string): RowView => ({
  row,
  in_set: true,
  net: null,
  shown: null,
  error: null,
  predicted_error: null,
  remarks: {},
});

/** The job as the page holds it, after what changed; what is not named stays the same object. */
export function patched(job: JobView, entries: number, state: JobView["state"], changes: Changes | null): JobView {
  if (!changes) return { ...job, entries, state };
  const fields = changes.fields ? { ...job.fields, ...changes.fields } : job.fields;
  const rows = { ...job.rows };
  for (const [list, order] of Object.entries(changes.order ?? {})) {
    const known = new Map((rows[list] ?? []).map((row) => [row.row, row]));
    rows[list] = order.map((row) => known.get(row) ?? emptyRow(row));
  }
  for (const [list, changed] of Object.entries(changes.rows ?? {}))
    rows[list] = (rows[list] ?? []).map((row) =>
      changed[row.row] ? ({ ...row, ...changed[row.row] } as RowView) : row,
    );
  const parts = new Map((changes.parts ?? []).map((part) => [part.key, part]));
  return {
    ...job,
    entries,
    state,
    fields,
    rows,
    parts: job.parts.map((part) => parts.get(part.key) ?? part),
    loose_ends: changes.loose_ends ?? job.loose_ends,
    ways: changes.ways ?? job.ways,
    not_valid: changes.not_valid ?? job.not_valid,
    decides: changes.decides ?? job.decides,
    machine: changes.machine ? machineAfter(job.machine, changes.machine) : job.machine,
  };
}

/** The machine's call after what changed: suspects that are not named stay the same objects, in the order that is said. */
function machineAfter(machine: JobView["machine"], changes: NonNullable<Changes["machine"]>): JobView["machine"] {
  const { suspects, order, ...rest } = changes;
  const other = new Map((suspects ?? []).map((one) => [one.key, one]));
  const known = new Map([...machine.suspects.map((one) => [one.key, one] as const), ...other]);
  const keys = order ?? machine.suspects.map((one) => one.key);
  const said = Object.entries(rest).filter(([, value]) => value !== null && value !== undefined);
  return { ...machine, ...Object.fromEntries(said), suspects: keys.flatMap((key) => known.get(key) ?? []) };
}
