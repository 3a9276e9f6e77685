import type { PartView, RowsView } from "../../api/client";
import { inRow } from "../../job/path";
import { useBench } from "../../job/useJob";
import { ago } from "../../ui/words";
import { useTick } from "../tools/tone";

/** Asks for what changes by itself, once it was read too long ago and rows are still wanted. */
export function ReadAgain({ part, rows, full }: { part: PartView; rows: RowsView; full: string }) {
  const bench = useBench();
  const { again } = rows;
  const wanted = !!again && bench.open && !["adjust", "leave"].includes(part.assessment.call);
  useTick(wanted, 15_000);
  if (!again || !wanted) return null;
  const read = bench.rows(full).map((one) => bench.field(inRow(full, one.row, again.key)));
  const last = read
    .flatMap((one) => (one.text && one.kept ? [one.kept.at] : []))
    .sort((a, b) => Date.parse(a) - Date.parse(b));
  const at = last.at(-1);
  if (!at || Date.now() - Date.parse(at) < again.minutes * 60_000) return null;
  return (
    <div className="say" role="status">
      {again.says} It was read {ago(at)}.
    </div>
  );
}
