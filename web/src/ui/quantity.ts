/** What a typed text is understood as, to echo it; the server reads it again by the same rules. */

export type Units = Record<string, Record<string, number>>;

export interface Understood {
  /** In the field's unit, for reading. */
  text: string;
  /** Whether the text says it in another way than the field would. */
  other: boolean;
}

const NUMBER = "[+-]?(?:\\d+\\.?\\d*|\\.\\d+)(?:[eE][+-]?\\d+)?";
const BARE = new RegExp(`^${NUMBER}$`);
const WITH_UNIT = new RegExp(`^(${NUMBER})\\s*([^\\d\\s]\\S*)$`);
const POUNDS_AND_OUNCES = new RegExp(`^(${NUMBER})\\s*lbs?\\.?\\s*(${NUMBER})\\s*oz\\.?$`);
const SPELLINGS: Record<string, string> = { "°": "deg", º: "deg", tonne: "t", tonnes: "t", lbs: "lb" };

/** A typed text with a decimal point, a plain minus and no groups of three. */
export function plain(typed: string): string {
  const text = typed
    .trim()
    .replace(/−/g, "-")
    .replace(/(?<=\d)[ \u00a0\u202f](?=\d{3}(?:\D|$))/g, "");
  return text.includes(",") && !text.includes(".") && text.split(",").length === 2 ? text.replace(",", ".") : text;
}

/** The number in a typed text that has no unit; NaN where there is none. */
export function numberIn(typed: string): number {
  const text = plain(typed);
  return BARE.test(text) ? Number(text) : NaN;
}

/** A text parted into its figure, as it was typed, and the unit named in it; pounds and ounces stay together. */
export function parted(typed: string): { figure: string; unit: string } {
  const text = typed.trim();
  if (POUNDS_AND_OUNCES.test(plain(text))) return { figure: text, unit: "" };
  const found = /^(.*\d)\s*([^\d.,\s]\S*)$/.exec(text);
  return found ? { figure: found[1]!, unit: found[2]! } : { figure: text, unit: "" };
}

/** Figure and unit of a field: the unit named in the text, else the one that it was typed under. */
export function figureOf(text: string, unit: string): { figure: string; unit: string } {
  const found = parted(text);
  return found.unit ? found : { figure: found.figure, unit };
}

/** Whether a unit is one of these, in whichever spelling. */
export const isOneOf = (units: readonly string[], unit: string) => units.includes(SPELLINGS[unit] ?? unit);

/** Null where it cannot be understood as a quantity of this family in one of its units. */
export function understand(typed: string, unit: string, family: Record<string, number> | undefined): Understood | null {
  const text = plain(typed);
  if (!text) return null;
  if (BARE.test(text)) {
    const other = text !== typed.trim().replace(/−/g, "-");
    return { text: `${trimmed(Number(text))}${unit ? ` ${unit}` : ""}`, other };
  }
  if (!family) return null;
  const here = family[unit];
  if (here === undefined) return null;
  const both = POUNDS_AND_OUNCES.exec(text);
  if (both && family.lb !== undefined) {
    const pounds = Number(both[1]) + Number(both[2]) / 16;
    return { text: `${trimmed((pounds * family.lb) / here)} ${unit}`, other: true };
  }
  const joined = WITH_UNIT.exec(text);
  if (!joined) return null;
  const named = SPELLINGS[joined[2]!] ?? joined[2]!;
  const size = family[named];
  if (size === undefined) return null;
  return { text: `${trimmed((Number(joined[1]) * size) / here)} ${unit}`, other: named !== unit };
}

/** Six significant digits, without trailing noughts, with a true minus. */
export function trimmed(value: number): string {
  if (!Number.isFinite(value)) return "–";
  const text = Math.abs(value) >= 1e6 ? value.toFixed(0) : String(Number(value.toPrecision(6)));
  return text.replace("-", "−");
}

/** A unit as it is said on a screen. */
const SPOKEN: Record<string, string> = { deg: "°", degC: "°C", degF: "°F" };
export const spoken = (unit: string) => SPOKEN[unit] ?? unit.replace("m2", "m²").replace("m3", "m³");

/** A text that was typed or sealed, with its units as they are said. */
export const aloud = (text: string) =>
  text.replace(/(\d) (degC|degF|m2|m3)\b/g, (_, digit: string, unit: string) => `${digit} ${spoken(unit)}`);
