import type { Bench } from "../job/useJob";
import { sentence } from "../ui/words";
import { type Look, skippedAt } from "./call/looking";
import type { Asked } from "./hand";

/** A row is set aside. It stays on the record, with the reason. */
export const whyAside = (bench: Bench, list: string, row: string): Asked => ({
  path: `${list}.${row}.set_aside`,
  title: `Set run ${bench.rows(list).findIndex((one) => one.row === row) + 1} aside`,
  says: "It no longer counts, and stays on the record with the reason.",
  label: "What happened to it?",
  keep: "Set aside",
  leave: "Leave it in",
});

/** A look is not made. */
export const whySkipped = (look: Look): Asked => ({
  path: skippedAt(look.key),
  title: "Skip this look",
  says: `${sentence(look.words)} What was not looked at stands on the record and on the certificate.`,
  label: "Why it is not looked at",
  keep: "Skip it",
});
