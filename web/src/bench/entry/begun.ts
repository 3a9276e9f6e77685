import { useReferences } from "../../api/queries";
import type { Bench } from "../../job/useJob";

/** A path, and what stands at it in a row that begins itself. */
export type Begun = readonly [path: string, text: string];

/** A bench in which a row begins itself: what it begins with is seen, and goes in with the first thing that is entered. */
export function withBegun(bench: Bench, begins: readonly Begun[]): Bench {
  if (!begins.length) return bench;
  const begun = new Map(begins);
  return {
    ...bench,
    field: (path) => {
      const held = bench.field(path);
      return held.text ? held : { ...held, text: begun.get(path) ?? "" };
    },
    enter: (...typed) => {
      const along = begins.filter(([path]) => !typed.some((one) => one.path === path));
      bench.enter(...along.map(([path, text]) => ({ path, text })), ...typed);
    },
  };
}

/** The tare of the container in hand: that of the row before, where it is one on record. */
export function useTareInHand(bench: Bench, before: string | undefined): string {
  const references = useReferences().data ?? [];
  const text = before ? bench.field(before).text : "";
  const unit = before ? bench.field(before).unit : "";
  const said = unit && /^[\d.,\s]+$/.test(text) ? `${text} ${unit}` : text;
  return references.some((one) => one.kind === "container" && one.tare === said) ? said : "";
}
