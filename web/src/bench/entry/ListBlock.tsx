import { type ReactNode, useState } from "react";
import Button from "react-bootstrap/Button";
import type { InputView, PartView, RowsView, Schemas } from "../../api/client";
import { at, VALUE } from "../../job/path";
import { type Bench, BenchContext, type Typed, useBench } from "../../job/useJob";
import { spoken } from "../../ui/quantity";
import { dockOf, focusOn, newRow, useHand } from "../hand";
import { Tool } from "../tools/Tool";
import { BringRows } from "./BringRows";
import { useTareInHand } from "./begun";
import { Choice } from "./Choice";
import { EntryField } from "./EntryField";
import { ReadAgain } from "./ReadAgain";
import { Tares } from "./Tares";
import { reads, usualUnit } from "./units";
import { whyAside } from "../why";

interface Props {
  part: PartView;
  /** The list among the inputs of its method, or of a row. */
  input: InputView;
  rows: RowsView;
  /** The full path of the list: a list inside a row has one for each row. */
  full: string;
}

const [ASIDE, TARE] = ["set_aside", "tare"];
/** So many of the latest rows of a long list are shown until all are asked for. */
const LATEST = 120;

/** The places in one row of a list; a plain list has the one place `value`. */
export const insideOf = (list: InputView): InputView[] =>
  list.fields?.length ? list.fields : [{ ...list, key: VALUE, kind: list.of ?? "number", fields: [] }];

/** A list as its layout says: the tool that goes with it, its rows to read, the row in hand to type, lists inside it. */
export function ListBlock({ part, input, rows, full }: Props) {
  return (
    <>
      {rows.tool && <Tool tool={rows.tool} part={part} full={full} />}
      <ListTable input={input} rows={rows} full={full} />
      {rows.again && <ReadAgain part={part} rows={rows} full={full} />}
      <ListDock part={part} input={input} rows={rows} full={full} />
      {rows.csv && <BringRows full={full} columns={insideOf(input)} />}
    </>
  );
}

/** Of ways that exclude each other, each of one key or of several, only the one in use is shown, once one is. */
function inUse(bench: Bench, { either }: RowsView, full: string): (key: string) => boolean {
  const listed = bench.rows(full);
  const ways = (either ?? []).map((way) => way.split("+"));
  const inOne = (key: string) => listed.some((row) => bench.field(`${full}.${row.row}.${key}`).text);
  const used = ways.filter((way) => way.some(inOne));
  return (key) => !used.length || !ways.flat().includes(key) || used.some((way) => way.includes(key));
}

function ListTable({ input, rows, full }: Omit<Props, "part">) {
  const bench = useBench();
  const hand = useHand();
  const listed = bench.rows(full);
  const kept = inUse(bench, rows, full);
  const columns = rows.columns.filter((column) => kept(column.key));
  const words = new Map(insideOf(input).map((one) => [one.key, one.words ?? []]));
  const [all, setAll] = useState(false);
  const skipped = all ? 0 : Math.max(0, listed.length - LATEST);
  return (
    <div className="tally-frame">
      {skipped > 0 && (
        <Button variant="link" onClick={() => setAll(true)}>
          {skipped} earlier: show them too
        </Button>
      )}
      <table className="list-table" aria-label={input.title}>
        <thead>
          <tr>
            <th scope="col">No.</th>
            {columns.map((column) => (
              <th key={column.key} scope="col">
                {column.title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {listed.slice(skipped).map((row, index) => {
            const number = skipped + index;
            const aside = bench.field(`${full}.${row.row}.${ASIDE}`).text;
            const taken = hand.row(full) === row.row;
            return (
              <tr
                key={row.row}
                className={`${taken ? "taken" : ""}${aside ? " aside" : ""}`}
                onClick={() => hand.take(full, row.row)}
              >
                <td>
                  <Button
                    variant="link"
                    className="tally-number"
                    aria-label={`Row ${number + 1}: change`}
                    aria-pressed={taken}
                  >
                    {number + 1}
                  </Button>
                </td>
                {columns.map((column, place) => (
                  <td key={column.key}>
                    {column.remark ? (
                      <Remark of={row.remarks?.[column.key]} />
                    ) : (
                      <Read path={`${full}.${row.row}.${column.key}`} words={words.get(column.key)} />
                    )}
                    {place === columns.length - 1 && aside && <small className="why">set aside: {aside}</small>}
                  </td>
                ))}
              </tr>
            );
          })}
          {listed.length === 0 && (
            <tr>
              <td colSpan={columns.length + 1} className="soft">
                {rows.empty}
              </td>
            </tr>
          )}
        </tbody>
      </table>
    </div>
  );
}

const TONES: Record<string, string | undefined> = {
  good: "good-text",
  bad: "wrong-text",
  note: "asks",
  "": undefined,
};

function Remark({ of }: { of?: { text: string; tone?: string } }) {
  if (!of) return null;
  return <span className={TONES[of.tone ?? ""]}>{of.text}</span>;
}

/** A figure as it was typed, its unit small beside it. */
function Read({ path, words }: { path: string; words?: InputView["words"] }) {
  const bench = useBench();
  const chosen = words?.find((one) => one.word === bench.field(path).text);
  if (words?.length) return <>{chosen?.says ?? ""}</>;
  const { figure, unit } = reads(bench, path);
  if (!/\d/.test(figure)) return <>{figure}</>;
  return (
    <span className="reading">
      {figure} {unit && <small className="unit">{spoken(unit)}</small>}
    </span>
  );
}

/** Where a row of a list is typed: large, and then straight on to the next. */
function ListDock({ part, input, rows, full }: Props) {
  const bench = useBench();
  const hand = useHand();
  const all = insideOf(input);
  const kept = inUse(bench, rows, full);
  const columns = rows.typed.flatMap((key) => all.find((one) => one.key === key) ?? []).filter((one) => kept(one.key));
  const inner = rows.inner ? all.find((one) => one.key === rows.inner!.list) : undefined;
  const [fresh, setFresh] = useState(newRow);
  const [further, setFurther] = useState(false);
  const [sure, setSure] = useState("");
  const [units, setUnits] = useState<Record<string, string>>({});
  const listed = bench.rows(full);
  const lacks = (row: string) =>
    columns.some(
      (column) =>
        !column.words?.length && !rows.spare?.includes(column.key) && !bench.field(`${full}.${row}.${column.key}`).text,
    );
  const nextOpen = () => listed.find((one) => lacks(one.row))?.row;
  const taken =
    hand.row(full) ??
    (rows.fixed ? (nextOpen() ?? listed[0]?.row) : rows.resume ? nextOpen() : undefined) ??
    (inner && !further ? listed.at(-1)?.row : undefined);
  const row = taken ?? fresh;
  const place = listed.findIndex((one) => one.row === row);
  const path = (key: string) => `${full}.${row}.${key}`;
  const figures = columns.filter((column) => !column.words?.length);
  // Where a row begins itself, what ends it is all that is left to be typed.
  const first = (rows.goes_on && figures.find((one) => rows.ends?.includes(one.key))) || (figures[0] ?? columns[0]);
  const last = columns.reduce((found, column, index) => (column.words?.length ? found : index), 0);
  const name = rows.name;
  const tare = useTareInHand(bench, listed.at(-1) && `${full}.${listed.at(-1)!.row}.${TARE}`);
  if (!bench.open || (rows.fixed && !listed.length)) return null;

  const focusFirst = (to: string) => {
    if (first) focusOn(`${full}.${to}.${first.key}`);
  };
  const next = () => {
    if (rows.fixed) {
      const after = listed[place + 1] ?? listed[0];
      hand.take(full, after?.row);
      if (after) focusFirst(after.row);
      return;
    }
    const another = newRow();
    setFresh(another);
    setFurther(true);
    hand.take(full, undefined);
    const waiting = rows.resume ? listed.find((one) => one.row !== row && lacks(one.row)) : undefined;
    if (waiting) focusOn(`${full}.${waiting.row}.${columns.at(-1)!.key}`);
    else focusFirst(another);
  };
  // A row that holds a list goes on into it; any other is over.
  const ended = () => {
    if (!inner || !rows.inner) return next();
    const begin = insideOf(inner).find((one) => rows.inner!.typed.includes(one.key));
    if (begin) intoList(path(inner.key));
  };
  const move = (way: 1 | -1) => {
    const to = listed[(place < 0 ? listed.length : place) + way];
    if (to) hand.take(full, to.row);
    else if (way === 1 && !rows.fixed) next();
  };
  // Results as the texts of a row, by the keys that a layout names; empty while one of them is not known.
  const fromResults = (named: Record<string, string> = {}) => {
    const texts = Object.entries(named).flatMap(([key, result]) => {
      const found = part.assessment.results[result] as { value?: number | string; unit?: string } | undefined;
      if (found?.value == null || !columns.some((column) => column.key === key)) return [];
      const figure = typeof found.value === "number" ? Number(found.value.toPrecision(8)) : found.value;
      return [[key, `${figure} ${found.unit ?? ""}`.trim()] as const];
    });
    return texts;
  };
  const wanted = fromResults(rows.begins_with);
  const offers = part.assessment.call === "keep-testing" || part.assessment.call === "not-ready";
  const wantedWords = wanted
    .map(([key, text]) => all.find((one) => one.key === key)?.words?.find((one) => one.word === text)?.says ?? text)
    .join(", ");
  const tried = fromResults(rows.keeps);
  const keepTried = () => {
    const another = newRow();
    const gone = (rows.clears ?? []).flatMap((list) => {
      const under = `${at(part.key, list)}.`;
      return Object.keys(bench.job.fields).filter((one) => one.startsWith(under) && bench.field(one).text);
    });
    bench.enter(
      ...tried.map(([key, text]) => ({ path: `${full}.${another}.${key}`, text })),
      ...gone.map((path) => ({ path, text: "" })),
    );
  };
  const asWanted = () => {
    const another = newRow();
    bench.enter(...wanted.map(([key, text]) => ({ path: `${full}.${another}.${key}`, text })));
    hand.take(full, another);
    if (inner) requestAnimationFrame(() => intoList(`${full}.${another}.${inner.key}`));
  };
  const empty = (under: string) => {
    const filled = Object.keys(bench.job.fields).filter((one) => one.startsWith(under) && bench.field(one).text);
    bench.enter(...filled.map((one) => ({ path: one, text: "" })));
    hand.take(full, undefined);
    setSure("");
  };
  // Where counts stand that are cleared on the machine too, it is asked first; what stood there stays in the trail.
  const takeOut = () => (rows.clearing && sure !== row ? setSure(row) : empty(path("")));
  const clearAll = () => (sure !== full ? setSure(full) : empty(`${full}.`));
  const number = place < 0 ? listed.length + 1 : place + 1;
  const label = bench.field(path("label")).text;
  const aside = bench.field(path(ASIDE)).text;
  const canAside = all.some((one) => one.key === ASIDE);
  // The next row begins itself: what the call asks for next stands in it, and goes in with the first thing entered.
  const asked = rows.goes_on && offers ? wanted : [];
  const inHand = tare && columns.some((column) => column.key === TARE) ? [[TARE, tare] as const] : [];
  const begins = place < 0 && !bench.box.waiting.length ? [...asked, ...inHand] : [];
  const keyOf = (at: string) => at.slice(path("").length);
  const isWord = (at: string) => !!columns.find((column) => column.key === keyOf(at))?.words?.length;
  const ends = (one: Typed) => one.text !== "" && rows.ends?.includes(keyOf(one.path)) && isWord(one.path);
  const inRow: Bench = {
    ...bench,
    field: (of) => {
      const held = bench.field(of);
      const begun = held.text ? undefined : begins.find(([key]) => of === path(key));
      return begun ? { ...held, text: begun[1] } : held;
    },
    enter: (...typed) => {
      const begun = new Map(begins.map(([key, text]) => [path(key), text]));
      // A tap on a word that stands there already takes it; it takes nothing away.
      const stands = (at: string) => begun.get(at) ?? (isWord(at) ? bench.field(at).text : "");
      const said = typed.map((one) => ({ ...one, text: one.text || (rows.goes_on ? stands(one.path) : "") }));
      for (const one of typed) begun.delete(one.path);
      bench.enter(...[...begun].map(([path, text]) => ({ path, text })), ...said);
      if (typed.some(ends)) next();
    },
  };
  return (
    <div className="dock" data-sheet="" data-list={full} data-row={row} role="group" aria-label={`${name} ${number}`}>
      <div className="dock-head">
        <strong>
          {name} {label || number}
          {rows.fixed && <small className="unit"> of {listed.length}</small>}
        </strong>
        {place >= 0 && (
          <span className="dock-acts">
            {wanted.length > 0 && (part.assessment.call === "adjust" || (rows.goes_on && offers)) && (
              <Button onClick={asWanted}>
                {name} {listed.length + 1}, {rows.goes_on ? wantedWords : "set as the call says"}
              </Button>
            )}
            {canAside &&
              (aside ? (
                <Button variant="link" onClick={() => bench.enter({ path: path(ASIDE), text: "" })}>
                  Put it back in the set
                </Button>
              ) : (
                <Button variant="link" onClick={() => hand.ask(whyAside(bench, full, row))}>
                  Set aside
                </Button>
              ))}
            {!rows.fixed && (
              <Button variant="link" onClick={takeOut}>
                {sure === row ? "Take it out: sure" : "Take out"}
              </Button>
            )}
            <Button variant="link" data-new="" onClick={next}>
              {rows.fixed ? "Next" : "New"} {name.toLowerCase()}
            </Button>
          </span>
        )}
      </div>
      {rows.alike?.map((one) => (
        <AsAnother key={one.key} of={one} full={full} listed={listed.map((row) => row.row)} typed={rows.typed} />
      ))}
      {tried.length > 0 && tried.length === Object.keys(rows.keeps ?? {}).length && (
        <Button variant="outline-primary" className="mb-2" onClick={keepTried}>
          Keep the one that is measured as tried, and begin another
        </Button>
      )}
      {rows.clearing && listed.length > 0 && (
        <Button variant="link" onClick={clearAll}>
          {sure === full ? `${rows.clearing}: sure` : rows.clearing}
        </Button>
      )}
      <BenchContext.Provider value={inRow}>
        <div className="dock-fields">
          {columns.map((column, index) =>
            column.words?.length ? (
              <Choice key={path(column.key)} path={path(column.key)} label={column.title} words={column.words} />
            ) : (
              <EntryField
                key={path(column.key)}
                path={path(column.key)}
                label={column.title}
                kind={column.kind}
                big
                units={column.units}
                signed={column.signed}
                usual={
                  units[column.key] ??
                  usualUnit(
                    bench,
                    full,
                    listed.map((one) => one.row),
                    all,
                    column,
                  )
                }
                onUnit={(unit) => setUnits({ ...units, [column.key]: unit })}
                onEnter={
                  rows.ends?.includes(column.key)
                    ? (text) => (text.trim() || index === last ? ended() : false)
                    : index === last
                      ? ended
                      : undefined
                }
                onRow={move}
              />
            ),
          )}
        </div>
      </BenchContext.Provider>
      {columns.some((column) => column.key === TARE) && <Tares path={path(TARE)} />}
      {inner && rows.inner && (
        <Inside name={`${rows.inner.name}s of ${name.toLowerCase()} ${number}`}>
          <ListBlock key={path(inner.key)} part={part} input={inner} rows={rows.inner} full={path(inner.key)} />
        </Inside>
      )}
    </div>
  );
}

interface AsAnotherProps {
  of: Schemas["Alike"];
  full: string;
  listed: string[];
  typed: readonly string[];
}

/** One tap says of every row that lacks a figure that it is what another place of the row holds. */
function AsAnother({ of, full, listed, typed }: AsAnotherProps) {
  const bench = useBench();
  const at = (row: string, key: string) => `${full}.${row}.${key}`;
  const lacking = listed.filter((row) => bench.field(at(row, of.of)).text && !bench.field(at(row, of.key)).text);
  if (!lacking.length || !typed.includes(of.key)) return null;
  const say = () =>
    bench.enter(
      ...lacking.map((row) => {
        const { text, unit } = bench.field(at(row, of.of));
        return { path: at(row, of.key), text, unit };
      }),
    );
  return (
    <Button variant="outline-primary" className="alike" onClick={say}>
      {of.says}
    </Button>
  );
}

/** Puts the focus on the first field of the dock of a list. */
function intoList(full: string) {
  dockOf(full)?.querySelector<HTMLElement>("[data-entry]")?.focus();
}

/** A list inside a row, set in under it. */
function Inside({ name, children }: { name: string; children: ReactNode }) {
  return (
    <section className="inside" aria-label={name}>
      {children}
    </section>
  );
}
