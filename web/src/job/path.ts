/**
 * The grammar of paths, which name a place in a job: `part/list.row.key`, `part/inputs.key`, `list.row.inner.row.key`.
 *
 * It stands here alone: whoever wants to know where a path leads asks here.
 */

/** The key under which a row of a plain list holds its one figure. */
export const VALUE = "value";

/** The full path of a place in a part of a visit; the main part has no name. */
export const at = (part: string, path: string) => (part ? `${part}/${path}` : path);

/** The path of a place in a row of a list. */
export const inRow = (list: string, row: string, key: string = VALUE) => `${list}.${row}.${key}`;

/** The part that a path belongs to, and the rest of it. */
export function parted(path: string): { part: string; rest: string } {
  const end = path.indexOf("/");
  return end < 0 ? { part: "", rest: path } : { part: path.slice(0, end), rest: path.slice(end + 1) };
}

/** The words on the way to an input within its part, rows among them. */
export function wayTo(path: string): string[] {
  const words = parted(path).rest.split(".");
  return words[0] === "inputs" ? words.slice(1) : words;
}

export interface Place {
  part: string;
  /** The list that it lies in, without its part, its row, and what it is called there; no list for a single field. */
  list: string;
  row: string;
  key: string;
}

/** Where a path leads: part, list, row and key. */
export function placeOf(path: string): Place {
  const { part, rest } = parted(path);
  const words = rest.split(".");
  const key = words.pop() ?? "";
  // What stands in a block has its name before it, as what stands in a list has that of the list.
  if (words[0] === "inputs" || !words.length) return { part, list: words.slice(1).join("."), row: "", key };
  return { part, list: words.slice(0, -1).join("."), row: words.at(-1) ?? "", key };
}

/** The list and the place in each of its rows that a column's name says, such as `grades.name`. */
export function columnOf(name: string): { list: string; key: string } {
  const end = name.lastIndexOf(".");
  return { list: name.slice(0, end), key: name.slice(end + 1) };
}

/** The row of a list that a path lies in; null where it lies in none of it. */
export function rowOf(path: string, list: string): string | null {
  return path.startsWith(`${list}.`) ? (path.slice(list.length + 1).split(".")[0] ?? null) : null;
}

/** A list's own name without the rows on the way to it, `trials.fills` of `trials.t2.fills`. */
export const withoutRows = (list: string) =>
  list
    .split(".")
    .filter((_, place) => place % 2 === 0)
    .join(".");

/** How many lists a list lies in. */
export const depthOf = (list: string) => (list.split(".").length - 1) / 2;

/** The list and the key that a source of readings names, `groups.empty_ticket`; no list for a key alone. */
export function namedBy(into: string): { list: string; key: string } {
  const end = into.indexOf(".");
  return end < 0 ? { list: "", key: into } : { list: into.slice(0, end), key: into.slice(end + 1) };
}

/** The last word of a list's name. */
export const lastOf = (list: string) => list.slice(list.lastIndexOf(".") + 1);

/** The blocks that a single input lies in, `part/inputs.working` of `part/inputs.working.speed`; none for one that lies in none. */
export function blocksAround(path: string): string[] {
  const begin = path.indexOf("inputs.") + "inputs.".length;
  const found: string[] = [];
  if (begin >= "inputs.".length)
    for (let end = path.lastIndexOf("."); end > begin; end = path.lastIndexOf(".", end - 1))
      found.push(path.slice(0, end));
  return found;
}
