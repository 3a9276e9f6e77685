import type { Call } from "../../api/client";
import { callColour } from "../../ui/CallShape";

/** The common scale of a tally: per cent either side of nothing, and the accept limit. */
export interface Scale {
  reach: number;
  accept: number | null;
}

/** A scale on which the accept band is plain to see and the errors have room. */
export function scaleFor(errors: number[], accept: number | null): Scale {
  const furthest = Math.max(0, ...errors.map(Math.abs));
  const band = accept ?? 0;
  // A freak run may leave the scale: an arrow says so, and the others keep their detail.
  const sorted = errors.map(Math.abs).sort((a, b) => a - b);
  const usual = sorted[Math.floor((sorted.length - 1) * 0.75)] ?? 0;
  const wanted = Math.max(band * 2.5, Math.min(furthest, Math.max(usual * 2.2, band * 2.5)) * 1.15, 0.02);
  return { reach: nice(wanted), accept };
}

function nice(value: number): number {
  const decade = 10 ** Math.floor(Math.log10(value));
  const step = [1, 1.5, 2, 3, 4, 5, 6, 8, 10].find((one) => one * decade >= value * 0.999) ?? 10;
  return step * decade;
}

const place = (percent: number, { reach }: Scale) => 50 + (percent / reach) * 47;
const at = (percent: number, scale: Scale) => `${place(percent, scale)}%`;

export function StripHead({ scale }: { scale: Scale }) {
  const marks = [
    ...new Set([
      -scale.reach,
      scale.accept ? -scale.accept : -scale.reach / 2,
      0,
      scale.accept ?? scale.reach / 2,
      scale.reach,
    ]),
  ];
  const decimals = scale.reach < 0.1 ? 3 : scale.reach < 1 ? 2 : 1;
  const text = (value: number) => {
    const figure = Number(Math.abs(value).toFixed(decimals));
    return value === 0 ? "0" : `${value < 0 ? "−" : "+"}${figure}`;
  };
  return (
    <svg className="strip-svg" height="20" aria-hidden="true">
      {marks.map((mark) => (
        <text
          key={mark}
          x={at(mark, scale)}
          y="15"
          textAnchor={mark === scale.reach ? "end" : mark === -scale.reach ? "start" : "middle"}
        >
          {text(mark)}
        </text>
      ))}
    </svg>
  );
}

interface Marks {
  scale: Scale;
  error?: number | null;
  aside?: boolean;
  /** What this run would have read with the new figure. */
  would?: number | null;
  mean?: { error: number; uncertainty: number; call: Call };
  ghost?: number | null;
  /** How widely the true error is believed to lie round the mean: Student's t, in per cent; no degrees of freedom for infinitely many. */
  believed?: Belief;
}

interface Belief {
  about: number;
  width: number;
  freedom: number | null;
}

/** One row's strip: the accept band behind, the error as a mark, or the mean with its uncertainty. */
export function ErrorStrip({ scale, error, aside, would, mean, ghost, believed }: Marks) {
  const beyond = error != null && Math.abs(error) > scale.reach;
  return (
    <svg className="strip-svg strip-row" aria-hidden="true">
      {scale.accept != null && (
        <rect
          x={at(-scale.accept, scale)}
          width={`${(scale.accept / scale.reach) * 94}%`}
          y="0"
          height="100%"
          fill="var(--band)"
        />
      )}
      <line x1="50%" x2="50%" y1="0" y2="100%" stroke="var(--aside)" strokeWidth="1" />
      {would != null && Math.abs(would) <= scale.reach && !aside && (
        <line x1={at(would, scale)} x2={at(would, scale)} y1="36%" y2="64%" stroke="var(--act)" strokeWidth="2" />
      )}
      {error != null && !beyond && (
        <line
          x1={at(error, scale)}
          x2={at(error, scale)}
          y1="20%"
          y2="80%"
          stroke={aside ? "var(--aside)" : "var(--ink)"}
          strokeWidth={aside ? 1.5 : 6}
          strokeDasharray={aside ? "3 3" : undefined}
        />
      )}
      {beyond && (
        <svg x={error! < 0 ? "1%" : "95%"} y="30%" width="14" height="20" overflow="visible">
          <path
            d={error! < 0 ? "M0 8 12 0V16Z" : "M12 8 0 0V16Z"}
            fill={aside ? "none" : "var(--ink)"}
            stroke={aside ? "var(--aside)" : "var(--ink)"}
          />
        </svg>
      )}
      {ghost != null && (
        <circle cx={at(ghost, scale)} cy="50%" r="5" fill="none" stroke="var(--aside)" strokeWidth="1.5" />
      )}
      {believed && <Curve scale={scale} {...believed} />}
      {mean && <Whisker scale={scale} {...mean} />}
    </svg>
  );
}

/** The curve of what is believed of the true error, small and calm behind its mean; what lies outside the limit is darker. */
function Curve({ scale, about, width, freedom }: Belief & { scale: Scale }) {
  const density = (t: number) =>
    freedom == null ? Math.exp((-t * t) / 2) : (1 + (t * t) / freedom) ** (-(freedom + 1) / 2);
  const points = Array.from({ length: 81 }, (_, number) => {
    const percent = scale.reach * (number / 40 - 1);
    return [place(percent, scale), 96 - 84 * density((percent - about) / width)] as const;
  });
  const accept = scale.accept;
  const drawn = (some: typeof points) =>
    some.length < 2 ? "" : `M${some[0]![0]} 96 ${some.map(([x, y]) => `L${x} ${y}`).join(" ")} L${some.at(-1)![0]} 96Z`;
  const outside = (low: boolean) =>
    accept == null ? [] : points.filter(([x]) => (low ? x <= place(-accept, scale) : x >= place(accept, scale)));
  return (
    <svg className="strip-belief" width="100%" height="100%" viewBox="0 0 100 100" preserveAspectRatio="none">
      <path d={drawn(points)} fill="var(--aside)" opacity="0.28" />
      <path d={drawn(outside(true))} fill="var(--aside)" opacity="0.45" />
      <path d={drawn(outside(false))} fill="var(--aside)" opacity="0.45" />
    </svg>
  );
}

function Whisker({
  scale,
  error,
  uncertainty,
  call,
}: {
  scale: Scale;
  error: number;
  uncertainty: number;
  call: Call;
}) {
  const low = at(Math.max(error - uncertainty, -scale.reach), scale);
  const high = at(Math.min(error + uncertainty, scale.reach), scale);
  const colour = callColour(call);
  return (
    <g stroke={colour} strokeWidth="3">
      <line x1={low} x2={high} y1="50%" y2="50%" />
      <line x1={low} x2={low} y1="32%" y2="68%" />
      <line x1={high} x2={high} y1="32%" y2="68%" />
      <circle
        cx={at(Math.max(-scale.reach, Math.min(scale.reach, error)), scale)}
        cy="50%"
        r="5"
        fill={colour}
        stroke="none"
      />
    </g>
  );
}
