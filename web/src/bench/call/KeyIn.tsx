import type { PartView } from "../../api/client";
import { at } from "../../job/path";
import { EntryField } from "../entry/EntryField";
import { foundOf } from "../progress";

/**
 * The figure to key in, in the form that this instrument takes, and what it then shows: one read-back for each part.
 * `later`: it is not to be touched yet, and stands small.
 */
export function KeyIn({ part, later: notYet }: { part: PartView; later?: boolean }) {
  const later = part.assessment.as_found && part.assessment.call === "adjust" ? part.assessment.key_in : null;
  const key = later ?? foundOf(part).key_in;
  if (!key) return null;
  const path = at(part.key, "read_back");
  const by = part.factor?.by;
  return (
    <div className={`key-in${notYet ? " key-in-later" : ""}`}>
      <span>{notYet ? `Only if nothing else is left: ${key.form}` : key.form}</span>
      <strong className={key.figure ? "" : "key-missing"}>{key.figure ?? `${key.percent} %`}</strong>
      <p>
        {key.was
          ? `was ${key.was}${by ? `, in force since ${by}` : ""}, ${key.change}. `
          : "The factor in the instrument was not typed, so the change is given. "}
        {key.would_read && `With it these runs would have read ${key.would_read}.`}
        {key.rounding && Number.parseFloat(key.rounding) !== 0 && ` Rounding costs ${key.rounding}.`}
      </p>
      <div data-sheet="" className="read-back">
        <EntryField path={path} label="Instrument now shows" kind="number" />
      </div>
    </div>
  );
}
