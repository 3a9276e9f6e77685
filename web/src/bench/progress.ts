import type { PartView, StepView } from "../api/client";
import { at, type Bench } from "./useJob";

/** Where a step stands: done or not, and what to say of it in a word or two. */
export interface Progress {
  done: boolean;
  says: string;
}

export function progressOf(bench: Bench, part: PartView, step: StepView): Progress {
  const cautioned = !step.cautions.length || bench.field(at(part.key, `caution.${step.key}`)).text === "yes";
  const with_ = (done: boolean, says: string): Progress => ({ done: done && cautioned, says });
  const ends = bench.job.loose_ends.filter((end) => !end.done);
  switch (step.kind) {
    case "look": {
      const items = step.items.filter((item) => !item.loose_end);
      const ticked = items.filter(
        (item) => bench.field(at(part.key, `tick.${step.key}.${item.key}`)).text === "yes",
      ).length;
      return with_(ticked === items.length, items.length ? `${ticked} of ${items.length}` : "");
    }
    case "enter": {
      const filled = step.fields.filter((key) => textOf(bench, part, key));
      const says = step.fields.length === 1 ? "" : `${filled.length} of ${step.fields.length}`;
      return with_(filled.length > 0, says);
    }
    case "plan": {
      const least = part.assessment.results.smallest_amount as { value: number; unit: string } | undefined;
      return with_(
        step.fields.some((key) => textOf(bench, part, key)),
        least ? `from ${round(least.value)} ${least.unit}` : "",
      );
    }
    case "runs":
    case "rows": {
      const count = bench.rows(at(part.key, step.runs!)).length;
      const call = step.runs === "runs" ? (part.assessment.as_found ?? part.assessment).call : part.assessment.call;
      const enough = step.runs === "as_left" ? call === "leave" : ["leave", "adjust"].includes(call);
      return with_(
        count > 0 && enough,
        count ? `${count} ${count === 1 ? "row" : "rows"}`.replace("row", step.kind === "runs" ? "run" : "row") : "",
      );
    }
    case "adjust": {
      const call = (part.assessment.as_found ?? part.assessment).call;
      const read = bench.field(at(part.key, "read_back")).text || bench.field("read_back").text;
      return call === "adjust"
        ? with_(!!read, read ? `shows ${read}` : "")
        : with_(call === "leave", call === "leave" ? "not needed" : "");
    }
    case "close":
      return {
        done: !bench.open,
        says: ends.length ? `${ends.length} loose ${ends.length === 1 ? "end" : "ends"}` : "",
      };
    default:
      return with_(false, "");
  }
}

const round = (value: number) => String(Number(value.toPrecision(4)));

/** What is in force for an input of a part: its own, or what the visit shares. */
export function textOf(bench: Bench, part: PartView, key: string): string {
  return bench.field(at(part.key, `inputs.${key}`)).text || bench.field(`inputs.${key}`).text;
}

/** The first step that is still open, to begin at. */
export function firstOpen(bench: Bench): { part: string; step: string } {
  for (const part of bench.job.parts) {
    for (const step of bench.methods.get(part.method)?.steps ?? []) {
      if (!progressOf(bench, part, step).done) return { part: part.key, step: step.key };
    }
  }
  const last = bench.job.parts.at(-1)!;
  return { part: last.key, step: bench.methods.get(last.method)?.steps.at(-1)?.key ?? "" };
}
