import type { DrawnProps, Of } from "./props";
import { useWidth } from "./width";

const [TOP, FOOT] = [20, 134];

/** Values one after the other as a staircase, each against the one before, closing in on what is wanted. */
export function StairsDrawing({ drawing, taken }: DrawnProps<"stairs">) {
  const width = useWidth();
  const narrow = width < 500;
  const steps = (drawing.steps ?? []).slice(narrow ? -6 : -10);
  const wanted = drawing.wanted?.size;
  const within = drawing.within ?? 0.01;
  const middle = wanted ?? steps.at(-1)?.value ?? 1;
  const offs = steps.map((step) => step.value / middle - 1);
  const most = Math.max(within, ...offs);
  const least = Math.min(-within, ...offs);
  const spare = (most - least) * 0.14;
  const y = (off: number) => TOP + ((most + spare - off) / (most - least + 2 * spare)) * (FOOT - TOP);
  const begin = drawing.meter && !narrow ? (drawing.beside ? 316 : 150) : 0;
  const [left, right] = [begin + (narrow ? 62 : 96), width - 12];
  const room = (right - left) / Math.max(steps.length, narrow ? 3 : 5);
  const x = (place: number) => left + room * place;
  const percent = (off: number) => `${off < 0 ? "−" : "+"}${Math.abs(off * 100).toFixed(1)} %`;
  return (
    <svg className="figure-svg" viewBox={`0 0 ${width} 182`} role="img" aria-label={words(drawing)}>
      {drawing.meter && !narrow && <Meter {...drawing.meter} />}
      {drawing.meter && drawing.beside && !narrow && (
        <g transform="translate(162 0)">
          <Meter {...drawing.beside} />
        </g>
      )}
      {drawing.exchanged && !narrow && (
        <g stroke="var(--fault)" strokeWidth="2.5" fill="none">
          <path d="M84 78 L228 94 M228 78 L84 94" />
          <path d="M92 92 L82 95 L88 87 M220 92 L230 95 L224 87" />
        </g>
      )}
      <rect x={left} y={y(within)} width={right - left} height={y(-within) - y(within)} fill="var(--band)" />
      <path d={`M${left} ${y(0)} H${right}`} stroke="var(--ink)" strokeWidth="1.5" />
      {steps.map((step, place) => {
        const [a, b, at] = [x(place) + 5, x(place + 1) - 5, y(offs[place]!)];
        const before = place > 0 ? y(offs[place - 1]!) : null;
        return (
          <g key={place}>
            {before != null && (
              <path d={`M${x(place)} ${before} V${at}`} stroke="var(--aside)" strokeWidth="1.5" strokeDasharray="4 4" />
            )}
            <path
              d={`M${a} ${at} H${b}`}
              stroke={step.aside ? "var(--aside)" : "var(--act)"}
              strokeWidth={place + 1 === steps.length || taken === place ? 8 : 5}
              strokeDasharray={step.aside ? "7 5" : undefined}
            />
            <g textAnchor="middle" fontSize="15">
              <text x={(a + b) / 2} y="156" fill="var(--ink)">
                {step.text}
              </text>
              {step.note && room > 54 && (
                <text x={(a + b) / 2} y="175" fill="var(--soft)">
                  {step.note}
                </text>
              )}
            </g>
          </g>
        );
      })}
      <g fontSize="14" fill="var(--soft)" textAnchor="end">
        <text x={left - 8} y={y(most) + 5}>
          {percent(most)}
        </text>
        {y(least) - y(most) > 30 && (
          <text x={left - 8} y={y(least) + 5}>
            {percent(least)}
          </text>
        )}
      </g>
      {drawing.wanted && (
        <text x={left} y="14" fontSize="15" fill="var(--ink)">
          <tspan fontWeight="700">{drawing.wanted.text}</tspan> {drawing.called}
        </text>
      )}
      {!steps.length && (
        <text x={(left + right) / 2} y="156" textAnchor="middle" fontSize="15" fill="var(--soft)">
          nothing caught yet
        </text>
      )}
    </svg>
  );
}

/** The meter from the side: its hopper, the roller with its turns, the container under it with what was caught. */
function Meter({ turns, net, tare, label }: NonNullable<Of<"stairs">["meter"]>) {
  return (
    <g textAnchor="middle" fontSize="15" fill="var(--ink)">
      <g fill="none" stroke="var(--ink)" strokeWidth="2.5">
        <path d="M30 8 L52 44 H98 L120 8" />
        <circle cx="75" cy="58" r="15" />
        <path d="M75 58 L86 48" />
        <path d="M36 96 V140 H114 V96" />
      </g>
      <path d="M75 76 V92" stroke="var(--act)" strokeWidth="4" strokeDasharray="3 4" />
      <text x="104" y="64" textAnchor="start">
        {turns}
      </text>
      <text x="75" y="126" fontWeight="700">
        {net}
      </text>
      <text x="75" y="159" fill="var(--soft)">
        {tare}
      </text>
      {label && (
        <text x="75" y="177" fontWeight="700">
          {label.length > 18 ? `${label.slice(0, 17)}…` : label}
        </text>
      )}
    </g>
  );
}

function words({ steps = [], wanted, called, beside, exchanged }: Of<"stairs">): string {
  const against = wanted ? `, against ${wanted.text} ${called}` : "";
  const second = beside ? `; ${beside.label} gave ${beside.net || "nothing yet"}` : "";
  const crossed = exchanged ? "; the containers stood under each other’s outlets" : "";
  return steps.length
    ? `${steps.length} values one after the other${against}${second}${crossed}`
    : "Nothing caught yet";
}
