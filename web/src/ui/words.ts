/** Figures as people read them: a true minus, fixed decimals, the site's own zone. */

export function signed(percent: number, decimals = 2): string {
  const text = Math.abs(percent).toFixed(decimals);
  const zero = Number(text) === 0;
  return `${zero ? "" : percent < 0 ? "−" : "+"}${text} %`;
}

export function day(iso: string, zone?: string): string {
  return new Date(iso).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric", timeZone: zone });
}

/** The day at a place, as 2031-05-04. */
export const dayIn = (at: Date, zone: string) => at.toLocaleDateString("sv", { timeZone: zone });

export function moment(iso: string, zone?: string): string {
  const options = { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit", timeZone: zone } as const;
  return new Date(iso).toLocaleString("en-GB", options);
}

/** `8 minutes ago`, `yesterday`, `3 Mar 2031`. */
export function ago(iso: string, zone?: string): string {
  const minutes = (Date.now() - new Date(iso).getTime()) / 60_000;
  if (minutes < 1.5) return "just now";
  if (minutes < 90) return `${Math.round(minutes)} minutes ago`;
  if (minutes < 60 * 20) return `${Math.round(minutes / 60)} hours ago`;
  if (minutes < 60 * 48) return "yesterday";
  return day(iso, zone);
}

export const counted = (count: number, one: string, many = `${one}s`) => `${count} ${count === 1 ? one : many}`;

export interface Figured {
  value: number | string | boolean;
  unit: string;
}

/** A figure for reading: so many significant digits, thin groups of three. */
export function shown(value: number, significant = 5): string {
  const places = value === 0 ? 0 : Math.max(0, significant - 1 - Math.floor(Math.log10(Math.abs(value))));
  const text = Math.abs(value)
    .toFixed(Math.min(places, 9))
    .replace(/(\.\d*?)0+$/, "$1")
    .replace(/\.$/, "");
  const [whole = "", fraction] = text.split(".");
  const grouped = whole.length > 4 ? whole.replace(/\B(?=(\d{3})+$)/g, "\u202f") : whole;
  return `${value < 0 && Number(text) !== 0 ? "−" : ""}${grouped}${fraction ? `.${fraction}` : ""}`;
}

/** A result for reading, with its unit; per cent with its sign where that is asked for. */
export function figured(found: Figured | undefined, sign = false): string {
  if (found?.value == null) return "";
  if (typeof found.value === "boolean") return found.value ? "yes" : "no";
  if (typeof found.value === "string") return found.value;
  if (found.unit === "%") return sign ? signed(found.value) : `${found.value.toFixed(2)} %`;
  const text = `${shown(found.value)} ${found.unit}`.trim();
  return sign && found.value > 0 ? `+${text}` : text;
}

/** Words as a sentence: with a full stop, where they do not ask. */
export const sentence = (words: string) => (/[.?!]$/.test(words) ? words : `${words}.`);
