import type { InputView, PartView, StepView } from "../../api/client";
import { at, depthOf, inRow, lastOf, namedBy, parted, placeOf, VALUE, wayTo, withoutRows } from "../../job/path";
import type { Bench } from "../../job/useJob";
import { type Docked, newRow } from "../hand";
import type { Readout } from "./types";

/** A readout that goes into whatever field takes its unit. */
const ANY_FIELD = "*";

/** The places in a block, or in one row of a list; a plain list has the one place `value`. */
const inside = (input: InputView): readonly InputView[] =>
  input.kind === "list" && !input.fields?.length
    ? [{ ...input, key: VALUE, kind: input.of ?? "string", of: null }]
    : (input.fields ?? []);

/** The input that a path belongs to, in the tree of its method. */
export function inputAt(bench: Bench, path: string): InputView | null {
  const words = wayTo(path);
  let known: readonly InputView[] = bench.method(bench.part(parted(path).part)).inputs;
  for (let index = 0; index < words.length; index++) {
    const input = known.find((one) => one.key === words[index]);
    if (!input) return null;
    if (index === words.length - 1) return input;
    known = inside(input);
    // A row's own name stands between a list and what is in it.
    if (input.kind === "list") index++;
  }
  return null;
}

/** The list of a step of rows or runs. */
const listOf = (step?: StepView): string =>
  step?.kind === "rows" ? step.rows.list : step?.kind === "tally" ? (step.list ?? "runs") : "";

/** The keys of what can be typed in a step: its inputs, or what the rows of its list hold; without a step, in the whole part. */
export function keysOf(bench: Bench, part: string, step?: StepView): Set<string> {
  const inputs = bench.method(bench.part(part)).inputs;
  const keys = new Set<string>();
  const add = (input: InputView) => {
    keys.add(input.key);
    inside(input).forEach(add);
  };
  const named: readonly string[] = step?.fields ?? [];
  const list = listOf(step);
  inputs.filter((input) => !step || input.key === list || named.includes(input.key)).forEach(add);
  return keys;
}

/** Whether a row says by one of its words that it is this one: a group, a cell, a grade. */
function isRow(bench: Bench, full: string, row: string, of: string): boolean {
  const above = `${full}.${row}.`;
  return Object.entries(bench.job.fields).some(
    ([path, field]) => path.startsWith(above) && field.text.trim().toLowerCase() === of.toLowerCase(),
  );
}

/** The readout that belongs into a field: by its name, by its row, or by its unit; null where none does. */
export function fitting(bench: Bench, path: string, readouts: readonly Readout[], chosen: string): Readout | null {
  const place = placeOf(path);
  const named = readouts.filter(
    (one) => !one.fault && one.into?.some((into) => into === place.key || into === `${place.list}.${place.key}`),
  );
  if (named.length) {
    const exact = named.filter((one) => one.into?.includes(`${place.list}.${place.key}`));
    if (exact.length && !place.row) return exact[0]!;
    const full = at(place.part, place.list);
    const own = named.filter((one) => one.of && place.row && isRow(bench, full, place.row, one.of));
    if (own.length) return own[0]!;
    const rows = place.list ? bench.rows(full).map((row) => row.row) : [];
    const of = named.filter((one) => one.of);
    // Rows without names go by their order.
    const index = rows.includes(place.row) ? rows.indexOf(place.row) : rows.length;
    return named.find((one) => !one.of) ?? of[index] ?? null;
  }
  const input = inputAt(bench, path);
  if (!input) return null;
  const takes = (one: Readout) =>
    !one.fault &&
    one.into?.includes(ANY_FIELD) &&
    (one.unit ? input.units?.includes(one.unit) : ["number", "integer", "reading"].includes(input.kind));
  return readouts.find((one) => one.key === chosen && takes(one)) ?? readouts.find(takes) ?? null;
}

export interface TicketFigure {
  into: string;
  text: string;
  unit: string;
  of?: string;
}

interface Found {
  path: string;
  /** What else has to be written so that a new row says which it is. */
  also: { path: string; text: string }[];
}

/** Where the figures of one ticket go in a part: into the row in hand, the row that they name, or a new one. A row that a dock holds is in hand wherever the focus is. */
export function placesFor(
  bench: Bench,
  part: PartView,
  step: StepView | undefined,
  field: string | null,
  docks: readonly Docked[],
  printed: readonly TicketFigure[],
): (Found & { figure: TicketFigure })[] {
  const inputs = bench.method(part).inputs;
  const stepList = listOf(step);
  // A figure may belong into one of several lists: then it goes into that of the step, and into no other.
  const listed = (figure: TicketFigure) => namedBy(figure.into).list;
  const isBlock = (name: string) => inputs.some((one) => one.key === name && one.kind === "block");
  const choice = new Set(printed.map(listed).filter((name) => name && !isBlock(name)));
  const figures = printed.filter(
    (figure) => choice.size < 2 || !choice.has(listed(figure)) || listed(figure) === stepList,
  );
  const here = field ? placeOf(field) : null;
  const fresh: Record<string, string> = {};
  const found: (Found & { figure: TicketFigure })[] = [];
  for (const figure of figures) {
    const { list, key } = namedBy(figure.into);
    const plain = inputs.find((one) => one.key === figure.into);
    if (plain && plain.kind !== "list") {
      found.push({ figure, path: at(part.key, `inputs.${figure.into}`), also: [] });
      continue;
    }
    const block = list ? inputs.find((one) => one.key === list && one.kind === "block") : undefined;
    if (block) {
      found.push({ figure, path: at(part.key, `inputs.${figure.into}`), also: [] });
      continue;
    }
    // The list in hand first, then the first that has a place of this name.
    const inHand = here && here.part === part.key && here.list ? here.list : "";
    const lists = listsWith(inputs, key).filter((one) => !list || one.path === list);
    const of =
      lists.find((one) => one.path === stepList || one.path.startsWith(`${stepList}.`)) ??
      lists.find((one) => one.path === withoutRows(inHand)) ??
      lists[0];
    if (!of) continue;
    const docked = docks.find((one) => one.part === part.key && withoutRows(one.list) === of.path);
    const focused = inHand === of.path || (inHand && lastOf(inHand) === lastOf(of.path));
    const name = docked?.list ?? (focused ? inHand : of.path);
    if (depthOf(name) !== of.depth) continue;
    const full = at(part.key, name);
    const rows = bench.rows(full).map((row) => row.row);
    const named = figure.of ? rows.find((row) => isRow(bench, full, row, figure.of!)) : undefined;
    const rowHere = figure.of ? undefined : (docked?.row ?? (inHand === name ? here?.row : undefined));
    // A row of one figure that is in is done: the next ticket is the next row.
    const held = key === VALUE && rowHere && bench.field(inRow(full, rowHere, key)).text ? undefined : rowHere;
    const last = rows.at(-1);
    const open = !figure.of && last && !bench.field(inRow(full, last, key)).text ? last : undefined;
    const slot = `${full} ${figure.of ?? ""}`;
    const row = named ?? held ?? open ?? (fresh[slot] ??= newRow());
    const word = of.input.fields?.find((one) => one.kind === "string");
    const also =
      figure.of && !named && word && !rows.includes(row) ? [{ path: inRow(full, row, word.key), text: figure.of }] : [];
    found.push({ figure, path: inRow(full, row, key), also });
  }
  return found;
}

/** Every list whose rows have a place of this name, with how deep it lies. */
function listsWith(
  inputs: readonly InputView[],
  key: string,
  above = "",
  depth = 0,
): { path: string; input: InputView; depth: number }[] {
  return inputs.flatMap((input) => {
    if (input.kind !== "list") return [];
    const path = above ? `${above}.${input.key}` : input.key;
    const own = inside(input).some((one) => one.key === key) ? [{ path, input, depth }] : [];
    return [...own, ...listsWith(input.fields ?? [], key, path, depth + 1)];
  });
}
