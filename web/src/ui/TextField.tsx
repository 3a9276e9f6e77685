import type { HTMLInputTypeAttribute } from "react";
import Form from "react-bootstrap/Form";
import type { Problem } from "../api/client";

/** The sentence that the server said of one field. */
export function Said({ problem, path }: { problem: Problem | null; path: string }) {
  const text = problem?.at(path);
  return text ? (
    <p className="wrong-text" role="alert">
      {text}
    </p>
  ) : null;
}

interface Common {
  /** The path of the field, by which the server names it. */
  name: string;
  label: string;
  value: string;
  onChange: (value: string) => void;
  problem?: Problem | null;
  hint?: string;
}

/** A text with its label and what is said of it. */
export function TextField({
  type = "text",
  long,
  disabled,
  ...field
}: Common & { type?: HTMLInputTypeAttribute; long?: number; disabled?: boolean }) {
  const { name, label, value, problem = null, hint } = field;
  return (
    <Form.Group className="mb-3" controlId={`field-${name}`}>
      <Form.Label>{label}</Form.Label>
      <Form.Control
        type={type}
        value={value}
        maxLength={long}
        disabled={disabled}
        autoComplete="off"
        isInvalid={!!problem?.at(name)}
        onChange={(event) => field.onChange(event.target.value)}
      />
      {hint && !problem?.at(name) && <Form.Text>{hint}</Form.Text>}
      <Said problem={problem} path={name} />
    </Form.Group>
  );
}

/** One of a few, each with its words. */
export function ChoiceField({ options, ...field }: Common & { options: readonly (readonly [string, string])[] }) {
  const { name, label, value, problem = null } = field;
  return (
    <Form.Group className="mb-3" controlId={`field-${name}`}>
      <Form.Label>{label}</Form.Label>
      <Form.Select
        value={value}
        isInvalid={!!problem?.at(name)}
        onChange={(event) => field.onChange(event.target.value)}
      >
        {options.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </Form.Select>
      <Said problem={problem} path={name} />
    </Form.Group>
  );
}
