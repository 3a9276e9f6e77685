import type { PartView, StepView } from "../api/client";
import { type Figured, signed } from "../ui/words";
import { BringRows, type Column, figured, ListDock, ListTable, resultAt } from "./rows";
import { Countdown, Stopwatch } from "./Timer";
import { at, useBench } from "./useJob";

interface Props {
  part: PartView;
  step: StepView;
}

const reading = (key: string, title: string): Column => ({
  title,
  cell: (_, __, text) => {
    const [, figure = text(key), unit = ""] = /^(.*\d)\s*([^\d.,\s]\S*)?$/.exec(text(key)) ?? [];
    return (
      <span className="reading">
        {figure} {unit && <small className="unit">{unit}</small>}
      </span>
    );
  },
});
const plain = (key: string, title: string): Column => ({ title, cell: (_, __, text) => text(key) });

/** The rows of a step, laid out for what they are. */
export function StepList({ part, step }: Props) {
  const list = step.runs!;
  switch (step.kind) {
    case "cells":
      return <PressCells part={part} list={list} />;
    case "passes":
      return <Passes part={part} list={list} />;
    case "corners":
      return <Corners part={part} list={list} />;
    case "points":
      return <Points part={part} list={list} />;
    case "revolutions":
      return <Revolutions part={part} list={list} />;
    case "idle":
      return <Idle part={part} list={list} />;
    case "list":
      return <Plain part={part} list={list} name="Reading" />;
    default:
      return <Plates part={part} list={list} />;
  }
}

interface ListProps {
  part: PartView;
  list: string;
}

function Plates({ part, list }: ListProps) {
  const columns = [
    plain("label", "Cell"),
    reading("capacity", "Capacity"),
    reading("sensitivity", "Sensitivity"),
    plain("sensitivity_source", "Read from"),
  ];
  return (
    <>
      <ListTable part={part} list={list} columns={columns} empty="No cells yet: type the first one's plate below." />
      <ListDock part={part} list={list} name="Cell" keys={["label", "capacity", "sensitivity", "sensitivity_source"]} />
    </>
  );
}

const BEHAVES: Record<string, string> = {
  "in-order": "in order",
  reversed: "falls when pressed",
  dead: "does not move",
  stays: "does not fall back",
};

function PressCells({ part, list }: ListProps) {
  const running = ["belt scale", "chain conveyor scale"].includes(useBench().job.system.kind);
  const figure = part.figure;
  const columns: Column[] = [
    plain("label", "Cell"),
    reading("empty", "Empty"),
    reading("pressed", "Pressed"),
    reading("released", "Released"),
    { title: "Share", cell: (_, place) => figured(resultAt(part, "shares", place)) },
    {
      title: "Answers",
      cell: (_, place) => {
        const how = String(figure[`cell${place}`]?.unit ?? "");
        return <span className={how && how !== "in-order" ? "wrong-text" : undefined}>{BEHAVES[how] ?? ""}</span>;
      },
    },
  ];
  const keys = ["empty", "pressed", "released", ...(running ? ["running_low", "running_high"] : [])];
  return (
    <>
      <ListTable part={part} list={list} columns={columns} empty="No cells yet: their plates come first." />
      <ListDock part={part} list={list} name="Cell" keys={keys} fixed />
    </>
  );
}

function Passes({ part, list }: ListProps) {
  const at = (place: number) => (resultAt(part, "passes", place) ?? {}) as Record<string, Figured>;
  const columns: Column[] = [
    reading("zero", "Empty"),
    reading("span", "Load on"),
    reading("zero_after", "Off again"),
    { title: "Span off by", cell: (_, place) => figured(at(place).span_error, true) },
    {
      title: "Holds",
      cell: (_, place) => {
        const holds = at(place).holds?.value;
        return holds === undefined ? (
          ""
        ) : holds ? (
          <b className="good-text">holds</b>
        ) : (
          <b className="wrong-text">not yet</b>
        );
      },
    },
  ];
  return (
    <>
      <ListTable
        part={part}
        list={list}
        columns={columns}
        empty="The first pass is as found: empty and steady, read."
      />
      <ListDock part={part} list={list} name="Pass" />
      <BringRows full={at_(part, list)} />
    </>
  );
}

const at_ = (part: PartView, list: string) => at(part.key, list);

function Corners({ part, list }: ListProps) {
  const worst = (part.assessment.results.worst as Figured | undefined)?.value;
  const columns: Column[] = [
    {
      title: "Corner",
      cell: (_, __, text) =>
        text("label") && text("label") === worst ? <b>{text("label")}, furthest off</b> : text("label"),
    },
    reading("indicated", "Shown"),
    { title: "Off by", cell: (_, place) => figured(resultAt(part, "errors", place), true) },
  ];
  return (
    <>
      <ListTable
        part={part}
        list={list}
        columns={columns}
        empty="No corner yet: name the first and put the load on it."
      />
      <ListDock part={part} list={list} name="Corner" resume />
      <BringRows full={at_(part, list)} />
    </>
  );
}

function Points({ part, list }: ListProps) {
  const output = part.method === "output-check";
  const bench = useBench();
  const rows = bench.rows(at_(part, list));
  const counts = rows.some((row) => bench.field(`${at_(part, list)}.${row.row}.raw`).text);
  const masses = rows.some((row) => bench.field(`${at_(part, list)}.${row.row}.indicated`).text);
  const columns: Column[] = output
    ? [
        reading("load", "Load"),
        reading("measured", "Measured"),
        { title: "Expected", cell: (_, place) => figured(resultAt(part, "expected", place)) },
        { title: "Of span", cell: (_, place) => figured(resultAt(part, "errors_of_span", place), true) },
      ]
    : [
        reading("load", "Load on it"),
        ...(masses ? [] : [reading("raw", "Counts")]),
        ...(counts ? [] : [reading("indicated", "Shown")]),
        { title: "Going", cell: (_, __, text) => (text("going") === "down" ? "down" : "up") },
        {
          title: counts ? "Off the line" : "Off by",
          cell: (_, place) => {
            if (!counts) return figured(resultAt(part, "errors", place), true);
            const off = part.figure[`point${place}`]?.si;
            return off == null ? "" : signed(off, 3);
          },
        },
      ];
  const keys = output ? undefined : ["load", ...(masses ? [] : ["raw"]), ...(counts ? [] : ["indicated"]), "going"];
  return (
    <>
      <ListTable part={part} list={list} columns={columns} empty="No points yet: begin with nothing on it." />
      <ListDock part={part} list={list} name="Point" keys={keys} ends={["raw", "indicated"]} />
      <BringRows full={at_(part, list)} />
    </>
  );
}

function Revolutions({ part, list }: ListProps) {
  const bench = useBench();
  return (
    <>
      {bench.open && <Stopwatch full={at_(part, list)} />}
      <ListTable
        part={part}
        list={list}
        columns={[reading("value", "One revolution")]}
        empty="No revolution timed yet: tap at the mark, and again when it comes round."
      />
      <ListDock part={part} list={list} name="Revolution" />
    </>
  );
}

function Idle({ part, list }: ListProps) {
  const columns: Column[] = [
    reading("value", "Change of the total"),
    { title: "Of the rated rate", cell: (_, place) => part.figure[`idle${place}`]?.text ?? "" },
  ];
  return (
    <>
      <Countdown part={part} list={list} />
      <ListTable
        part={part}
        list={list}
        columns={columns}
        empty="No reading yet: note the total, run whole revolutions, note it again."
      />
      <ListDock part={part} list={list} name="Reading" />
    </>
  );
}

function Plain({ part, list, name }: ListProps & { name: string }) {
  return (
    <>
      <ListTable part={part} list={list} columns={[reading("value", "Read")]} empty="None yet." />
      <ListDock part={part} list={list} name={name} />
      <BringRows full={at_(part, list)} />
    </>
  );
}
