import { memo, useState } from "react";
import Button from "react-bootstrap/Button";
import type { PartView, RowView } from "../../api/client";
import { at } from "../../job/path";
import { type Bench, useBench } from "../../job/useJob";
import { parted } from "../../ui/quantity";
import { counted, signed } from "../../ui/words";
import { BringRows } from "../entry/BringRows";
import { EntryField } from "../entry/EntryField";
import { insideOf } from "../entry/ListBlock";
import { RunDock } from "../entry/RunDock";
import { reads } from "../entry/units";
import { type Hand, useHand } from "../hand";
import { ErrorStrip, type Scale, scaleFor, StripHead } from "./ErrorStrip";
import type { StepProps } from "./props";

/** Comparison runs: the tally, and below it the run in hand. */
export function TallyStep({ part, step }: StepProps<"tally">) {
  const bench = useBench();
  const [noneFound, setNoneFound] = useState(false);
  const list = step.list ?? "runs";
  const full = at(part.key, list);
  const input = bench.method(part).inputs.find((one) => one.key === list);
  const first = ["first", "repair"].includes(bench.field("occasion").text);
  const found = step.stage === "found";
  return (
    <>
      <div className="tally-frame">
        <Tally part={part} />
      </div>
      {input && <RunDock list={full} before={found ? undefined : at(part.key, "runs")} columns={insideOf(input)} />}
      {input && <BringRows full={full} columns={insideOf(input)} />}
      {found && first && !noneFound && !bench.rows(full).length && (
        <Button variant="link" onClick={() => setNoneFound(true)}>
          There is nothing as found: say why
        </Button>
      )}
      {(noneFound || bench.field("no_as_found").text) && (
        <EntryField path="no_as_found" label="Why there are no as-found runs" kind="string" />
      )}
    </>
  );
}

/** The table of runs that is the chart as well: as found and as left, on one scale. */
function Tally({ part }: { part: PartView }) {
  const bench = useBench();
  const found = bench.rows(at(part.key, "runs"));
  const left = bench.rows(at(part.key, "as_left"));
  const errors = [...found, ...left].filter((row) => row.in_set && row.error != null).map((row) => row.error!);
  const scale = scaleFor(errors, part.limits.accept_percent);
  const first = [...found, ...left].find((row) => row.net || row.shown);
  const units = [unitOf(first?.net), unitOf(first?.shown)];
  return (
    <table className="tally">
      <caption className="visually-hidden">Runs: reference, indicated, error</caption>
      <thead>
        <tr>
          <th scope="col">Run</th>
          <th scope="col">Weighed{units[0] && `, ${units[0]}`}</th>
          <th scope="col">Shown{units[1] && `, ${units[1]}`}</th>
          <th scope="col">Error</th>
          <th scope="col" className="strip">
            <span className="visually-hidden">Error against the limit of {part.limits.accept}</span>
            <StripHead scale={scale} />
          </th>
        </tr>
      </thead>
      <Stage part={part} list="runs" rows={found} scale={scale} title={left.length ? "As found" : ""} />
      {left.length > 0 && <Stage part={part} list="as_left" rows={left} scale={scale} title="As left" />}
    </table>
  );
}

const unitOf = (text: string | null | undefined) => parted(text ?? "").unit;
const bare = (text: string | null | undefined, unit: string) =>
  !text ? "–" : unit && text.endsWith(` ${unit}`) ? text.slice(0, -unit.length - 1) : text;

function Stage({
  part,
  list,
  rows,
  scale,
  title,
}: {
  part: PartView;
  list: string;
  rows: RowView[];
  scale: Scale;
  title: string;
}) {
  const bench = useBench();
  const hand = useHand();
  const hasLeft = (bench.job.rows[at(part.key, "as_left")] ?? []).length > 0;
  const stage =
    list === "runs" && hasLeft ? part.assessment.as_found : list === "as_left" && !hasLeft ? null : part.assessment;
  const { mean_error: mean, uncertainty, spread } = stage?.comparison ?? {};
  const count = rows.filter((row) => row.in_set && row.error != null).length;
  const earlier = list === "as_left" ? (part.assessment.as_found?.comparison?.mean_error ?? null) : null;
  const unit = unitOf(rows.find((row) => row.net)?.net);
  const shownUnit = unitOf(rows.find((row) => row.shown)?.shown);
  return (
    <tbody>
      {title && (
        <tr className="tally-stage">
          <th colSpan={4} scope="rowgroup">
            {title}
          </th>
          <td className="strip">
            <ErrorStrip scale={scale} />
          </td>
        </tr>
      )}
      {rows.map((row, number) => (
        <WrittenRun
          key={row.row}
          {...writtenOf(bench, hand, at(part.key, list), row, [unit, shownUnit])}
          number={number}
          scale={scale}
        />
      ))}
      {rows.length === 0 && (
        <tr className="tally-empty">
          <td colSpan={4}>No runs yet. The first one goes in below.</td>
          <td className="strip">
            <ErrorStrip scale={scale} />
          </td>
        </tr>
      )}
      {mean != null && stage && (
        <tr className="tally-mean">
          <td colSpan={3}>
            {counted(count, "run")}
            {count > 1 && spread != null && `, spread ${spread.toFixed(2)} %`}
            {uncertainty != null && <span className="unit"> ± {uncertainty.toFixed(2)} %</span>}
          </td>
          <td className="tally-error">{signed(mean)}</td>
          <td className="strip">
            <ErrorStrip
              scale={scale}
              ghost={earlier}
              mean={{ error: mean, uncertainty: uncertainty ?? 0, call: stage.call }}
              believed={
                stage.comparison?.believed
                  ? { width: stage.comparison.believed, freedom: stage.comparison.freedom ?? null, about: mean }
                  : undefined
              }
            />
          </td>
        </tr>
      )}
    </tbody>
  );
}

const RUN = ["gross", "tare", "reference", "indicated", "total_start", "total_end"];

/** What is written of a run. */
interface Written {
  row: RowView;
  aside: string;
  asks: string;
  waits: boolean;
  weighed: string;
  net: string;
  shown: string;
  totals: string;
  taken: boolean;
  take: () => void;
}

function writtenOf(bench: Bench, hand: Hand, list: string, row: RowView, units: [string, string]): Written {
  const text = (key: string) => bench.field(`${list}.${row.row}.${key}`);
  const asks = RUN.map((key) => text(key).kept?.question ?? text(key).kept?.problem ?? text(key).said).find(Boolean);
  const figureAt = (key: string) => reads(bench, `${list}.${row.row}.${key}`).figure;
  const tare = text("tare").text ? ` − ${figureAt("tare")}` : text("zeroed").text === "yes" ? " zeroed" : "";
  return {
    row,
    aside: text("set_aside").text,
    asks: asks ?? "",
    waits: RUN.some((key) => text(key).waits),
    weighed: text("gross").text ? `${figureAt("gross")}${tare}` : "",
    net: bare(row.net ?? figureAt("reference"), units[0]),
    shown: bare(row.shown ?? figureAt("indicated"), units[1]),
    totals: text("total_end").text ? `${figureAt("total_end")} − ${figureAt("total_start")}` : "",
    taken: hand.row(list) === row.row,
    take: () => hand.take(list, row.row),
  };
}

interface Run extends Written {
  number: number;
  scale: Scale;
}

/** Whether two rows say the same, and need not be drawn again; what a tap does is the same for a row whose place is. */
const alike = (one: Run, two: Run) =>
  one.scale.reach === two.scale.reach &&
  one.scale.accept === two.scale.accept &&
  (Object.keys(one) as (keyof Run)[]).every((key) => key === "scale" || key === "take" || one[key] === two[key]);

const WrittenRun = memo(function WrittenRun(given: Run) {
  const { row, number, scale, aside, asks, waits, weighed, net, shown, totals, taken, take } = given;
  return (
    <tr className={`tally-run${aside ? " aside" : ""}${taken ? " taken" : ""}`} onClick={take}>
      <td>
        <Button
          variant="link"
          className="tally-number"
          aria-label={`Run ${number + 1}: change or set aside`}
          aria-pressed={taken}
        >
          {number + 1}
        </Button>
      </td>
      <td>
        <span className="reading">{net}</span>
        {weighed && <small>{weighed}</small>}
      </td>
      <td>
        <span className="reading">{shown}</span>
        {totals && <small>{totals}</small>}
      </td>
      <td className="tally-error">
        {row.error != null ? signed(row.error) : waits ? <small>waiting</small> : ""}
        {aside ? (
          <small className="why">set aside: {aside}</small>
        ) : asks ? (
          <small className="asks">{asks}</small>
        ) : null}
      </td>
      <td className="strip">
        <ErrorStrip scale={scale} error={row.error} aside={!!aside} would={row.predicted_error} />
      </td>
    </tr>
  );
}, alike);
