import { type KeyboardEvent, useEffect, useId, useRef, useState } from "react";
import type { InputView } from "../api/client";
import { useUnits } from "../api/queries";
import { understand } from "../ui/quantity";
import { at, type BenchField, useBench } from "./useJob";

interface Props {
  path: string;
  label: string;
  kind: string;
  /** The unit that a bare number takes; a choice of units stands beside the field where there are several. */
  unit?: string;
  units?: string[];
  onUnit?: (unit: string) => void;
  why?: string | null;
  big?: boolean;
  hideLabel?: boolean;
  optional?: boolean;
  /** What Enter does in this field, where it is not simply the next one; false where it is after all. */
  onEnter?: (text: string) => boolean | void;
  onRow?: (way: 1 | -1) => void;
}

const WORDS = ["string", "word"];

/** A field that keeps exactly what is typed, says what it understood, and sends it when it is confirmed. */
export function EntryField(props: Props) {
  const { path, label, kind, unit = "", units = [], big, onUnit } = props;
  const bench = useBench();
  const table = useUnits().data;
  const field = bench.field(path);
  const [draft, setDraft] = useState<string | null>(null);
  const id = useId();
  const input = useRef<HTMLInputElement>(null);
  const text = draft ?? field.text;
  const fieldUnit = units.length ? unit : "";
  const understood = WORDS.includes(kind) ? null : understand(text, fieldUnit, table?.[kind]);
  const latest = useRef({ draft, commit: () => {} });

  const commit = () => {
    const typed = latest.current.draft;
    if (typed === null) return;
    setDraft(null);
    latest.current.draft = null;
    if (typed.trim() === field.text && (fieldUnit === field.unit || !typed.trim())) return;
    bench.enter({ path, text: typed.trim(), unit: fieldUnit });
  };
  useEffect(() => {
    latest.current = { draft, commit };
  });
  // A closed tab or a turned-off screen confirms what stands in the field.
  useEffect(() => {
    const confirm = () => latest.current.commit();
    addEventListener("pagehide", confirm);
    return () => {
      removeEventListener("pagehide", confirm);
      confirm();
    };
  }, []);

  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === "Enter") {
      event.preventDefault();
      const back = event.shiftKey;
      commit();
      if (back || !props.onEnter || props.onEnter(text) === false) step(input.current!, back ? -1 : 1);
    } else if ((event.key === "ArrowDown" || event.key === "ArrowUp") && props.onRow) {
      event.preventDefault();
      commit();
      props.onRow(event.key === "ArrowDown" ? 1 : -1);
    } else if (event.key === "Escape" && draft !== null) {
      event.stopPropagation();
      setDraft(null);
    }
  };
  const says = message(field, understood?.other && draft !== null ? `= ${understood.text}` : "");
  return (
    <div className={`entry${big ? " entry-big" : ""}${says.kind ? ` entry-${says.kind}` : ""}`}>
      <label htmlFor={id} className={props.hideLabel ? "visually-hidden" : undefined}>
        {label}
        {props.optional && <span className="unit"> if known</span>}
      </label>
      <div className="entry-line">
        <input
          ref={input}
          id={id}
          className="form-control"
          data-entry=""
          data-path={path}
          inputMode={WORDS.includes(kind) ? "text" : "decimal"}
          autoComplete="off"
          autoCapitalize="off"
          spellCheck={false}
          readOnly={!bench.open}
          value={text}
          aria-describedby={says.text ? `${id}-says` : undefined}
          aria-invalid={says.kind === "wrong" || undefined}
          onChange={(event) => setDraft(event.target.value)}
          onBlur={commit}
          onKeyDown={onKeyDown}
        />
        {units.length > 1 && onUnit ? (
          <select
            className="form-select unit-choice"
            aria-label={`Unit of ${label.toLowerCase()}`}
            value={unit}
            disabled={!bench.open}
            onChange={(event) => onUnit(event.target.value)}
          >
            {units.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </select>
        ) : (
          fieldUnit && <span className="unit entry-unit">{spoken(fieldUnit)}</span>
        )}
      </div>
      <div className="entry-says" id={`${id}-says`}>
        {says.text || (field.text ? "" : props.why)}
      </div>
    </div>
  );
}

const spoken = (unit: string) => (unit === "deg" ? "°" : unit.replace("2", "²").replace(/m3$/, "m³"));

function message(field: BenchField, echo: string): { text: string; kind: string } {
  if (echo) return { text: echo, kind: "" };
  if (field.said) return { text: field.said, kind: "wrong" };
  if (field.waits) return { text: "", kind: "waits" };
  if (field.kept?.problem) return { text: field.kept.problem, kind: "wrong" };
  if (field.kept?.clash) {
    const other = field.kept.previous;
    return { text: `${other?.who} typed ${other?.text} here too. Type which holds.`, kind: "wrong" };
  }
  if (field.kept?.question) return { text: field.kept.question, kind: "asks" };
  return { text: "", kind: "" };
}

/** Moves to the next field of the same sheet, or the one before. */
export function step(from: HTMLElement, way: 1 | -1) {
  const scope = from.closest("[data-sheet]") ?? document.body;
  const fields = [...scope.querySelectorAll<HTMLElement>("[data-entry]")].filter((one) => one.offsetParent !== null);
  const next = fields[fields.indexOf(from) + way];
  if (next) {
    next.focus();
    if (next instanceof HTMLInputElement) next.select();
  } else if (way === 1) from.blur();
}

/** One input of a method, drawn by its kind. */
export function MethodField({ part, input }: { part: string; input: InputView }) {
  const bench = useBench();
  const shared = bench.field(`inputs.${input.key}`);
  const own = at(part, `inputs.${input.key}`);
  const path = part && !bench.field(own).text && shared.text ? `inputs.${input.key}` : own;
  const field = bench.field(path);
  const [chosen, setChosen] = useState("");
  if (input.words.length) return <Choice path={path} label={input.title} words={input.words} why={input.why} />;
  if (input.kind === "boolean") return <Choice path={path} label={input.title} words={["yes", "no"]} why={input.why} />;
  const named = /[^\d.,\s-]\S*$/.exec(field.text)?.[0];
  const unit =
    chosen ||
    (field.unit && input.units.includes(field.unit) ? field.unit : "") ||
    inList(named, input.units) ||
    (input.units[0] ?? "");
  return (
    <EntryField
      path={path}
      label={input.title}
      kind={input.kind}
      why={input.why}
      unit={unit}
      units={input.units}
      onUnit={(next) => {
        setChosen(next);
        if (field.text && /^[\d.,\s-]+$/.test(field.text)) bench.enter({ path, text: field.text, unit: next });
      }}
    />
  );
}

const inList = (unit: string | undefined, units: string[]) => (unit && units.includes(unit) ? unit : "");

const SAID: Record<string, string> = {
  job: "in this job",
  today: "earlier today",
  earlier: "longer ago",
  "built-in": "built in",
};

/** A word out of a few, as buttons large enough for gloves. */
export function Choice({
  path,
  label,
  words,
  why,
}: {
  path: string;
  label: string;
  words: string[];
  why?: string | null;
}) {
  const bench = useBench();
  const field = bench.field(path);
  return (
    <fieldset className="entry choice">
      <legend>{label}</legend>
      <div className="choice-words">
        {words.map((word) => (
          <button
            key={word}
            type="button"
            data-entry=""
            data-path={path}
            className={`btn btn-outline-primary${field.text === word ? " active" : ""}`}
            aria-pressed={field.text === word}
            disabled={!bench.open}
            onClick={(event) => {
              bench.enter({ path, text: field.text === word ? "" : word });
              event.currentTarget.focus();
            }}
          >
            {SAID[word] ?? word}
          </button>
        ))}
      </div>
      <div className="entry-says">{field.said ?? field.kept?.problem ?? why}</div>
    </fieldset>
  );
}
