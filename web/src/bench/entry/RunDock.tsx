import { useState } from "react";
import Button from "react-bootstrap/Button";
import type { InputView } from "../../api/client";
import { VALUE } from "../../job/path";
import { BenchContext, useBench } from "../../job/useJob";
import { useTareInHand, withBegun } from "./begun";
import { focusOn, newRow, useHand } from "../hand";
import { EntryField } from "./EntryField";
import { Tares } from "./Tares";
import { usualUnit } from "./units";
import { whyAside } from "../why";

type Weighing = "gross" | "net" | "zeroed";
type Showing = "reading" | "totals" | "passes" | "mean";

const WEIGHING: Record<Weighing, string> = { gross: "gross and tare", net: "net", zeroed: "zeroed with it on" };
const SHOWING: Record<Showing, string> = {
  reading: "reading",
  totals: "start and end",
  passes: "passes that add up",
  mean: "mean of several loads",
};
/** The place of a run that a way of reading the display needs, beside those that every run has. */
const NEEDS: Partial<Record<Showing, string>> = { passes: "passes", mean: "loads" };
const remembered = <T extends string>(key: string, otherwise: T) =>
  (localStorage.getItem(key) as T | null) ?? otherwise;

const WEIGHED = ["gross", "reference", "tare"];
const SHOWN = ["indicated", "total_end", "total_start"];

interface Props {
  list: string;
  /** The list of runs before this one, whose units go on: as found, before as left. */
  before?: string;
  columns: InputView[];
}

/** Where a run is typed: large, below the tally, so that no figure moves while typing. */
export function RunDock({ list, before, columns }: Props) {
  const bench = useBench();
  const hand = useHand();
  const [weighing, setWeighing] = useState<Weighing>(() => remembered("weighing", "gross"));
  const [showing, setShowing] = useState<Showing>(() => remembered("showing", "reading"));
  const [units, setUnits] = useState<Record<string, string>>({});
  const [fresh, setFresh] = useState(newRow);
  const rows = bench.rows(list);
  const taken = hand.row(list);
  const row = taken ?? fresh;
  const place = rows.findIndex((one) => one.row === row);
  const number = place < 0 ? rows.length + 1 : place + 1;
  const path = (key: string) => `${list}.${row}.${key}`;
  const text = (key: string) => bench.field(path(key)).text;
  // What the row already holds says how it was weighed; otherwise the way used last.
  const how: Weighing = text("reference")
    ? "net"
    : text("zeroed") === "yes"
      ? "zeroed"
      : text("gross")
        ? "gross"
        : weighing;
  const passes = bench.rows(path("passes")).map((one) => one.row);
  const offered = Object.fromEntries(
    Object.entries(SHOWING).filter(([way]) => {
      const needs = NEEDS[way as Showing];
      return !needs || columns.some((column) => column.key === needs);
    }),
  ) as Record<Showing, string>;
  const what: Showing = text("loads")
    ? "mean"
    : text("indicated")
      ? showing === "mean"
        ? "mean"
        : "reading"
      : text("total_start") || text("total_end")
        ? "totals"
        : passes.length
          ? "passes"
          : showing in offered
            ? showing
            : "reading";
  /** The unit that a figure of a run is typed in: as chosen here, as in the runs before it, as usual on this machine. */
  const unit = (key: string, alike: string[]) => {
    if (units[alike[0]!]) return units[alike[0]!];
    const column = columns.find((one) => one.key === key)!;
    const same = columns.filter((one) => alike.includes(one.key));
    const named = rows.map((one) => one.row);
    const from = named.length || !before ? list : before;
    const known = from === list ? named : bench.rows(from).map((one) => one.row);
    if (key === "duration" && !known.some((one) => bench.field(`${from}.${one}.${key}`).text)) return "min";
    return usualUnit(bench, from, known, same, column);
  };

  const next = () => {
    const another = newRow();
    setFresh(another);
    hand.take(list, undefined);
    focusOn(`${list}.${another}.${how === "net" ? "reference" : "gross"}`);
  };
  const move = (way: 1 | -1) => {
    const to = rows[(place < 0 ? rows.length : place) + way];
    if (to) hand.take(list, to.row);
    else if (way === 1) next();
  };
  const zeroedToo = () => {
    if (how === "zeroed" && text("gross") && text("zeroed") !== "yes")
      bench.enter({ path: path("zeroed"), text: "yes" });
  };
  const choose = (way: Weighing) => {
    setWeighing(way);
    localStorage.setItem("weighing", way);
    const clear = { net: ["gross", "tare", "zeroed"], gross: ["reference", "zeroed"], zeroed: ["reference", "tare"] }[
      way
    ];
    const filled = clear.filter((key) => text(key)).map((key) => ({ path: path(key), text: "" }));
    if (filled.length) bench.enter(...filled);
    if (way === "zeroed" && text("gross")) bench.enter({ path: path("zeroed"), text: "yes" });
  };
  const chooseShown = (way: Showing) => {
    setShowing(way);
    localStorage.setItem("showing", way);
    const kept: Record<Showing, string[]> = {
      reading: ["indicated"],
      mean: ["indicated", "loads"],
      totals: ["total_start", "total_end"],
      passes: passes.map((one) => `passes.${one}.${VALUE}`),
    };
    const filled = Object.values(kept)
      .flat()
      .filter((key) => !kept[way].includes(key) && text(key));
    if (filled.length) bench.enter(...[...new Set(filled)].map((key) => ({ path: path(key), text: "" })));
  };
  const figure = (key: string, label: string, alike: string[], last = false) => {
    const column = columns.find((one) => one.key === key);
    if (!column) return null;
    return (
      <EntryField
        key={path(key)}
        path={path(key)}
        label={label}
        kind={column.kind}
        big
        usual={unit(key, alike)}
        units={column.units}
        signed={column.signed}
        onUnit={(one) => setUnits({ ...units, [alike[0]!]: one })}
        onEnter={last ? next : undefined}
        onRow={move}
      />
    );
  };
  const last = rows.at(-1)?.row;
  const tare = useTareInHand(bench, last && `${list}.${last}.tare`);
  if (!bench.open) return null;
  const aside = text("set_aside");
  const begins = place < 0 && how === "gross" && tare && !bench.box.waiting.length;
  return (
    <BenchContext.Provider value={withBegun(bench, begins ? [[path("tare"), tare]] : [])}>
      <div
        className="dock"
        data-sheet=""
        data-list={list}
        data-row={row}
        aria-label={`Run ${number}`}
        role="group"
        onBlur={zeroedToo}
      >
        <div className="dock-head">
          <strong>Run {number}</strong>
          <Ways label="How it was weighed" ways={WEIGHING} chosen={how} onChoose={choose} />
          <Ways label="Display read as" ways={offered} chosen={what} onChoose={chooseShown} />
          {place >= 0 && (
            <span className="dock-acts">
              {aside ? (
                <Button variant="link" onClick={() => bench.enter({ path: path("set_aside"), text: "" })}>
                  Put it back in the set
                </Button>
              ) : (
                <Button variant="link" onClick={() => hand.ask(whyAside(bench, list, row))}>
                  Set aside
                </Button>
              )}
              <Button variant="link" data-new="" onClick={next}>
                New run
              </Button>
            </span>
          )}
        </div>
        <div className="dock-fields">
          {how === "net" && figure("reference", "Net weighed", WEIGHED)}
          {how !== "net" && figure("gross", how === "zeroed" ? "On the scale" : "Gross", WEIGHED)}
          {how === "gross" && figure("tare", "Tare", WEIGHED)}
          {(what === "reading" || what === "mean") && figure("indicated", "Shown", SHOWN)}
          {what === "mean" && figure("loads", "Loads in it", ["loads"])}
          {what === "passes" && (
            <Passes
              key={path("passes")}
              path={path("passes")}
              rows={passes}
              column={columns.find((one) => one.key === "passes")!}
              unit={unit("indicated", SHOWN) ?? ""}
            />
          )}
          {what === "totals" && figure("total_start", "Total at start", SHOWN)}
          {what === "totals" && figure("total_end", "Total at end", SHOWN)}
          {figure("duration", "Took", ["duration"], true)}
        </div>
        {how === "gross" && bench.job.system.usual_mass !== "t" && <Tares path={path("tare")} />}
      </div>
    </BenchContext.Provider>
  );
}

interface PassesProps {
  /** The full path of the list of passes. */
  path: string;
  rows: string[];
  column: InputView;
  unit: string;
}

/** The passes of one load, each as it was shown, and one field more; an empty one goes on. */
function Passes({ path, rows, column, unit }: PassesProps) {
  const [fresh, setFresh] = useState(newRow);
  const listed = rows.includes(fresh) ? rows : [...rows, fresh];
  return listed.map((row, place) => (
    <EntryField
      key={row}
      path={`${path}.${row}.${VALUE}`}
      label={`Pass ${place + 1}`}
      kind={column.of ?? "mass"}
      big
      usual={unit}
      units={column.units}
      signed={column.signed}
      onEnter={(text) => {
        if (!text.trim() || place < listed.length - 1) return false;
        const next = newRow();
        setFresh(next);
        focusOn(`${path}.${next}.${VALUE}`);
      }}
    />
  ));
}

interface WaysProps<T extends string> {
  label: string;
  ways: Record<T, string>;
  chosen: T;
  onChoose: (way: T) => void;
}

function Ways<T extends string>({ label, ways, chosen, onChoose }: WaysProps<T>) {
  return (
    <label className="dock-way">
      <span className="visually-hidden">{label}</span>
      <select className="form-select" value={chosen} onChange={(event) => onChoose(event.target.value as T)}>
        {(Object.entries(ways) as [T, string][]).map(([way, words]) => (
          <option key={way} value={way}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}
