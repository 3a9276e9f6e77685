import { parted, placeOf, withoutRows } from "../../job/path";
import type { Bench } from "../../job/useJob";

/** The controls of a stand-in that the field in hand wants used before it is read, by the acts that its method declares. */
export function litBy(bench: Bench, doing: Record<string, string[]>, field: string | null): Set<string> {
  if (!field) return new Set();
  const { list, key } = placeOf(field);
  const method = bench.method(bench.part(parted(field).part));
  const place = list ? `${withoutRows(list)}.${key}` : `inputs.${key}`;
  return new Set((method.acts?.[place] ?? []).flatMap((act) => doing[act] ?? []));
}
