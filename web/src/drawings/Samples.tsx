import type { DrawnProps, Of } from "./props";
import { Heads } from "./Heads";
import { useWidth } from "./width";

const [TOP, FOOT] = [12, 138];

/** Samples of a running machine in their order: the tolerance behind, the mean with its zones, what stands beyond as a lozenge. */
export function SamplesDrawing({ drawing, compact }: DrawnProps<"samples">) {
  const width = useWidth();
  const marks = (drawing.marks ?? []).slice(width < 500 ? -40 : -120);
  const { low, high, mean, deviation } = drawing;
  const offs = marks.map((mark) => Math.abs(mark.off));
  const reach = Math.max(Math.abs(low ?? 0), Math.abs(high ?? 0), 1e-12, ...offs) * 1.12;
  const [left, right] = [width < 500 ? 66 : 84, width - 14];
  const x = (place: number) => left + 10 + (place / Math.max(1, marks.length - 1)) * (right - left - 20);
  const y = (off: number) => (TOP + FOOT) / 2 - (off / reach) * ((FOOT - TOP) / 2);
  const zones =
    mean != null && deviation
      ? [-3, -2, -1, 1, 2, 3].map((step) => mean + step * deviation).filter((at) => Math.abs(at) < reach)
      : [];
  const heads = [
    { text: drawing.mean_text ?? "", title: "mean off the target" },
    { text: String((drawing.before ?? 0) + (drawing.marks?.length ?? 0)), title: "samples" },
  ].filter((head) => head.text && marks.length);
  return (
    <>
      {!compact && <Heads heads={heads} />}
      <svg className="figure-svg" viewBox={`0 0 ${width} 164`} role="img" aria-label={words(drawing)}>
        {low != null && high != null && (
          <rect x={left} y={y(high)} width={right - left} height={y(low) - y(high)} fill="var(--band)" />
        )}
        <path d={`M${left} ${y(0)} H${right}`} stroke="var(--ink)" strokeWidth="1.5" />
        {zones.map((at) => (
          <path
            key={at}
            d={`M${left} ${y(at)} H${right}`}
            stroke="var(--aside)"
            strokeWidth="1"
            strokeDasharray="3 6"
          />
        ))}
        {mean != null && (
          <path d={`M${left} ${y(mean)} H${right}`} stroke="var(--act)" strokeWidth="2" strokeDasharray="10 5" />
        )}
        {marks.length > 1 && (
          <polyline
            points={marks.map((mark, place) => `${x(place)},${y(mark.off)}`).join(" ")}
            fill="none"
            stroke="var(--act)"
            strokeWidth="1.5"
          />
        )}
        {marks.map((mark, place) => {
          const [cx, cy] = [x(place), y(mark.off)];
          return mark.out || mark.beyond ? (
            <path
              key={mark.number}
              d={`M${cx} ${cy - 8} L${cx + 8} ${cy} L${cx} ${cy + 8} L${cx - 8} ${cy} Z`}
              fill={mark.out ? "var(--fault)" : "var(--paper)"}
              stroke="var(--fault)"
              strokeWidth="2.5"
            />
          ) : (
            <circle key={mark.number} cx={cx} cy={cy} r={marks.length > 60 ? 3 : 5} fill="var(--act)" />
          );
        })}
        <g fontSize="14" fill="var(--soft)">
          {drawing.high_text && high != null && (
            <text x={left - 8} y={Math.min(y(high) + 5, y(0) - 8)} textAnchor="end">
              {drawing.high_text}
            </text>
          )}
          {drawing.low_text && low != null && (
            <text x={left - 8} y={Math.max(y(low) + 5, y(0) + 16)} textAnchor="end">
              {drawing.low_text}
            </text>
          )}
          {marks.length > 0 && (
            <text x={left} y="160">
              sample {marks[0]!.number}
            </text>
          )}
          {marks.length > 5 && (
            <text x={right} y="160" textAnchor="end">
              {marks.at(-1)!.number}
            </text>
          )}
        </g>
      </svg>
    </>
  );
}

function words({ marks = [], mean_text, before = 0 }: Of<"samples">): string {
  const count = before + marks.length;
  const out = marks.filter((mark) => mark.out).length;
  return count
    ? `${count} samples in their order, ${mean_text} off in the mean, ${out} of those drawn out of tolerance`
    : "No samples yet";
}
