import type { PartView, Schemas, StepView } from "../api/client";
import { at } from "../job/path";
import type { Bench } from "../job/useJob";

/** What the parts of a visit do together: one look first, and one reading off. */

type Item = Schemas["LookFirstItem"];

/** The one look first of a visit, where this step is it. */
const lookFirst = (bench: Bench, part: PartView, step: StepView) =>
  step.kind === "look" && step.key === "look" && bench.job.look_first?.part === part.key
    ? bench.job.look_first
    : undefined;

/** The one reading off of a visit, where this step is it. */
const readOff = (bench: Bench, part: PartView, step: StepView) =>
  step.kind === "enter" && step.key === "plates" && bench.job.read_off?.part === part.key
    ? bench.job.read_off
    : undefined;

/** What a step asks one to look at and tick: of a visit's look first, each thing of its parts once. */
export function itemsOf(bench: Bench, part: PartView, step: StepView): readonly Item[] {
  const whole = lookFirst(bench, part, step);
  if (whole) return whole.items;
  return (step.items ?? []).map((item) => ({
    path: at(part.key, `tick.${step.key}.${item.key}`),
    text: item.text,
    loose_end: item.loose_end ?? "",
  }));
}

/** A figure that a step asks for: the part whose input it is, and the one under which it is typed. */
export interface Asked {
  part: PartView;
  under: string;
  key: string;
}

/** The figures that a step asks for: of a visit's reading off, each of its parts once, typed for all of them. */
export function fieldsOf(bench: Bench, part: PartView, step: StepView): Asked[] {
  const whole = readOff(bench, part, step);
  if (!whole) return (step.fields ?? []).map((key) => ({ part, under: part.key, key }));
  return whole.fields.map((one) => {
    const own = bench.field(at(one.part, `inputs.${one.key}`)).text;
    return { part: bench.part(one.part), under: own ? one.part : "", key: one.key };
  });
}

const cautionsIn = (bench: Bench, part: PartView, step: StepView): readonly string[] =>
  (lookFirst(bench, part, step) ?? readOff(bench, part, step))?.cautions ?? step.cautions ?? [];

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
