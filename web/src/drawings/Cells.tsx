import type { Schemas } from "../api/client";
import type { DrawnProps, Of } from "./props";
import { Heads } from "./Heads";
import { Spot } from "./Spot";
import { useWidth } from "./width";

type Mark = Schemas["CellMark"];
type Side = "left" | "right" | "above" | "below";

interface Placed {
  x: number;
  y: number;
  side: Side;
}

/** What a name with its figure takes up. */
const LINE = 44;

/** A platform or vessel from above, with its cells where they stand, the name of each and what it carries. */
export function CellsDrawing({ drawing, taken }: DrawnProps<"cells">) {
  const cells = drawing.cells ?? [];
  const width = useWidth();
  const narrow = width < 500;
  const centre = width / 2;
  const rows = drawing.outline === "square" && cells.length > 4;
  const wide = rows ? centre - (narrow ? 45 : 110) : drawing.outline === "round" ? 58 : narrow ? 56 : 130;
  const high = rows ? 34 : drawing.outline === "round" ? 58 : 52;
  const around = placed(cells.length, drawing.outline ?? "square", centre, wide, high);
  const onSide = Math.max(
    ...(["left", "right"] as const).map((side) => around.filter((one) => one.side === side).length),
  );
  const height = rows ? 2 * high + 150 : Math.max(2 * high + 56, onSide * LINE + 12);
  const middle = height / 2;
  const label = labels(around, centre, middle, narrow ? 24 : 40);
  return (
    <>
      <Heads heads={(drawing.inside ?? []).map((text) => ({ text, title: "" }))} />
      <svg className="figure-svg" viewBox={`0 0 ${width} ${height}`} role="img" aria-label={words(drawing)}>
        <g fill="none" stroke="var(--ink)" strokeWidth="2.5">
          {drawing.outline === "round" ? (
            <circle cx={centre} cy={middle} r={high} />
          ) : (
            <rect x={centre - wide} y={middle - high} width={2 * wide} height={2 * high} />
          )}
        </g>
        {cells.map((cell, place) => (
          <Cell
            key={place}
            cell={cell}
            number={place + 1}
            at={{ ...around[place]!, y: middle + around[place]!.y }}
            label={label[place]!}
            taken={place === taken}
            named={!narrow}
          />
        ))}
        <Spot at={["cell", "corner", "mount"]} points={around.map((one) => ({ x: one.x, y: middle + one.y }))} />
        <Spot
          at={["frame"]}
          points={[
            { x: centre, y: middle - high },
            { x: centre, y: middle + high },
          ]}
          size={15}
        />
        <Spot at={["lines"]} points={[{ x: centre, y: middle - high }]} size={15} />
        <Spot at={["box"]} points={[{ x: centre, y: middle }]} size={15} />
        {cells.length === 0 && (
          <text x={centre} y={middle + 5} textAnchor="middle" fontSize="16" fill="var(--soft)">
            no cells yet
          </text>
        )}
      </svg>
      {narrow && cells.length > 0 && (
        <ol className="drawing-names">
          {cells.map((cell, place) => (
            <li key={place}>
              <b>{place + 1}</b> {cell.label}
            </li>
          ))}
        </ol>
      )}
    </>
  );
}

const wrong = (cell: Mark) => !!cell.answers && cell.answers !== "in-order";

const WORDS: Record<NonNullable<Mark["answers"]>, string> = {
  "in-order": "in order",
  reversed: "reversed",
  dead: "dead",
  stays: "stays as it is",
};

function colourOf(cell: Mark): string {
  if (wrong(cell)) return "var(--fault)";
  if (cell.furthest) return "var(--adjust)";
  return cell.answers ? "var(--leave)" : "var(--act)";
}

interface CellProps {
  cell: Mark;
  number: number;
  at: Placed;
  label: { x: number; y: number; anchor: "start" | "middle" | "end" };
  taken: boolean;
  /** Whether the name stands beside the cell; on a phone the names stand under the drawing. */
  named: boolean;
}

function Cell({ cell, number, at, label, taken, named }: CellProps) {
  const colour = colourOf(cell);
  const filled = wrong(cell) || !!cell.furthest;
  const beside = at.side === "left" || at.side === "right";
  const lead = at.side === "left" ? label.x + 6 : label.x - 6;
  return (
    <g>
      {beside && (
        <path d={`M${at.x} ${at.y} L${lead} ${label.y}`} stroke="var(--aside)" strokeWidth="1.5" fill="none" />
      )}
      {taken && (
        <circle cx={at.x} cy={at.y} r="21" fill="none" stroke="var(--act)" strokeWidth="3" strokeDasharray="5 4" />
      )}
      <circle cx={at.x} cy={at.y} r="14" fill={filled ? colour : "var(--paper)"} stroke={colour} strokeWidth="3" />
      <text
        x={at.x}
        y={at.y + 5}
        textAnchor="middle"
        fontSize="14"
        fontWeight="700"
        fill={filled ? "var(--paper)" : "var(--ink)"}
      >
        {number}
      </text>
      <g textAnchor={label.anchor}>
        {cell.text && (
          <text x={label.x} y={label.y} fontSize="21" fontWeight="600" fill="var(--ink)">
            {cell.text}
          </text>
        )}
        {(named || wrong(cell)) && (
          <text x={label.x} y={label.y + (cell.text ? 17 : 5)} fontSize="14" fill="var(--soft)">
            {[named && cell.label, wrong(cell) && cell.answers !== cell.text && WORDS[cell.answers!]]
              .filter(Boolean)
              .join(", ")}
          </text>
        )}
      </g>
    </g>
  );
}

/** Where the cells stand about the middle: corners of a platform, its two long sides, round a vessel, one alone. */
function placed(count: number, outline: Of<"cells">["outline"], centre: number, wide: number, high: number): Placed[] {
  const beside = (x: number, y: number): Placed => ({ x: centre + x, y, side: x >= 0 ? "right" : "left" });
  if (count === 1) return [beside(0, 0)];
  if (outline === "round")
    return Array.from({ length: count }, (_, place) => {
      const turn = (place / count) * 2 * Math.PI - Math.PI / 2 - Math.PI / count;
      return beside(wide * Math.cos(turn), high * Math.sin(turn));
    });
  if (count === 2) return [beside(-wide, 0), beside(wide, 0)];
  if (count === 3) return [beside(-wide, -high), beside(wide, -high), beside(0, high)];
  if (count === 4) return [beside(-wide, -high), beside(wide, -high), beside(wide, high), beside(-wide, high)];
  const above = Math.ceil(count / 2);
  const along = (place: number, of: number) => centre - wide + (of > 1 ? (place / (of - 1)) * 2 * wide : wide);
  return Array.from({ length: count }, (_, place) =>
    place < above
      ? { x: along(place, above), y: -high, side: "above" }
      : { x: along(count - 1 - place, count - above), y: high, side: "below" },
  );
}

/** Where the names stand: in a column on each side, far enough apart; or over and under the two rows. */
function labels(around: Placed[], centre: number, middle: number, away: number): CellProps["label"][] {
  const found = around.map(({ x, y, side }): CellProps["label"] => {
    if (side === "above") return { x, y: middle + y - 42, anchor: "middle" };
    if (side === "below") return { x, y: middle + y + 40, anchor: "middle" };
    const reach = Math.max(...around.map((one) => Math.abs(one.x - centre)), 40) + away;
    return side === "left"
      ? { x: centre - reach, y: middle + y, anchor: "end" }
      : { x: centre + reach, y: middle + y, anchor: "start" };
  });
  for (const side of ["left", "right"] as const) {
    const here = found.filter((_, place) => around[place]!.side === side).sort((a, b) => a.y - b.y);
    const top = middle - ((here.length - 1) * LINE) / 2;
    const spread = here.some((one, place) => place > 0 && one.y - here[place - 1]!.y < LINE);
    if (spread) here.forEach((one, place) => (one.y = top + place * LINE));
  }
  return found;
}

function words({ cells = [] }: Of<"cells">): string {
  const each = cells.map((cell) => `${cell.label}: ${cell.text || "no reading"}`);
  return each.length ? `Seen from above: ${each.join(", ")}` : "Seen from above, no cells yet";
}
