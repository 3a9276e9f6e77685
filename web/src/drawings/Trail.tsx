import type { DrawnProps, Of } from "./props";
import { Heads } from "./Heads";
import { useWidth } from "./width";

const [TOP, FOOT] = [10, 116];

/** What left the vessel and what the counts say was given, over time: two lines that should be one. */
export function TrailDrawing({ drawing }: DrawnProps<"trail">) {
  const width = useWidth();
  const marks = drawing.marks ?? [];
  const last = marks.at(-1);
  const most = Math.max(1e-9, ...marks.flatMap((mark) => [mark.taken, mark.counted]));
  const least = Math.min(0, ...marks.flatMap((mark) => [mark.taken, mark.counted]));
  const end = last?.time || 1;
  const [left, right] = [14, width - 14];
  const x = (time: number) => left + (time / end) * (right - left);
  const y = (mass: number) => FOOT - ((mass - least) / (most - least)) * (FOOT - TOP);
  const line = (key: "taken" | "counted") => marks.map((mark) => `${x(mark.time)},${y(mark[key])}`).join(" ");
  const from = Math.max(0, end - (drawing.window ?? 0));
  const heads = last
    ? [
        { text: drawing.taken_text ?? "", title: "left the vessel (full line)" },
        { text: drawing.counted_text ?? "", title: "by the counts (dashed)" },
      ]
    : [];
  return (
    <>
      <Heads heads={heads} />
      <svg className="figure-svg" viewBox={`0 0 ${width} 142`} role="img" aria-label={words(drawing)}>
        {last && <rect x={x(from)} y={TOP} width={right - x(from)} height={FOOT - TOP} fill="var(--band)" />}
        <path d={`M${left} ${FOOT} H${right}`} stroke="var(--ink)" strokeWidth="1.5" />
        <polyline points={line("taken")} fill="none" stroke="var(--act)" strokeWidth="3.5" />
        <polyline points={line("counted")} fill="none" stroke="var(--ink)" strokeWidth="2.5" strokeDasharray="8 6" />
        {marks.map((mark) => (
          <circle key={mark.time} cx={x(mark.time)} cy={y(mark.taken)} r="5" fill="var(--act)" />
        ))}
        <text x={right} y="136" textAnchor="end" fontSize="14" fill="var(--soft)">
          {last ? `${last.time} s; shaded: what is judged` : "no samples yet"}
        </text>
      </svg>
    </>
  );
}

function words({ marks = [], taken_text, counted_text }: Of<"trail">): string {
  return marks.length ? `${taken_text} left the vessel, ${counted_text} by the counts` : "No samples yet";
}
