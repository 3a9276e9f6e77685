import type { DrawnProps, Of } from "./props";
import { Heads } from "./Heads";
import { useWidth } from "./width";

/** Lifts that should be alike, each container on its strip and both on one scale: the spread is seen at once. */
export function RepeatsDrawing({ drawing }: DrawnProps<"repeats">) {
  const strips = drawing.strips ?? [];
  const width = useWidth();
  const narrow = width < 500;
  const offs = strips.flatMap((strip) => (strip.marks ?? []).map((mark) => Math.abs(mark.off)));
  const reach = Math.max(0.5, ...offs) * 1.2;
  const [left, right] = [narrow ? 70 : 90, width - (narrow ? 76 : 110)];
  const x = (off: number) => (left + right) / 2 + (off / reach) * ((right - left) / 2);
  const heads = [
    { text: drawing.empty?.text, title: "empty container" },
    { text: drawing.heavy?.text, title: "heavy container" },
    { text: drawing.target?.text, title: "fill the heavy one to" },
  ].filter((head): head is { text: string; title: string } => !!head.text);
  return (
    <>
      <Heads heads={heads} />
      <svg className="figure-svg" viewBox={`0 0 ${width} 124`} role="img" aria-label={words(drawing)}>
        {strips.map((strip, place) => {
          const y = 28 + place * 52;
          return (
            <g key={strip.label}>
              <path d={`M${left} ${y} H${right}`} stroke="var(--aside)" strokeWidth="1.5" />
              <path d={`M${x(0)} ${y - 16} V${y + 16}`} stroke="var(--ink)" strokeWidth="2" />
              {(strip.marks ?? []).map((mark, number) => (
                <circle
                  key={number}
                  cx={x(Math.max(-reach, Math.min(reach, mark.off)))}
                  cy={y}
                  r="8"
                  fill={mark.aside ? "var(--paper)" : "var(--act)"}
                  fillOpacity={mark.aside ? 1 : 0.75}
                  stroke={mark.aside ? "var(--aside)" : "var(--act)"}
                  strokeWidth="2.5"
                >
                  <title>{`Lift ${mark.text}`}</title>
                </circle>
              ))}
              <text x={left - 12} y={y + 5} textAnchor="end" fontSize="16" fill="var(--ink)">
                {strip.label}
              </text>
              <text x={right + 12} y={y + 5} fontSize="16" fontWeight="600" fill="var(--ink)">
                {strip.spread || "–"}
              </text>
            </g>
          );
        })}
        <g fontSize="14" fill="var(--soft)">
          <text x={left} y="120">{`−${reach.toFixed(1)} %`}</text>
          <text x={x(0)} y="120" textAnchor="middle">
            mean
          </text>
          <text x={right} y="120" textAnchor="end">{`+${reach.toFixed(1)} %`}</text>
        </g>
      </svg>
    </>
  );
}

function words({ strips = [] }: Of<"repeats">): string {
  const each = strips.map(
    (strip) => `${strip.label}: ${strip.marks?.length ?? 0} lifts, range ${strip.spread || "not known yet"}`,
  );
  return `Lifts about their mean. ${each.join("; ")}`;
}
