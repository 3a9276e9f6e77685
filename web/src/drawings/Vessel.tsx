import type { DrawnProps } from "./props";
import { Spot } from "./Spot";
import { useWidth } from "./width";

/** A vessel on its cells, filled as far as the load in hand. */
export function VesselDrawing({ drawing }: DrawnProps<"vessel">) {
  const { capacity, load, cells } = drawing;
  const full = capacity?.size ?? 0;
  const share = full > 0 ? Math.max(0, Math.min(1, (load?.size ?? 0) / full)) : 0.4;
  const width = useWidth();
  // The words stand on both sides of it; on a phone on one, above one another.
  const narrow = width < 500;
  const middle = narrow ? 105 : width / 2;
  const [left, right, top, foot] = [middle - 70, middle + 70, 18, 128];
  const [beside, under] = narrow ? [right + 40, 106] : [right + 40, 46];
  const level = foot - (foot - top) * share;
  const seen = Math.min(Math.max(1, Math.round(cells ?? 3)), 3);
  const standing = Array.from({ length: seen }, (_, place) =>
    seen === 1 ? middle : left - 20 + ((right - left + 40) / (seen - 1)) * place,
  );
  return (
    <svg
      className="figure-svg"
      viewBox={`0 0 ${width} 186`}
      role="img"
      aria-label={`Vessel holding ${load?.text ?? "nothing typed yet"}`}
    >
      {load && load.size > 0 && (
        <path
          d={`M${left} ${level} H${right} V${foot} L${middle + 20} 152 H${middle - 20} L${left} ${foot} Z`}
          fill="var(--line)"
        />
      )}
      <g fill="none" stroke="var(--ink)" strokeWidth="3">
        <path d={`M${left} ${top} V${foot} L${middle - 20} 152 H${middle + 20} L${right} ${foot} V${top}`} />
        <path d={`M${left - 26} ${foot - 22} H${left} M${right} ${foot - 22} H${right + 26}`} />
      </g>
      {standing.map((x) => (
        <rect key={x} x={x - 12} y={foot - 20} width="24" height="16" fill="var(--act)" />
      ))}
      <Spot at={["cell", "corner", "mount"]} points={standing.map((x) => ({ x, y: foot - 12 }))} size={19} />
      <Spot
        at={["frame"]}
        points={[
          { x: left, y: foot - 60 },
          { x: right, y: foot - 60 },
        ]}
        size={16}
      />
      <Spot at={["lines", "hopper"]} points={[{ x: middle, y: top + 14 }]} size={16} />
      <Spot at={["gate", "outlet"]} points={[{ x: middle, y: 148 }]} size={16} />
      <path d={`M${left - 40} 178 H${right + 40}`} stroke="var(--ink)" strokeWidth="2" />
      {load && (
        <>
          <text x={narrow ? beside : 40} y="46" fontSize="26" fontWeight="700" fill="var(--ink)">
            {load.text}
          </text>
          <text x={narrow ? beside : 40} y="68" fontSize="15" fill="var(--soft)">
            the load in hand
          </text>
        </>
      )}
      <text x={beside} y={under} fontSize="17" fill="var(--ink)">
        {capacity ? `holds ${capacity.text}` : ""}
      </text>
      <text x={beside} y={under + 22} fontSize="15" fill="var(--soft)">
        {cells ? `on ${cells} ${cells === 1 ? "cell" : "cells"}` : ""}
      </text>
    </svg>
  );
}
