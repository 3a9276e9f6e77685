import type { Schemas } from "../api/client";
import { parted } from "../ui/quantity";
import { day, shown } from "../ui/words";

type Check = Schemas["CheckMassView"];

const [WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM] = [420, 150, 62, 12, 14, 26];

/** What a scale showed beyond its check mass, look by look, against one division of it. */
export function CheckChart({ checks, division }: { checks: Check[]; division: string }) {
  const ordered = [...checks].reverse();
  const unit = ordered[0]?.unit ?? "kg";
  const same = ordered.filter((one) => one.unit === unit);
  const own = parted(division);
  const band = own.unit === unit ? Number(own.figure) : 0;
  const most = Math.max(band * 1.6, ...same.map((one) => Math.abs(one.off) * 1.15), Number.MIN_VALUE);
  const times = same.map((one) => new Date(one.at).getTime());
  const [first, last] = [Math.min(...times), Math.max(...times)];
  const x = (at: number) => LEFT + 10 + ((at - first) / Math.max(1, last - first)) * (WIDTH - LEFT - RIGHT - 20);
  const y = (off: number) => TOP + ((most - off) / (2 * most)) * (HEIGHT - TOP - BOTTOM);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="check-chart"
      role="img"
      aria-label={`What it showed beyond its check mass at ${same.length} looks, ${same.filter((one) => !one.holds).length} of them off`}
    >
      {band > 0 && (
        <rect x={LEFT} width={WIDTH - LEFT - RIGHT} y={y(band)} height={y(-band) - y(band)} fill="var(--band)" />
      )}
      <line x1={LEFT} x2={WIDTH - RIGHT} y1={y(0)} y2={y(0)} stroke="var(--aside)" />
      <text x={LEFT - 8} y={y(0) + 5} textAnchor="end">
        0
      </text>
      {band > 0 && (
        <>
          <text x={LEFT - 8} y={y(band) + 5} textAnchor="end">
            +{shown(band, 3)} {unit}
          </text>
          <text x={LEFT - 8} y={y(-band) + 5} textAnchor="end">
            −{shown(band, 3)}
          </text>
        </>
      )}
      {same.map((one, place) =>
        one.holds ? (
          <circle key={one.id} cx={x(times[place]!)} cy={y(one.off)} r="4" fill="var(--ink)" />
        ) : (
          <path key={one.id} d={`M${x(times[place]!) - 7} ${y(one.off)}l7-7 7 7-7 7z`} fill="var(--fault)" />
        ),
      )}
      <text x={LEFT} y={HEIGHT - 6}>
        {day(new Date(first).toISOString())}
      </text>
      <text x={WIDTH - RIGHT} y={HEIGHT - 6} textAnchor="end">
        {day(new Date(last).toISOString())}
      </text>
    </svg>
  );
}
