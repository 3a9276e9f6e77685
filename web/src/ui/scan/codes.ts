const OURS = /\/(systems|records|references)\/([0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12})\b/i;

export type Place = "systems" | "records" | "references";

/** What a code says: a thing of ours, by the address on its label, or a text of its own. */
export interface Code {
  text: string;
  of?: Place;
  id?: string;
}

export function codeIn(text: string): Code {
  const found = OURS.exec(text);
  return found ? { text, of: found[1]!.toLowerCase() as Place, id: found[2]!.toLowerCase() } : { text: text.trim() };
}

interface Labelled {
  id: string;
  name: string;
  label: string;
  certificate: string;
}

/** Which of these a code is on: by the address of its label, or by what is written on it. */
export function labelled<T extends Labelled>(code: Code, all: readonly T[]): T | undefined {
  if (code.of === "references") return all.find((one) => one.id === code.id);
  const text = code.text.toLowerCase();
  const says = (one: T) => [one.label, one.name, one.certificate].some((word) => word && word.toLowerCase() === text);
  return text ? all.find(says) : undefined;
}
