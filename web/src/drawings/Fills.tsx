import type { Schemas } from "../api/client";
import type { DrawnProps, Of } from "./props";
import { useWidth } from "./width";

type Group = Schemas["FillGroup"];

const [TOP, FOOT] = [14, 138];
const SAYS: Record<NonNullable<Group["are"]>, string> = {
  scattered: "scattered",
  beside: "beside",
  "in-order": "tuned",
};
/** So far apart stand the words of two cut-offs at least. */
const APART = 19;

/**
 * Fills made alike beside each other on one scale with the tolerance behind them: scattered and beside the
 * target every time are told at a glance. At the left the pack, with the cut-offs where they bite.
 */
export function FillsDrawing({ drawing, taken }: DrawnProps<"fills">) {
  const width = useWidth();
  const narrow = width < 500;
  const cuts = drawing.cut_offs ?? [];
  const groups = (drawing.groups ?? []).slice(narrow ? (cuts.length ? -2 : -3) : -5);
  const skipped = (drawing.groups?.length ?? 0) - groups.length;
  const [low, high] = [drawing.low ?? 0, drawing.high ?? 0];
  const offs = groups.flatMap((group) => [...(group.marks ?? []).map((mark) => mark.off), group.mean ?? 0]);
  const [most, least] = [Math.max(high, ...offs), Math.min(low, ...offs)];
  const spare = (most - least) * 0.14 || 1e-9;
  const y = (off: number) => TOP + ((most + spare - off) / (most - least + 2 * spare)) * (FOOT - TOP);
  const left = cuts.length ? (narrow ? 196 : 276) : narrow ? 74 : 90;
  const from = narrow ? left + 40 : left;
  const room = (width - 8 - from) / Math.max(groups.length, narrow ? 2 : 3);
  const x = (place: number) => from + room * (place + 0.5);
  return (
    <svg className="figure-svg" viewBox={`0 0 ${width} 186`} role="img" aria-label={words(drawing)}>
      {cuts.length > 0 && <Pack cuts={cuts} target={drawing.target} high={high} low={low} narrow={narrow} />}
      <rect x={left} y={y(high)} width={width - 8 - left} height={Math.max(0, y(low) - y(high))} fill="var(--band)" />
      <path d={`M${left} ${y(0)} H${width - 8}`} stroke="var(--ink)" strokeWidth="1.5" />
      <g fontSize="14" fill="var(--soft)" textAnchor={narrow ? "start" : "end"}>
        {drawing.high_text && (
          <text x={narrow ? left + 3 : left - 8} y={narrow ? y(high) - 4 : Math.min(y(high) + 5, y(0) - 8)}>
            {drawing.high_text}
          </text>
        )}
        {drawing.low_text && (
          <text x={narrow ? left + 3 : left - 8} y={narrow ? y(low) + 14 : Math.max(y(low) + 5, y(0) + 16)}>
            {drawing.low_text}
          </text>
        )}
      </g>
      {groups.map((group, place) => (
        <g key={group.label}>
          {taken === place + skipped && (
            <rect
              x={x(place) - room / 2 + 3}
              y={TOP - 8}
              width={room - 6}
              height={FOOT - TOP + 16}
              className="fills-taken"
            />
          )}
          {group.mean != null && (
            <path
              d={`M${x(place) - room * 0.36} ${y(group.mean)} H${x(place) + room * 0.36}`}
              stroke="var(--act)"
              strokeWidth="4"
            />
          )}
          {(group.marks ?? []).map((mark, number, all) => (
            <Mark
              key={number}
              mark={mark}
              x={x(place) + (number - (all.length - 1) / 2) * Math.min(16, (room * 0.7) / all.length)}
              y={y(mark.off)}
            />
          ))}
          <g textAnchor="middle">
            <text x={x(place)} y="160" fontSize="15" fill="var(--ink)">
              {group.label}
            </text>
            {group.are && (
              <text
                x={x(place)}
                y="179"
                fontSize="15"
                fontWeight="700"
                fill={group.are === "in-order" ? "var(--leave)" : "var(--ink)"}
              >
                {SAYS[group.are]}
              </text>
            )}
          </g>
        </g>
      ))}
      {!groups.length && (
        <text x={(left + width) / 2} y="166" textAnchor="middle" fontSize="15" fill="var(--soft)">
          nothing weighed yet
        </text>
      )}
    </svg>
  );
}

/** A fill: a disc within tolerance, a lozenge out of it, open where it is set aside. */
function Mark({ mark, x, y }: { mark: Schemas["FillMark"]; x: number; y: number }) {
  const paint = mark.aside
    ? { fill: "var(--paper)", stroke: "var(--aside)" }
    : mark.out
      ? { fill: "var(--fault)", stroke: "var(--fault)" }
      : { fill: "var(--act)", stroke: "var(--act)" };
  return (
    <>
      {mark.out && !mark.aside ? (
        <path d={`M${x} ${y - 8} L${x + 8} ${y} L${x} ${y + 8} L${x - 8} ${y} Z`} {...paint} />
      ) : (
        <circle cx={x} cy={y} r="6" strokeWidth="2" {...paint} />
      )}
      <title>{mark.text}</title>
    </>
  );
}

interface PackProps {
  cuts: Schemas["CutOff"][];
  target?: Of<"fills">["target"];
  high: number;
  low: number;
  narrow: boolean;
}

/** The pack as a column, filled from below: each stage ends at its line, and the target with its tolerance is on top. */
function Pack({ cuts, target, high, low, narrow }: PackProps) {
  const full = target?.size ?? Math.max(...cuts.map((cut) => cut.at));
  const [x, wide] = [10, narrow ? 30 : 44];
  const y = (mass: number) => 160 - (mass / full) * 132;
  const sorted = [...cuts].sort((a, b) => b.at - a.at);
  const places: number[] = [];
  for (const cut of sorted) places.push(Math.max(y(cut.at) + 5, (places.at(-1) ?? 16) + APART));
  return (
    <g>
      <rect
        x={x}
        y={y(full + high)}
        width={wide}
        height={Math.max(2, y(full + low) - y(full + high))}
        fill="var(--band)"
      />
      <path d={`M${x} 20 V160 H${x + wide} V20`} fill="none" stroke="var(--ink)" strokeWidth="2.5" />
      <path d={`M${x - 6} ${y(full)} H${x + wide + 6}`} stroke="var(--ink)" strokeWidth="3" />
      {sorted.map((cut, place) => (
        <g key={cut.label}>
          <path
            d={`M${x} ${y(cut.at)} H${x + wide} L${x + wide + 9} ${places[place]! - 5}`}
            fill="none"
            stroke="var(--act)"
            strokeWidth="2.5"
          />
          <text x={x + wide + 13} y={places[place]} fontSize="15" fill="var(--ink)">
            {cut.label} <tspan fontWeight="700">{cut.text}</tspan>
          </text>
        </g>
      ))}
      <text x={x} y="179" fontSize="15" fontWeight="700" fill="var(--ink)">
        {target?.text}
      </text>
    </g>
  );
}

function words({ target, groups = [], cut_offs = [] }: Of<"fills">): string {
  const cuts = cut_offs.map((cut) => `${cut.label} ends ${cut.text} before`).join(", ");
  const each = groups.map((group) =>
    [`${group.label}: ${group.marks?.length ?? 0} weighed`, group.note, group.are && SAYS[group.are]]
      .filter(Boolean)
      .join(", "),
  );
  return [`Fills beside each other${target ? `, of ${target.text}` : ""}`, cuts, ...each].filter(Boolean).join(". ");
}
