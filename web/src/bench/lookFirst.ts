import type { PartView, Schemas, StepView } from "../api/client";
import { at } from "../job/path";
import type { Bench } from "../job/useJob";

type Item = Schemas["LookFirstItem"];

/** Whether a step is the one look first of a visit, made of what all of its parts look at. */
const isWhole = (bench: Bench, part: PartView, step: StepView) =>
  step.kind === "look" && step.key === "look" && bench.job.look_first?.part === part.key;

/** What a step asks one to look at and tick: of a visit's look first, each thing of its parts once. */
export function itemsOf(bench: Bench, part: PartView, step: StepView): Item[] {
  if (isWhole(bench, part, step)) return bench.job.look_first!.items;
  return (step.items ?? []).map((item) => ({
    path: at(part.key, `tick.${step.key}.${item.key}`),
    text: item.text,
    loose_end: item.loose_end ?? "",
  }));
}

const cautionsIn = (bench: Bench, part: PartView, step: StepView): readonly string[] =>
  isWhole(bench, part, step) ? bench.job.look_first!.cautions : (step.cautions ?? []);

const seenAt = (part: PartView, step: StepView) => at(part.key, `caution.${step.key}`);

/** What to beware of in a step: what was not seen in this visit already, at another step. */
export function cautionsOf(bench: Bench, part: PartView, step: StepView): readonly string[] {
  const own = cautionsIn(bench, part, step);
  if (!own.length || bench.field(seenAt(part, step)).text === "yes") return own;
  const seen = new Set<string>();
  for (const one of bench.job.parts)
    for (const other of bench.method(one).steps)
      if (bench.field(seenAt(one, other)).text === "yes")
        for (const caution of cautionsIn(bench, one, other)) seen.add(caution);
  return own.filter((caution) => !seen.has(caution));
}
