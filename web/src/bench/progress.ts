import type { PartView, Schemas, Step, StepKind, StepView } from "../api/client";
import { at, blocksAround } from "../job/path";
import type { Bench } from "../job/useJob";
import { trimmed } from "../ui/quantity";
import { counted } from "../ui/words";
import { cautionsOf, fieldsOf, itemsOf } from "./together";
import { textOf } from "./entry/units";

/** Where a step stands: done or not, and what to say of it in a word or two. */
export interface Progress {
  done: boolean;
  says: string;
}

type Judge<K extends StepKind> = (bench: Bench, part: PartView, step: Step<K>) => Progress;

/** What a part says of what was found, before any change of its own. */
export const foundOf = (part: PartView): Schemas["StageView"] => part.assessment.as_found ?? part.assessment;

const ticked = (bench: Bench, part: PartView, step: StepView) => {
  const items = itemsOf(bench, part, step).filter((item) => !item.loose_end);
  const count = items.filter((item) => bench.field(item.path).text === "yes").length;
  return { count, of: items.length };
};

const entered = (bench: Bench, part: PartView, step: StepView): Progress => {
  const fields = fieldsOf(bench, part, step);
  const filled = fields.filter((one) => filledIn(bench, one.part, one.key));
  if (!fields.length) {
    const { count, of } = ticked(bench, part, step);
    return { done: of > 0 && count === of, says: of ? `${count} of ${of}` : "" };
  }
  return { done: filled.length > 0, says: fields.length === 1 ? "" : `${filled.length} of ${fields.length}` };
};

/** Whether an input holds anything: itself, or a place in its block. */
const filledIn = (bench: Bench, part: PartView, key: string) =>
  textOf(bench, part.key, key) !== "" || blocksOf(bench).has(at(part.key, `inputs.${key}`));

/** The inputs that are blocks in which anything stands; they are looked for once for a bench. */
const blocksOf = ofABench((bench) => {
  const found = new Set<string>();
  for (const path of Object.keys(bench.job.fields)) {
    const above = blocksAround(path);
    if (above.length && bench.field(path).text) above.forEach((block) => found.add(block));
  }
  return found;
});

/** What is worked out of a bench once, for as long as it is the same. */
function ofABench<T>(work: (bench: Bench) => T): (bench: Bench) => T {
  const known = new WeakMap<Bench, T>();
  return (bench) => {
    if (!known.has(bench)) known.set(bench, work(bench));
    return known.get(bench)!;
  };
}

/** A list is done once its call says what to do; finding a fault is not being done. */
const settled = (part: PartView) => ["adjust", "leave"].includes(part.assessment.call);

const PROGRESS: { [K in StepKind]: Judge<K> } = {
  look: (bench, part, step) => {
    const { count, of } = ticked(bench, part, step);
    return { done: count === of, says: of ? `${count} of ${of}` : "" };
  },
  enter: entered,
  plan: (bench, part, step) => {
    const least = part.assessment.comparison?.least;
    const done = (step.fields ?? []).some((key) => textOf(bench, part.key, key));
    return {
      done,
      says: typeof least?.value === "number" ? `${trimmed(+least.value.toPrecision(4))} ${least.unit}` : "",
    };
  },
  tally: (bench, part, step) => {
    const count = bench.rows(at(part.key, step.list ?? "runs")).length;
    const call = step.stage === "left" ? part.assessment.call : foundOf(part).call;
    const enough = step.stage === "left" ? call === "leave" : call === "leave" || call === "adjust";
    return { done: count > 0 && enough, says: count ? counted(count, "run") : "" };
  },
  rows: (bench, part, { rows }) => {
    const listed = bench.rows(at(part.key, rows.list));
    if (!rows.fixed)
      return {
        done: listed.length > 0 && (settled(part) || !decidedBy(part, rows.list)),
        says: listed.length ? String(listed.length) : "",
      };
    const key = rows.typed.find((one) => one !== "label" && one !== rows.typed[0]) ?? rows.typed[0]!;
    const filled = listed.filter((row) => bench.field(`${at(part.key, rows.list)}.${row.row}.${key}`).text).length;
    return {
      done: listed.length > 0 && filled === listed.length && settled(part),
      says: listed.length ? `${filled} of ${listed.length}` : "",
    };
  },
  sheet: (bench, part, step) => {
    const count = bench.rows(at(part.key, step.list)).length;
    return { done: count > 0, says: count ? String(count) : "" };
  },
  figures: (_, part) => ({ done: part.assessment.call === "leave", says: "" }),
  adjust: (bench, part) => {
    const call = foundOf(part).call;
    const read = bench.field(at(part.key, "read_back")).text;
    if (call === "adjust") return { done: !!read, says: read ? `shows ${read}` : "" };
    return { done: call === "leave", says: call === "leave" ? "not needed" : "" };
  },
  close: (bench) => {
    const ends = bench.job.loose_ends.filter((end) => !end.done);
    return { done: !bench.open, says: ends.length ? counted(ends.length, "loose end") : "" };
  },
};

/** Whether the call waits for this list: one of its reasons names it. */
const decidedBy = (part: PartView, list: string) => {
  const waits = ["not-ready", "keep-testing", "find-fault"].includes(part.assessment.call);
  const named = part.assessment.reasons.filter((reason) => reason.path);
  return waits && (!named.length || named.some((reason) => reason.path!.startsWith(`inputs.${list}`)));
};

const progressKnown = ofABench(() => new Map<string, Progress>());

export function progressOf(bench: Bench, part: PartView, step: StepView): Progress {
  const known = progressKnown(bench);
  const name = `${part.key} ${step.key}`;
  let found = known.get(name);
  if (!found) known.set(name, (found = judged(bench, part, step)));
  return found;
}

function judged(bench: Bench, part: PartView, step: StepView): Progress {
  const judge = PROGRESS[step.kind] as Judge<StepKind>;
  const { done, says } = judge(bench, part, step);
  const cautioned =
    !cautionsOf(bench, part, step).length || bench.field(at(part.key, `caution.${step.key}`)).text === "yes";
  return { done: done && cautioned, says };
}

/** One step of the run sheet with the part that it belongs to. */
export interface Placed {
  part: PartView;
  step: StepView;
  title: string;
  optional: boolean;
}

/** The run sheet from top to bottom. */
export function sheetOf(bench: Bench): Placed[] {
  return bench.job.sheet.flatMap((section) => {
    const part = bench.part(section.part);
    const steps = bench.method(part).steps;
    return section.steps.flatMap((key) => {
      const step = steps.find((one) => one.key === key);
      return step ? [{ part, step, title: section.title, optional: section.optional && !part.begun }] : [];
    });
  });
}

/**
 * The first step that is still open, to begin at: in the part that was worked at last, else on the
 * sheet; a part that is done only now and then is begun by choice.
 */
export function firstOpen(bench: Bench): { part: string; step: string } {
  const sheet = sheetOf(bench).filter((one) => !one.optional);
  const isOpen = ({ part, step }: Placed) => !progressOf(bench, part, step).done;
  const last = sheet.filter(({ part }) => part.begun).at(-1)?.part;
  const after = last ? sheet.slice(sheet.findIndex(({ part }) => part === last)) : sheet;
  const open = sheet.find((one) => one.part === last && isOpen(one)) ?? after.find(isOpen) ?? sheet.at(-1)!;
  return { part: open.part.key, step: open.step.key };
}

/** The step after this one on the sheet; parts that are done only now and then are passed over. */
export function nextStepOf(bench: Bench, part: PartView, step: StepView): Placed | undefined {
  const sheet = sheetOf(bench);
  const here = sheet.findIndex((one) => one.part.key === part.key && one.step.key === step.key);
  return sheet.slice(here + 1).find((one) => !one.optional || one.part.key === part.key);
}
