import { useState } from "react";
import Button from "react-bootstrap/Button";
import { EntryField } from "./EntryField";
import { focusOn, newRow, useHand } from "./hand";
import { useBench } from "./useJob";

type Weighing = "gross" | "net" | "zeroed";
type Showing = "reading" | "totals";

const WEIGHING: Record<Weighing, string> = { gross: "gross and tare", net: "net", zeroed: "zeroed with it on" };
const MASSES = ["t", "kg", "g", "lb", "oz", "ston", "lton", "mg"];
const TIMES = ["min", "s", "h"];

const remembered = <T extends string>(key: string, otherwise: T) =>
  (localStorage.getItem(key) as T | null) ?? otherwise;

/** Where a run is typed: large, below the tally, so that no figure moves while typing. */
export function RunDock({ list, usual }: { list: string; usual: string }) {
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
  const what: Showing = text("indicated") ? "reading" : text("total_start") || text("total_end") ? "totals" : showing;
  const unit = (of: string, otherwise: string) => units[of] ?? lastUnit(of) ?? otherwise;

  function lastUnit(of: string): string | undefined {
    const keys =
      of === "weighed" ? ["gross", "reference", "tare"] : of === "shown" ? ["indicated", "total_end"] : ["duration"];
    const lists = [list, list.replace("as_left", "runs")];
    for (const name of lists)
      for (const one of [...bench.rows(name)].reverse())
        for (const key of keys) {
          const field = bench.field(`${name}.${one.row}.${key}`);
          const said = field.unit || /[^\d.,\s-]\S*$/.exec(field.text)?.[0];
          if (said && [...MASSES, ...TIMES].includes(said)) return said;
        }
    return undefined;
  }

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
    if (how === "zeroed" && text("zeroed") !== "yes") bench.enter({ path: path("zeroed"), text: "yes" });
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
    const filled = (way === "totals" ? ["indicated"] : ["total_start", "total_end"]).filter((key) => text(key));
    if (filled.length) bench.enter(...filled.map((key) => ({ path: path(key), text: "" })));
  };
  const mass = (key: string, label: string, of: string, last = false) => (
    <EntryField
      key={path(key)}
      path={path(key)}
      label={label}
      kind="mass"
      big
      unit={unit(of, usual)}
      units={MASSES}
      onUnit={(one) => setUnits({ ...units, [of]: one })}
      onEnter={last ? next : undefined}
      onRow={move}
    />
  );
  if (!bench.open) return null;
  const aside = text("set_aside");
  return (
    <div className="dock" data-sheet="" aria-label={`Run ${number}`} role="group" onBlur={zeroedToo}>
      <div className="dock-head">
        <strong>Run {number}</strong>
        <Ways label="How it was weighed" ways={WEIGHING} chosen={how} onChoose={choose} />
        <Ways
          label="Display read as"
          ways={{ reading: "reading", totals: "start and end" }}
          chosen={what}
          onChoose={chooseShown}
        />
        {place >= 0 && (
          <span className="dock-acts">
            {aside ? (
              <Button variant="link" onClick={() => bench.enter({ path: path("set_aside"), text: "" })}>
                Put it back in the set
              </Button>
            ) : (
              <Button variant="link" onClick={() => hand.aside(list, row)}>
                Set aside
              </Button>
            )}
            <Button variant="link" onClick={next}>
              New run
            </Button>
          </span>
        )}
      </div>
      <div className="dock-fields">
        {how === "net" && mass("reference", "Net weighed", "weighed")}
        {how !== "net" && mass("gross", how === "zeroed" ? "On the scale" : "Gross", "weighed")}
        {how === "gross" && mass("tare", "Tare", "weighed")}
        {what === "reading" && mass("indicated", "Shown", "shown")}
        {what === "totals" && mass("total_start", "Total at start", "shown")}
        {what === "totals" && mass("total_end", "Total at end", "shown")}
        <EntryField
          key={path("duration")}
          path={path("duration")}
          label="Took"
          kind="time"
          big
          unit={unit("took", "min")}
          units={TIMES}
          onUnit={(one) => setUnits({ ...units, took: one })}
          onEnter={next}
          onRow={move}
        />
      </div>
    </div>
  );
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
