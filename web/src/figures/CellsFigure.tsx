import type { Drawn } from "./BeltFigure";

const LOOKS: Record<string, string> = {
  reversed: "var(--fault)",
  dead: "var(--fault)",
  stays: "var(--fault)",
  worst: "var(--adjust)",
};

/** A platform or vessel from above, with its cells where they stand and the share of each. */
export function CellsFigure({ figure, taken, round }: { figure: Drawn; taken: number; round: boolean }) {
  const count = Object.keys(figure).filter((key) => key.startsWith("label")).length;
  const [width, height] = [680, 172];
  const [centre, middle] = [width / 2, height / 2];
  const places = around(count, centre, middle, round);
  return (
    <svg className="figure-svg" viewBox={`0 0 ${width} ${height}`} role="img" aria-label={words(figure, count)}>
      {round ? (
        <circle cx={centre} cy={middle} r="62" fill="none" stroke="var(--ink)" strokeWidth="2.5" />
      ) : (
        <rect
          x={centre - 150}
          y={middle - 58}
          width="300"
          height="116"
          fill="none"
          stroke="var(--ink)"
          strokeWidth="2.5"
        />
      )}
      {places.map(([x, y], place) => {
        const cell = figure[`cell${place}`];
        const how = String(cell?.unit ?? "");
        const colour = LOOKS[how] ?? (how === "in-order" ? "var(--leave)" : "var(--act)");
        const right = x >= centre;
        const away = right ? x + 34 : x - 34;
        return (
          <g key={place}>
            {place === taken && (
              <circle cx={x} cy={y} r="24" fill="none" stroke="var(--act)" strokeWidth="3" strokeDasharray="5 4" />
            )}
            <circle cx={x} cy={y} r="16" fill={LOOKS[how] ? colour : "var(--paper)"} stroke={colour} strokeWidth="3" />
            <text
              x={x}
              y={y + 5}
              textAnchor="middle"
              fontSize="14"
              fontWeight="700"
              fill={LOOKS[how] ? "var(--paper)" : "var(--ink)"}
            >
              {initials(figure[`label${place}`]?.text ?? "")}
            </text>
            {cell?.text && (
              <text
                x={away}
                y={y + 8}
                textAnchor={right ? "start" : "end"}
                fontSize="24"
                fontWeight="600"
                fill="var(--ink)"
              >
                {cell.text}
              </text>
            )}
          </g>
        );
      })}
      {(["dead_load", "live_capacity"] as const).map((key, row) =>
        figure[key] ? (
          <text key={key} x={centre} y={middle - 4 + row * 22} textAnchor="middle" fontSize="17" fill="var(--ink)">
            {figure[key].text} {key === "dead_load" ? "dead" : "live"}
          </text>
        ) : null,
      )}
      {count === 0 && (
        <text x={centre} y={middle + 5} textAnchor="middle" fontSize="16" fill="var(--soft)">
          no cells yet
        </text>
      )}
    </svg>
  );
}

/** `front left` as `fl`; a short name as it is. */
const initials = (label: string) =>
  label.includes(" ")
    ? label
        .split(/\s+/)
        .map((word) => word[0])
        .join("")
        .slice(0, 3)
    : label.slice(0, 3);

/** Where the cells stand: at the corners of a platform, round a vessel, one under the middle. */
function around(count: number, centre: number, middle: number, round: boolean): [number, number][] {
  if (count === 1) return [[centre, middle]];
  if (!round && count === 4)
    return [
      [-150, -58],
      [150, -58],
      [150, 58],
      [-150, 58],
    ].map(([x, y]) => [centre + x!, middle + y!]);
  if (!round && count === 2)
    return [
      [centre - 150, middle],
      [centre + 150, middle],
    ];
  const [wide, high] = round ? [62, 62] : [150, 58];
  return Array.from({ length: count }, (_, place) => {
    const turn = (place / count) * 2 * Math.PI - Math.PI / 2 - Math.PI / count;
    return [centre + wide * Math.cos(turn), middle + high * Math.sin(turn)] as [number, number];
  });
}

function words(figure: Drawn, count: number): string {
  const cells = Array.from(
    { length: count },
    (_, place) => `${figure[`label${place}`]?.text}: ${figure[`cell${place}`]?.text || "no reading"}`,
  );
  return count ? `Seen from above: ${cells.join(", ")}` : "Seen from above, no cells yet";
}
