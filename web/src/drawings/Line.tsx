import type { DrawnProps } from "./props";
import { useWidth } from "./width";

const [ZERO, HALF] = [88, 58];

/** Each point's deviation from the straight line, going up filled, coming down open. */
export function LineDrawing({ drawing }: DrawnProps<"line">) {
  const points = drawing.points ?? [];
  const width = useWidth();
  const reach = Math.max(0.02, ...points.map((point) => Math.abs(point.off))) * 1.25;
  const x = (share: number) => 80 + (share / 100) * (width - 130);
  const y = (off: number) => ZERO - (off / reach) * HALF;
  const up = points.filter((point) => point.going !== "down").sort((a, b) => a.share - b.share);
  const each = points.map((point) => `${point.text} ${point.going === "down" ? "coming down" : "going up"}`);
  return (
    <svg
      className="figure-svg"
      viewBox={`0 0 ${width} 180`}
      role="img"
      aria-label={`Deviation of each point from the straight line: ${each.join(", ") || "no points yet"}`}
    >
      <path d={`M70 ${ZERO} H${width - 40}`} stroke="var(--ink)" strokeWidth="1.5" />
      <g fontSize="14" fill="var(--soft)">
        <text x="64" y={ZERO - HALF + 6} textAnchor="end">{`+${reach.toFixed(2)} %`}</text>
        <text x="64" y={ZERO + 5} textAnchor="end">
          line
        </text>
        <text x="64" y={ZERO + HALF + 4} textAnchor="end">{`−${reach.toFixed(2)} %`}</text>
        <text x={x(0)} y="174">
          {drawing.from_text}
        </text>
        <text x={x(100)} y="174" textAnchor="end">
          {drawing.to_text}
        </text>
      </g>
      <polyline
        points={up.map((point) => `${x(point.share)},${y(point.off)}`).join(" ")}
        fill="none"
        stroke="var(--act)"
        strokeWidth="1.5"
      />
      {points.map((point, place) => (
        <circle
          key={place}
          cx={x(point.share)}
          cy={y(point.off)}
          r="6.5"
          fill={point.going === "down" ? "var(--paper)" : "var(--act)"}
          stroke="var(--act)"
          strokeWidth="2.5"
        >
          <title>{point.text}</title>
        </circle>
      ))}
    </svg>
  );
}
