import type { DrawnProps } from "./props";
import { useWidth } from "./width";

/** What the test load proves: the load on its scale, drawn against capacity. */
export function LoadDrawing({ drawing }: DrawnProps<"load">) {
  const { capacity, load, shows } = drawing;
  const width = useWidth();
  const share = capacity && capacity.size > 0 ? Math.max(0, Math.min(1, (load?.size ?? 0) / capacity.size)) : 0;
  const [left, right, base] = [width > 500 ? 70 : 12, width > 500 ? width - 70 : width - 12, 120];
  const at = (part: number) => left + (right - left) * part;
  return (
    <svg
      className="figure-svg"
      viewBox={`0 0 ${width} 160`}
      role="img"
      aria-label={`Test load ${load?.text ?? "not typed"} of ${capacity?.text ?? "an unknown capacity"}`}
    >
      <text x={left} y="34" fontSize="26" fontWeight="700" fill="var(--ink)">
        {shows}
      </text>
      <path d={`M${left} ${base} H${right}`} stroke="var(--ink)" strokeWidth="3" />
      <rect x={left} y={base - 30} width={at(share) - left} height="30" fill="var(--line)" />
      <rect x={at(share) - 4} y={base - 44} width="8" height="44" fill="var(--act)" />
      {[0, 0.25, 0.5, 0.75, 1].map((part) => (
        <path key={part} d={`M${at(part)} ${base} v9`} stroke="var(--ink)" strokeWidth="1.5" />
      ))}
      {load && (
        <text
          x={at(share)}
          y={base - 52}
          fontSize="17"
          textAnchor={share > 0.85 ? "end" : share < 0.15 ? "start" : "middle"}
          fill="var(--ink)"
        >
          {load.text} on
        </text>
      )}
      <text x={left} y={base + 30} fontSize="15" fill="var(--soft)">
        empty
      </text>
      <text x={right} y={base + 30} fontSize="15" textAnchor="end" fill="var(--soft)">
        {capacity ? `capacity ${capacity.text}` : "capacity"}
      </text>
    </svg>
  );
}
