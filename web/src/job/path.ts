/** The full path of a place in a part of a visit; the main part has no name. */
export const at = (part: string, path: string) => (part ? `${part}/${path}` : path);

/** The key under which a row of a plain list holds its one figure. */
export const VALUE = "value";

/** The list and the row that a path lies in, innermost; null where it lies in none that is known. */
export function rowOf(path: string, list: string): string | null {
  return path.startsWith(`${list}.`) ? (path.slice(list.length + 1).split(".")[0] ?? null) : null;
}
