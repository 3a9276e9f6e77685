import type { InputView } from "../../api/client";
import { at, columnOf, inRow } from "../../job/path";
import { useBench } from "../../job/useJob";
import { Choice } from "./Choice";
import { EntryField } from "./EntryField";

/** One input of a method, drawn by its kind; the places of a block stand beside each other under its name. */
export function MethodField({ part, input, above = "inputs" }: { part: string; input: InputView; above?: string }) {
  const bench = useBench();
  if (input.kind === "block")
    return (
      <fieldset className="block">
        <legend>{input.title}</legend>
        <div className="fields">
          {input.fields?.map((inner) => (
            <MethodField key={inner.key} part={part} input={inner} above={`${above}.${input.key}`} />
          ))}
        </div>
      </fieldset>
    );
  const shared = `${above}.${input.key}`;
  const own = at(part, shared);
  // A plate is typed once for the whole visit, unless this part already has one of its own.
  const path = part && !bench.field(own).text && (input.plate || bench.field(shared).text) ? shared : own;
  if (input.words?.length) return <Choice path={path} label={input.title} words={input.words} why={input.why} />;
  const field = (
    <EntryField
      path={path}
      label={input.title}
      kind={input.kind}
      why={input.why}
      units={input.units}
      signed={input.signed}
    />
  );
  if (!input.among) return field;
  return (
    <div>
      {field}
      <Among path={path} part={part} among={input.among} />
    </div>
  );
}

/** The words that stand in rows of the same sheet, one tap each; another can be typed all the same. */
function Among({ path, part, among }: { path: string; part: string; among: string }) {
  const bench = useBench();
  const { list, key } = columnOf(among);
  const full = at(part, list);
  const known = [...new Set(bench.rows(full).map((one) => bench.field(inRow(full, one.row, key)).text))].filter(
    Boolean,
  );
  const typed = bench.field(path).text;
  if (!bench.open || !known.length) return null;
  return (
    <div className="choice-words" role="group" aria-label="Known here">
      {known.slice(0, 8).map((word) => (
        <button
          key={word}
          type="button"
          className={`btn btn-outline-primary${typed === word ? " active" : ""}`}
          aria-pressed={typed === word}
          onClick={() => bench.enter({ path, text: word })}
        >
          {word}
        </button>
      ))}
    </div>
  );
}
