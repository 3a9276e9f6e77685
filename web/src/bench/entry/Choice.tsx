import type { InputView } from "../../api/client";
import { asOn, isBefore } from "./before";
import { useBench } from "../../job/useJob";

interface Props {
  path: string;
  label: string;
  words: InputView["words"];
  why?: string | null;
}

/** A word out of a few, as buttons large enough for gloves. */
export function Choice({ path, label, words, why }: Props) {
  const bench = useBench();
  const field = bench.field(path);
  return (
    <fieldset className={`entry choice${isBefore(bench, path) ? " entry-before" : ""}`}>
      <legend>{label}</legend>
      <div className="choice-words">
        {words?.map(({ word, says }) => (
          <button
            key={word}
            type="button"
            data-entry=""
            data-path={path}
            data-open={field.text ? undefined : ""}
            className={`btn btn-outline-primary${field.text === word ? " active" : ""}`}
            aria-pressed={field.text === word}
            disabled={!bench.open}
            onClick={(event) => {
              bench.enter({ path, text: field.text === word ? "" : word });
              event.currentTarget.focus();
            }}
          >
            {says}
          </button>
        ))}
      </div>
      <div className="entry-says">{field.said ?? field.kept?.problem ?? (asOn(bench, path) || why)}</div>
    </fieldset>
  );
}
