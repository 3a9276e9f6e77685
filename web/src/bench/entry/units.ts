import type { InputView } from "../../api/client";
import { at } from "../../job/path";
import type { Bench } from "../../job/useJob";
import { figureOf } from "../../ui/quantity";

/** The unit in which a column of a list is spoken of: as in the row in hand or the rows above, else as on this machine. */
export function usualUnit(bench: Bench, list: string, rows: string[], columns: InputView[], column: InputView): string {
  const alike = columns.filter((other) => other.kind === column.kind).map((other) => other.key);
  for (const row of [...rows].reverse())
    for (const key of [column.key, ...alike]) {
      const field = bench.field(`${list}.${row}.${key}`);
      const { unit } = figureOf(field.text, field.unit);
      if (field.text && column.units?.includes(unit)) return unit;
      if (field.text && !unit && column.kind === "reading") return "counts";
    }
  const usual = column.kind === "mass" ? bench.job.system.usual_mass : "";
  return column.units?.includes(usual) ? usual : (column.units?.[0] ?? "");
}

/** A field's text with its unit, as it is read. */
export function reads(bench: Bench, path: string): { figure: string; unit: string } {
  const field = bench.field(path);
  return figureOf(field.text, field.unit);
}

/** What is in force for an input of a part: its own, or what the visit shares. */
export const textOf = (bench: Bench, part: string, key: string) =>
  bench.field(at(part, `inputs.${key}`)).text || bench.field(`inputs.${key}`).text;
