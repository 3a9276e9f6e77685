import type { DrawnProps, Of } from "./props";
import { Heads } from "./Heads";
import { Spot } from "./Spot";
import { useWidth } from "./width";

type Belt = Of<"belt">;

const PER_METRE = 104;
/** What the angle takes at each end of the belt, beside the weigh area. */
const ENDS = 270;
const NARROW = 92;

/** The conveyor from the side, to scale along the weighbridge: a wrong spacing or angle looks wrong. */
export function BeltDrawing({ drawing, compact }: DrawnProps<"belt">) {
  const { spacing, angle, hung, live_weight } = drawing;
  const width = useWidth();
  const [left, middle, right] = [width > 500 ? 45 : 22, width / 2, width > 500 ? width - 45 : width - 22];
  const weighing = Math.max(1, Math.min(8, drawing.weigh_idlers ?? 1));
  const gap = Math.min((spacing?.size ?? 1) * PER_METRE, Math.max(width - ENDS, 190) / (weighing + 1));
  // A steep belt would leave the picture: its middle stays, its ends go up and down within it.
  const slope = Math.tan((Math.min(angle?.size ?? 0, 40) * Math.PI) / 180);
  const lift = Math.min(slope, (compact ? 24 : 60) / (right - middle));
  const centre = compact ? 50 : 92;
  const y = (x: number) => centre - (x - middle) * lift;
  const first = middle - ((weighing - 1) / 2) * gap;
  const last = first + (weighing - 1) * gap;
  const places = Array.from({ length: 60 }, (_, number) => first + (number - 30) * gap).filter(
    (x) => x > left + 26 && x < right - 26,
  );
  const onScale = (x: number) => x > first - 1 && x < last + 1;
  const foot = centre + 56;
  return (
    <>
      <Heads heads={compact ? [] : (drawing.headlines ?? [])}>
        <Zeros zeros={drawing.zeros ?? []} />
      </Heads>
      <svg
        className="figure-svg"
        viewBox={`0 0 ${width} ${foot + (hung ? 36 : 16)}`}
        role="img"
        aria-label={words(drawing)}
      >
        <g fill="none" stroke="var(--ink)">
          <path d={`M${left - 3} ${y(left) - 15} L${right - 3} ${y(right) - 15}`} strokeWidth="3" />
          <path d={`M${left + 4} ${y(left) + 15} L${right + 4} ${y(right) + 15}`} strokeWidth="1.5" />
          <circle cx={left} cy={y(left)} r="15" strokeWidth="2.5" />
          <circle cx={right} cy={y(right)} r="15" strokeWidth="2.5" />
          <path d={`M${right - 32} ${y(right) - 32} h30 m-9 -6 l9 6 l-9 6`} strokeWidth="2" />
        </g>
        {drawing.laden && <path d={heap(left, right, (x) => y(x) - 17)} fill="var(--line)" />}
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
          width={last - first + 40}
          height="12"
          fill="var(--paper)"
          stroke="var(--act)"
          strokeWidth="2.5"
        />
        {spacing && <Spacing first={first} last={last} gap={gap} foot={foot} y={y} text={spacing.text} />}
        {hung && (
          <g>
            <path d={`M${middle} ${foot - 12} V${foot + 12}`} stroke="var(--ink)" strokeWidth="2" />
            <rect x={middle - 17} y={foot + 12} width="34" height="20" fill="var(--ink)" />
            <text x={middle + 26} y={foot + 29} fontSize="17" fontWeight="700" fill="var(--ink)">
              {hung.text}
              {live_weight ? `, live ${live_weight.text}` : ""}
            </text>
          </g>
        )}
        <Trace total={drawing.total ?? []} left={left} right={right} y={(x) => y(x) - 34} />
        <Spot at={["idler"]} points={places.filter(onScale).map((x) => ({ x, y: y(x) - 5 }))} size={15} />
        <Spot at={["frame", "cell"]} points={[{ x: middle, y: foot - 18 }]} />
        <Spot at={["track", "speed"]} points={[{ x: left, y: y(left) }]} />
        <Spot at={["chute"]} points={[{ x: right, y: y(right) }]} />
        {angle && (
          <text x={right - 22} y={y(right) + 38} fontSize="15" textAnchor="end" fill="var(--ink)">
            {angle.text}
          </text>
        )}
      </svg>
    </>
  );
}

interface SpacingProps {
  first: number;
  last: number;
  gap: number;
  foot: number;
  y: (x: number) => number;
  text: string;
}

/** The spacing as a dimension on both sides of the weigh idlers; once only where both would not fit. */
function Spacing({ first, last, gap, foot, y, text }: SpacingProps) {
  const [from, to] = [first - gap, last + gap];
  const both = last - first + gap > NARROW && gap > 64;
  return (
    <g stroke="var(--ink)" strokeWidth="1" fontSize="15">
      <path
        d={`M${from} ${y(from) + 6} V${foot + 10} M${first} ${foot - 10} V${foot + 10} M${from} ${foot + 5} H${first} M${to} ${y(to) + 6} V${foot + 10} M${last} ${foot - 10} V${foot + 10} M${last} ${foot + 5} H${to}`}
        fill="none"
      />
      {both ? (
        [from + gap / 2, to - gap / 2].map((x) => (
          <text key={x} x={x} y={foot} textAnchor="middle" fill="var(--ink)" stroke="none">
            {text}
          </text>
        ))
      ) : (
        <text x={from - 8} y={foot + 8} textAnchor="end" fill="var(--ink)" stroke="none">
          {text}
        </text>
      )}
    </g>
  );
}

/** The total over one revolution of the empty belt, drawn along it: does it come back, or go on? */
function Trace({ total, left, right, y }: { total: number[]; left: number; right: number; y: (x: number) => number }) {
  if (total.length < 6) return null;
  const reach = Math.max(0.01, ...total.map(Math.abs));
  const x = (place: number) => left + 20 + (place / (total.length - 1)) * (right - left - 60);
  const end = total.length - 1;
  const points = total.map((kg, place) => `${x(place)},${y(x(place)) - (kg / reach) * 16}`).join(" ");
  return (
    <g fill="none">
      <path d={`M${x(0)} ${y(x(0))} L${x(end)} ${y(x(end))}`} stroke="var(--soft)" strokeDasharray="3 4" />
      <polyline points={points} stroke="var(--act)" strokeWidth="2.5" />
    </g>
  );
}

/** Earlier zeros and today's, as a small trend: does it creep? */
function Zeros({ zeros }: { zeros: NonNullable<Belt["zeros"]> }) {
  if (zeros.length < 2) return null;
  const sizes = zeros.map((zero) => zero.size);
  const [low, high] = [Math.min(...sizes), Math.max(...sizes)];
  const y = (size: number) => 27 - ((size - low) / (high - low || 1)) * 22;
  const x = (place: number) => 6 + (place / (zeros.length - 1)) * 98;
  const end = zeros.length - 1;
  return (
    <span className="zeros">
      <b>{zeros[end]!.text}</b>
      <svg viewBox="0 0 112 32" width="112" height="32" aria-hidden="true">
        <polyline
          points={sizes.map((size, place) => `${x(place)},${y(size)}`).join(" ")}
          fill="none"
          stroke="var(--soft)"
          strokeWidth="1.5"
        />
        {sizes.map((size, place) => (
          <circle
            key={place}
            cx={x(place)}
            cy={y(size)}
            r={place === end ? 5 : 2.5}
            fill={place === end ? "var(--act)" : "var(--soft)"}
          />
        ))}
      </svg>
      <small>zero, today and before</small>
    </span>
  );
}

/** Material lying on the belt. */
function heap(left: number, right: number, y: (x: number) => number): string {
  const [a, b] = [left + 26, right - 42];
  const at = (share: number, up: number) => `${a + (b - a) * share} ${y(a + (b - a) * share) - up}`;
  return `M${at(0, 0)} C${at(0.12, 22)} ${at(0.25, 13)} ${at(0.4, 17)} S${at(0.75, 20)} ${at(1, 0)} Z`;
}

function words({ spacing, weigh_idlers, angle, hung }: Belt): string {
  const parts = [
    spacing && `idlers ${spacing.text} apart`,
    weigh_idlers && `${weigh_idlers} on the scale`,
    angle && `rising ${angle.text}`,
    hung && `${hung.text} hung on`,
  ];
  return `Conveyor, ${parts.filter(Boolean).join(", ")}`;
}
