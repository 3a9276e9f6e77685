import type { Drawn } from "./BeltFigure";

const WIDTH = 680;

/** What the test load proves: the load on its scale, drawn against capacity. */
export function LoadedFigure({ figure }: { figure: Drawn }) {
  const capacity = figure.capacity?.si ?? 0;
  const load = figure.test_load?.si ?? 0;
  const share = capacity > 0 ? Math.min(1, load / capacity) : 0;
  const [left, right, base] = [70, WIDTH - 70, 120];
  const at = (part: number) => left + (right - left) * part;
  return (
    <svg
      className="figure-svg"
      viewBox={`0 0 ${WIDTH} 170`}
      role="img"
      aria-label={`Test load ${figure.test_load?.text ?? "not typed"} of ${figure.capacity?.text ?? "an unknown capacity"}`}
    >
      <text x={left} y="34" fontSize="26" fontWeight="700" fill="var(--ink)">
        {figure.span ? `shows ${figure.span.text}` : figure.zero ? `empty: ${figure.zero.text}` : ""}
      </text>
      <path d={`M${left} ${base} H${right}`} stroke="var(--ink)" strokeWidth="3" />
      <rect x={left} y={base - 30} width={Math.max(0, at(share) - left)} height="30" fill="var(--line)" />
      <rect x={at(share) - 4} y={base - 44} width="8" height="44" fill="var(--act)" />
      {[0, 0.25, 0.5, 0.75, 1].map((part) => (
        <path key={part} d={`M${at(part)} ${base} v9`} stroke="var(--ink)" strokeWidth="1.5" />
      ))}
      <text
        x={at(share)}
        y={base - 52}
        fontSize="17"
        textAnchor={share > 0.85 ? "end" : share < 0.15 ? "start" : "middle"}
        fill="var(--ink)"
      >
        {figure.test_load ? `${figure.test_load.text} on` : ""}
      </text>
      <text x={left} y={base + 30} fontSize="15" fill="var(--soft)">
        empty
      </text>
      <text x={right} y={base + 30} fontSize="15" textAnchor="end" fill="var(--soft)">
        {figure.capacity ? `capacity ${figure.capacity.text}` : "capacity"}
      </text>
    </svg>
  );
}

/** Each point's deviation from the straight line, going up filled, coming down open. */
export function LineFigure({ figure, unit }: { figure: Drawn; unit: string }) {
  const points = Object.entries(figure)
    .filter(([key, point]) => key.startsWith("point") && point.si != null)
    .map(([key, point]) => ({
      key,
      x: Number(point.value),
      off: unit === "mA" ? ((point.si! - 4) / 16) * 100 - Number(point.value) : point.si!,
      going: point.unit,
    }));
  const reach = Math.max(0.02, ...points.map((point) => Math.abs(point.off))) * 1.25;
  const x = (share: number) => 80 + (share / 100) * (WIDTH - 130);
  const y = (off: number) => 88 - (off / reach) * 58;
  const up = points.filter((point) => point.going !== "down").sort((a, b) => a.x - b.x);
  return (
    <svg
      className="figure-svg"
      viewBox={`0 0 ${WIDTH} 176`}
      role="img"
      aria-label="Deviation of each point from the straight line"
    >
      <path d={`M70 88 H${WIDTH - 40}`} stroke="var(--ink)" strokeWidth="1.5" />
      <g fontSize="14" fill="var(--soft)">
        <text x="64" y="36" textAnchor="end">{`+${reach.toFixed(2)} %`}</text>
        <text x="64" y="92" textAnchor="end">
          line
        </text>
        <text x="64" y="150" textAnchor="end">{`−${reach.toFixed(2)} %`}</text>
        <text x={x(0)} y="170" textAnchor="middle">
          empty
        </text>
        <text x={x(100)} y="170" textAnchor="middle">
          largest load
        </text>
      </g>
      <polyline
        points={up.map((point) => `${x(point.x)},${y(point.off)}`).join(" ")}
        fill="none"
        stroke="var(--act)"
        strokeWidth="1.5"
      />
      {points.map((point) => (
        <circle
          key={point.key}
          cx={x(point.x)}
          cy={y(point.off)}
          r="6.5"
          fill={point.going === "down" ? "var(--paper)" : "var(--act)"}
          stroke="var(--act)"
          strokeWidth="2.5"
        />
      ))}
    </svg>
  );
}

/** A vessel on its cells, filled as far as the load in hand. */
export function VesselFigure({ figure }: { figure: Drawn }) {
  const capacity = figure.capacity?.si ?? 0;
  const load = figure.load?.si ?? 0;
  const share = capacity > 0 ? Math.max(0, Math.min(1, load / capacity)) : 0.4;
  const [left, right, top, foot] = [270, 410, 18, 128];
  const level = foot - (foot - top) * share;
  const cells = Math.max(1, Math.min(8, Math.round(Number(figure.cell_count?.value ?? 3))));
  const seen = Math.min(cells, 3);
  return (
    <svg
      className="figure-svg"
      viewBox={`0 0 ${WIDTH} 190`}
      role="img"
      aria-label={`Vessel holding ${figure.load?.text ?? "nothing typed yet"}`}
    >
      {load > 0 && (
        <path d={`M${left} ${level} H${right} V${foot} L360 152 H320 L${left} ${foot} Z`} fill="var(--line)" />
      )}
      <path
        d={`M${left} ${top} V${foot} L320 152 H360 L${right} ${foot} V${top}`}
        fill="none"
        stroke="var(--ink)"
        strokeWidth="3"
      />
      <path
        d={`M${left - 26} ${foot - 22} H${left} M${right} ${foot - 22} H${right + 26}`}
        stroke="var(--ink)"
        strokeWidth="3"
      />
      {Array.from({ length: seen }, (_, place) => {
        const x = seen === 1 ? 340 : left - 20 + ((right - left + 40) / (seen - 1)) * place;
        return <rect key={place} x={x - 12} y={foot - 20} width="24" height="16" fill="var(--act)" />;
      })}
      <path d="M230 178 H450" stroke="var(--ink)" strokeWidth="2" />
      <text x="60" y="46" fontSize="26" fontWeight="700" fill="var(--ink)">
        {figure.load?.text ?? ""}
      </text>
      <text x="60" y="68" fontSize="15" fill="var(--soft)">
        {figure.load ? "the load in hand" : ""}
      </text>
      <text x="450" y="46" fontSize="17" fill="var(--ink)">
        {figure.capacity ? `holds ${figure.capacity.text}` : ""}
      </text>
      <text x="450" y="68" fontSize="15" fill="var(--soft)">
        {figure.cell_count ? `on ${figure.cell_count.text} cells` : ""}
      </text>
    </svg>
  );
}
