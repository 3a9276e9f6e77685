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
        least ? `${round(least.value)} ${least.unit}` : "",
      );
    }
    case "figures":
      return with_(part.assessment.call === "leave", "");
    case "cells": {
      const rows = bench.rows(at(part.key, step.runs!));
      const pressed = rows.filter((row) => bench.field(`${at(part.key, step.runs!)}.${row.row}.pressed`).text).length;
      return with_(rows.length > 0 && pressed === rows.length, rows.length ? `${pressed} of ${rows.length}` : "");
    }
    case "rows":
    case "passes":
    case "corners":
    case "points":
    case "list":
    case "revolutions":
    case "idle":
    case "settings": {
      const count = bench.rows(at(part.key, step.runs!)).length;
      const settled =
        ["rows", "list", "settings"].includes(step.kind) ||
        !["not-ready", "keep-testing"].includes(part.assessment.call);
      return with_(count > 0 && settled, count ? String(count) : "");
    }
    case "runs": {
      const count = bench.rows(at(part.key, step.runs!)).length;
      const call = step.runs === "runs" ? (part.assessment.as_found ?? part.assessment).call : part.assessment.call;
      const enough = step.runs === "as_left" ? call === "leave" : ["leave", "adjust"].includes(call);
      return with_(count > 0 && enough, count ? `${count} ${count === 1 ? "run" : "runs"}` : "");
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

/** One step of the run sheet with the part that it belongs to. */
export interface Placed {
  part: PartView;
  step: StepView;
  title: string;
}

/** The run sheet from top to bottom. */
export function sheetOf(bench: Bench): Placed[] {
  return bench.job.sheet.flatMap((section) => {
    const part = bench.part(section.part);
    const steps = bench.methods.get(part.method)?.steps ?? [];
    return section.steps.flatMap((key) => {
      const step = steps.find((one) => one.key === key);
      return step ? [{ part, step, title: section.title }] : [];
    });
  });
}

/** The first step that is still open, to begin at. */
export function firstOpen(bench: Bench): { part: string; step: string } {
  const sheet = sheetOf(bench);
  const open = sheet.find(({ part, step }) => !progressOf(bench, part, step).done) ?? sheet.at(-1)!;
  return { part: open.part.key, step: open.step.key };
}
