import type { InputView } from "../../api/client";
import { at } from "../../job/path";
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
  return <EntryField path={path} label={input.title} kind={input.kind} why={input.why} units={input.units} />;
}
