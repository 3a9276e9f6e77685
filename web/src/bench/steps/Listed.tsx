import { at } from "../../job/path";
import { useBench } from "../../job/useJob";
import { ListBlock } from "../entry/ListBlock";
import type { StepProps } from "./props";

/** The rows of a step, as the layout that its method gives says. */
export function ListedStep({ part, step }: StepProps<"rows">) {
  const bench = useBench();
  const { rows } = step;
  const input = bench.method(part).inputs.find((one) => one.key === rows.list);
  return input ? <ListBlock part={part} input={input} rows={rows} full={at(part.key, rows.list)} /> : null;
}
