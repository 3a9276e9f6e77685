import { type KeyboardEvent, useEffect, useId, useRef, useState } from "react";
import type { InputView } from "../../api/client";
import { type BenchField, useBench } from "../../job/useJob";
import { AttachmentMark } from "../../attachments/Strip";
import { asOn } from "./before";
import { figureOf, isOneOf, spoken, understand } from "../../ui/quantity";

interface Props {
  path: string;
  label: string;
  kind: InputView["kind"];
  /** The units that a figure can be typed in; a choice of them stands beside the field where there are several. */
  units?: readonly string[];
  /** The unit that a bare number takes where the field holds none yet. */
  usual?: string;
  onUnit?: (unit: string) => void;
  why?: string | null;
  /** Whether it may be below zero: a phone's keyboard for figures has no key for that. */
  signed?: boolean;
  big?: boolean;
  hideLabel?: boolean;
  /** What Enter does in this field, where it is not simply the next one; false where it is after all. */
  onEnter?: (text: string) => boolean | void;
  onRow?: (way: 1 | -1) => void;
}

const PLAIN: InputView["kind"][] = ["string", "word", "day", "limit"];
const COUNTS = "counts";

/** A field that keeps exactly what is typed, says what it understood, and sends it when it is confirmed. */
export function EntryField(props: Props) {
  const { path, label, kind, units = [], big } = props;
  const bench = useBench();
  const field = bench.field(path);
  const [draft, setDraft] = useState<string | null>(null);
  const [chosen, setChosen] = useState("");
  const id = useId();
  const input = useRef<HTMLInputElement>(null);
  const wordy = PLAIN.includes(kind);
  const parts = figureOf(field.text, field.unit);
  // What follows a figure and is no unit of this field stays in it, as it was typed.
  const whole = wordy || (parts.unit !== "" && units.length > 0 && !isOneOf(units, parts.unit));
  const held = whole ? { figure: field.text, unit: "" } : parts;
  const named = held.unit || (kind === "reading" && field.text ? COUNTS : "");
  // The figure stands in the field alone; its unit stands beside it once. Pounds and ounces say theirs themselves.
  const own = !wordy && field.text !== "" && !named && /[a-z]/i.test(held.figure);
  const unit = own ? "" : chosen || named || props.usual || units[0] || "";
  const text = draft ?? held.figure;
  const understood = wordy ? null : understand(text, unit, bench.units?.[kind]);
  const latest = useRef({ draft, commit: () => {} });

  const send = (figure: string, under: string) => bench.enter({ path, text: figure, unit: under });
  const commit = () => {
    const typed = latest.current.draft;
    if (typed === null) return;
    setDraft(null);
    latest.current.draft = null;
    if (typed.trim() === held.figure && (unit === held.unit || !typed.trim())) return;
    send(typed.trim(), units.length ? unit : "");
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
  const choose = (next: string) => {
    setChosen(next);
    props.onUnit?.(next);
    if (draft === null && held.figure) send(held.figure, next);
  };
  const says = message(field, understood?.other && draft !== null ? `= ${understood.text}` : "", asOn(bench, path));
  return (
    <div className={`entry${big ? " entry-big" : ""}${says.kind ? ` entry-${says.kind}` : ""}`}>
      <label htmlFor={id} className={props.hideLabel ? "visually-hidden" : undefined}>
        {label}
      </label>
      <div className="entry-line">
        <input
          ref={input}
          id={id}
          className="form-control"
          data-entry=""
          data-path={path}
          data-kept={draft === null ? "" : undefined}
          inputMode={wordy ? "text" : "decimal"}
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
        {props.signed && !wordy && bench.open && (
          <button
            type="button"
            className="btn btn-outline-primary sign-key"
            aria-label={`Other sign of ${label.toLowerCase()}`}
            onPointerDown={(event) => event.preventDefault()}
            onClick={() => {
              setDraft(/^[-−]/.test(text.trim()) ? text.trim().slice(1) : `−${text.trim()}`);
              input.current?.focus();
            }}
          >
            ±
          </button>
        )}
        {units.length > 1 && !own ? (
          <select
            className="form-select unit-choice"
            aria-label={`Unit of ${label.toLowerCase()}`}
            value={unit}
            disabled={!bench.open}
            onChange={(event) => choose(event.target.value)}
          >
            {[...new Set([...units, unit])].filter(Boolean).map((one) => (
              <option key={one} value={one}>
                {spoken(one)}
              </option>
            ))}
          </select>
        ) : (
          unit && <span className="unit entry-unit">{spoken(unit)}</span>
        )}
        <AttachmentMark path={path} />
      </div>
      <div className="entry-says" id={`${id}-says`}>
        {says.text || (field.text ? "" : props.why)}
      </div>
    </div>
  );
}

function message(field: BenchField, echo: string, before = ""): { text: string; kind: string } {
  if (echo) return { text: echo, kind: "" };
  if (field.said) return { text: field.said, kind: "wrong" };
  if (field.waits) return { text: "", kind: "waits" };
  if (field.kept?.problem) return { text: field.kept.problem, kind: "wrong" };
  if (field.kept?.clash) {
    const other = field.kept.previous;
    return { text: `${other?.who} typed ${other?.text} here too. Type which holds.`, kind: "wrong" };
  }
  if (field.kept?.question) return { text: field.kept.question, kind: "asks" };
  if (field.kept?.source === "captured" && field.text) return { text: "captured", kind: "" };
  return before ? { text: before, kind: "before" } : { text: "", kind: "" };
}

/** Moves to the next place of the same sheet, or the one before. */
export function step(from: HTMLElement, way: 1 | -1) {
  const scope = from.closest("[data-sheet]") ?? document.body;
  const fields = [...scope.querySelectorAll<HTMLElement>("[data-entry]")].filter((one) => one.offsetParent !== null);
  // After the last field of a step comes the way to the next step.
  const onward = scope.classList.contains("step") ? document.querySelector<HTMLElement>(".next-step") : null;
  const next = fields[fields.indexOf(from) + way] ?? (way === 1 ? onward : null);
  if (next) {
    next.focus();
    if (next instanceof HTMLInputElement && next.type !== "checkbox") next.select();
  } else if (way === 1) from.blur();
}
