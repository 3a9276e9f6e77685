import type { Schemas } from "../api/client";

export type Drawn = Record<string, Schemas["Drawn"]>;

const WIDTH = 680;
const PER_METRE = 104;

interface Props {
  figure: Drawn;
  /** Without the figures above, where the tally needs the room. */
  compact?: boolean;
}

/** The conveyor from the side, to scale along the weighbridge: a wrong spacing or angle looks wrong. */
export function BeltFigure({ figure, compact }: Props) {
  const degrees = Math.min(Number(figure.angle?.value ?? 0), 40);
  const slope = Math.tan((degrees * Math.PI) / 180);
  const spacing = figure.idler_spacing?.si ?? 1;
  const gap = Math.min(spacing * PER_METRE, 280);
  const weighing = Math.max(1, Math.min(8, Math.round(Number(figure.weigh_idlers?.value ?? 1))));
  const middle = WIDTH / 2;
  const run = WIDTH - 90;
  // A steep belt would leave the picture: its middle stays, its ends go up and down within it.
  const lift = Math.min(slope, (compact ? 26 : 74) / (run / 2));
  const centre = compact ? 46 : 104;
  const y = (x: number) => centre - (x - middle) * lift;
  const [left, right] = [45, WIDTH - 45];
  const places: number[] = [];
  const first = middle - ((weighing - 1) / 2) * gap;
  for (let number = -12; number < 24; number++) {
    const x = first + number * gap;
    if (x > left + 26 && x < right - 26) places.push(x);
  }
  const onScale = (x: number) => x > first - 1 && x < first + (weighing - 1) * gap + 1;
  const [from, to] = [first - gap, first + weighing * gap];
  const foot = y(middle) + 58;
  return (
    <svg className="figure-svg" viewBox={`0 0 ${WIDTH} ${compact ? 122 : 190}`} role="img" aria-label={words(figure)}>
      <g fill="none" stroke="var(--ink)">
        <path d={`M${left - 3} ${y(left) - 15} L${right - 3} ${y(right) - 15}`} strokeWidth="3" />
        <path d={`M${left + 4} ${y(left) + 15} L${right + 4} ${y(right) + 15}`} strokeWidth="1.5" />
        <circle cx={left} cy={y(left)} r="15" strokeWidth="2.5" />
        <circle cx={right} cy={y(right)} r="15" strokeWidth="2.5" />
      </g>
      {!figure.trace00 && <path d={heap(left, right, (x) => y(x) - 17)} fill="var(--line)" />}
      {places.map((x) =>
        onScale(x) ? (
          <g key={x} stroke="var(--act)" strokeWidth="2.5">
            <circle cx={x} cy={y(x) - 5} r="8.5" fill="var(--act)" />
            <line x1={x} x2={x} y1={y(x) + 4} y2={foot - 24} />
          </g>
        ) : (
          <circle key={x} cx={x} cy={y(x) - 6} r="7" fill="var(--paper)" stroke="var(--soft)" strokeWidth="2" />
        ),
      )}
      <rect
        x={first - 20}
        y={foot - 24}
        width={(weighing - 1) * gap + 40}
        height="12"
        fill="var(--paper)"
        stroke="var(--act)"
        strokeWidth="2.5"
      />
      {figure.idler_spacing && (
        <g stroke="var(--ink)" strokeWidth="1" fontSize="15">
          <path
            d={`M${from} ${y(from) + 6} V${foot + 10} M${first} ${foot - 10} V${foot + 10} M${from} ${foot + 5} H${first} M${to} ${y(to) + 6} V${foot + 10} M${to - gap} ${foot - 10} V${foot + 10} M${to - gap} ${foot + 5} H${to}`}
            fill="none"
          />
          {[from + gap / 2, to - gap / 2].map((x) => (
            <text key={x} x={x} y={foot} textAnchor="middle" fill="var(--ink)" stroke="none">
              {figure.idler_spacing!.text}
            </text>
          ))}
        </g>
      )}
      {figure.hung && (
        <g>
          <path d={`M${middle} ${foot - 12} V${foot + 2}`} stroke="var(--ink)" strokeWidth="2" />
          <rect x={middle - 17} y={foot + 2} width="34" height="20" fill="var(--ink)" />
          <text x={middle + 26} y={foot + 18} fontSize="17" fontWeight="700" fill="var(--ink)">
            {figure.hung.text}
            {figure.live_weight ? `, live ${figure.live_weight.text}` : ""}
          </text>
        </g>
      )}
      <Zeros figure={figure} compact={compact} />
      <Trace figure={figure} left={left} right={right} y={(x) => y(x) - 34} />
      {figure.angle && (
        <text x={right - 66} y={y(right) + 52} fontSize="15" fill="var(--ink)">
          {figure.angle.text}
        </text>
      )}
      {!compact && <Headlines figure={figure} />}
    </svg>
  );
}

interface TraceProps {
  figure: Drawn;
  left: number;
  right: number;
  y: (x: number) => number;
}

/** The total over one revolution of the empty belt, drawn along it: does it come back, or go on? */
function Trace({ figure, left, right, y }: TraceProps) {
  const totals = Object.entries(figure)
    .filter(([key, total]) => key.startsWith("trace") && total.si != null)
    .sort(([a], [b]) => a.localeCompare(b))
    .map(([, total]) => total.si!);
  if (totals.length < 6) return null;
  const reach = Math.max(0.01, ...totals.map(Math.abs));
  const x = (place: number) => left + 20 + (place / (totals.length - 1)) * (right - left - 40);
  const points = totals.map((total, place) => `${x(place)},${y(x(place)) - (total / reach) * 18}`).join(" ");
  return (
    <g fill="none">
      <path
        d={`M${x(0)} ${y(x(0))} L${x(totals.length - 1)} ${y(x(totals.length - 1))}`}
        stroke="var(--soft)"
        strokeDasharray="3 4"
      />
      <polyline points={points} stroke="var(--act)" strokeWidth="2.5" />
    </g>
  );
}

/** Earlier zeros and today's, as a small trend on the right: does it creep? */
function Zeros({ figure, compact }: Props) {
  const zeros = Object.entries(figure)
    .filter(([key, zero]) => key.startsWith("zero") && zero.si != null)
    .map(([, zero]) => zero);
  if (zeros.length < 2) return null;
  const figures = zeros.map((zero) => zero.si!);
  const [low, high] = [Math.min(...figures), Math.max(...figures)];
  const top = compact ? 84 : 22;
  const y = (zero: number) => top + 26 - ((zero - low) / (high - low || 1)) * 26;
  const x = (place: number) => 470 + (place / (zeros.length - 1)) * 110;
  return (
    <g>
      <polyline
        points={figures.map((zero, place) => `${x(place)},${y(zero)}`).join(" ")}
        fill="none"
        stroke="var(--soft)"
        strokeWidth="1.5"
      />
      {figures.map((zero, place) => (
        <circle
          key={place}
          cx={x(place)}
          cy={y(zero)}
          r={place === zeros.length - 1 ? 5 : 2.5}
          fill={place === zeros.length - 1 ? "var(--act)" : "var(--soft)"}
        />
      ))}
      <text x={x(zeros.length - 1) + 12} y={y(figures.at(-1)!) + 5} fontSize="15" fill="var(--ink)">
        {zeros.at(-1)!.text}
      </text>
    </g>
  );
}

const HEAD: [string, string][] = [
  ["expected_rate", "that the weight stands for"],
  ["revolution_time", "one revolution"],
  ["belt_length", "belt length"],
  ["rate", "mean rate of the runs"],
  ["rated_rate", "rated rate"],
  ["load_per_length", "on the belt"],
  ["belt_speed", "belt speed"],
];

function Headlines({ figure }: { figure: Drawn }) {
  const shown = HEAD.filter(([key]) => figure[key]).slice(0, 3);
  return (
    <g fill="var(--ink)">
      {shown.map(([key, title], number) => (
        <g key={key} transform={`translate(${46 + number * 216} 26)`}>
          <text fontSize="25" fontWeight="700">
            {figure[key]!.text}
          </text>
          <text y="19" fontSize="14" fill="var(--soft)">
            {title}
            {key === "rate" && figure.rate_share ? `, ${figure.rate_share.text} of rated` : ""}
          </text>
        </g>
      ))}
      <path d={`M${WIDTH - 74} 18 h34 m-9 -6 l9 6 l-9 6`} fill="none" stroke="var(--ink)" strokeWidth="2" />
    </g>
  );
}

/** Material lying on the belt between two places. */
function heap(left: number, right: number, y: (x: number) => number): string {
  const [a, b] = [left + 26, right - 30];
  const at = (share: number, up: number) => `${a + (b - a) * share} ${y(a + (b - a) * share) - up}`;
  return `M${at(0, 0)} C${at(0.12, 24)} ${at(0.25, 14)} ${at(0.4, 19)} S${at(0.75, 24)} ${at(1, 0)} Z`;
}

function words(figure: Drawn): string {
  const parts = [
    figure.idler_spacing && `idlers ${figure.idler_spacing.text} apart`,
    figure.weigh_idlers && `${figure.weigh_idlers.text} on the scale`,
    figure.angle && `rising ${figure.angle.text}`,
  ];
  return `Conveyor, ${parts.filter(Boolean).join(", ")}`;
}
