import type { DrawnProps, Of } from "./props";
import { Heads } from "./Heads";
import { useWidth } from "./width";

/**
 * By how much each load is off, over what it weighed, with the straight line through them: one that
 * meets zero at nothing is the factor's, one that does not is the zero's. The whisker at the left is
 * where the line may meet zero.
 */
export function FitDrawing({ drawing, compact }: DrawnProps<"fit">) {
  const points = drawing.points ?? [];
  const width = useWidth();
  const [TOP, FOOT] = compact ? [14, 72] : [18, 132];
  const most = Math.max(...points.map((point) => point.reference), 0) || 1;
  const line =
    drawing.slope != null && drawing.intercept ? { slope: drawing.slope - 1, cut: drawing.intercept.size } : null;
  const ends = line ? [line.cut, line.cut + line.slope * most, drawing.low ?? 0, drawing.high ?? 0] : [];
  const reach =
    Math.max(1e-9, ...points.map((point) => Math.abs(point.indicated - point.reference)), ...ends.map(Math.abs)) * 1.15;
  const [left, right] = [width < 500 ? 74 : 110, width - 60];
  const x = (weighed: number) => left + (weighed / most) * (right - left);
  const y = (off: number) => (TOP + FOOT) / 2 - (off / reach) * ((FOOT - TOP) / 2);
  if (compact && drawing.intercept)
    return <Heads heads={[{ text: drawing.intercept.text, title: "at nothing, by the line through the loads" }]} />;
  return (
    <svg className="figure-svg" viewBox={`0 0 ${width} ${FOOT + 40}`} role="img" aria-label={words(drawing)}>
      <path d={`M${left} ${y(0)} H${right}`} stroke="var(--ink)" strokeWidth="1.5" />
      <path d={`M${left} ${TOP - 6} V${FOOT + 6}`} stroke="var(--ink)" strokeWidth="1.5" />
      {line && (
        <>
          <path
            d={`M${x(0)} ${y(line.cut)} L${x(most)} ${y(line.cut + line.slope * most)}`}
            stroke="var(--act)"
            strokeWidth="2.5"
          />
          <path
            d={`M${left - 7} ${y(drawing.low ?? 0)} H${left + 7} M${left - 7} ${y(drawing.high ?? 0)} H${left + 7} M${left} ${y(drawing.low ?? 0)} V${y(drawing.high ?? 0)}`}
            stroke="var(--act)"
            strokeWidth="4"
          />
        </>
      )}
      {points.map((point, place) => (
        <circle
          key={place}
          cx={x(point.reference)}
          cy={y(point.indicated - point.reference)}
          r="7"
          fill={point.aside ? "var(--paper)" : "var(--act)"}
          stroke={point.aside ? "var(--aside)" : "var(--act)"}
          strokeWidth="2.5"
        >
          <title>{`Run ${point.text}`}</title>
        </circle>
      ))}
      <g fontSize="14" fill="var(--soft)">
        <text x={left - 12} y={TOP + 8} textAnchor="end">
          too much
        </text>
        <text x={left - 12} y={FOOT} textAnchor="end">
          too little
        </text>
        <text x={left} y={FOOT + 32}>
          empty
        </text>
        <text x={right} y={FOOT + 32} textAnchor="end">
          {drawing.to_text || "weighed"}
        </text>
        {drawing.intercept && (
          <text
            x={(left + right) / 2}
            y={FOOT + 32}
            textAnchor="middle"
            fontSize="16"
            fontWeight="600"
            fill="var(--ink)"
          >
            {`${drawing.intercept.text} at nothing`}
          </text>
        )}
      </g>
    </svg>
  );
}

function words({ points = [], intercept }: Of<"fit">): string {
  const line = intercept ? `; the line through them meets zero at ${intercept.text}` : "";
  return points.length ? `By how much ${points.length} loads are off, over what they weighed${line}` : "No loads yet";
}
