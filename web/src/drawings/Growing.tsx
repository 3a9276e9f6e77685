import type { DrawnProps, Of } from "./props";
import { useWidth } from "./width";

const [TOP, FOOT] = [30, 140];

/** A load growing round by round: the weights on top of the material that took their place, and what is not known of it. */
export function GrowingDrawing({ drawing }: DrawnProps<"growing">) {
  const width = useWidth();
  const narrow = width < 500;
  const marks = (drawing.marks ?? []).slice(narrow ? -5 : -10);
  const weights = drawing.weights ?? 0;
  const most = Math.max(weights * 3, ...marks.map((mark) => mark.load + mark.unknown)) || 1;
  // What is not known is small beside the load: it is drawn larger, all of it by the same share.
  const unsure = Math.max(...marks.map((mark) => mark.unknown), 0);
  const larger = unsure ? (most * 0.12) / unsure : 1;
  const y = (load: number) => FOOT - (load / most) * (FOOT - TOP);
  const [left, right] = [16, width - 16];
  const room = (right - left) / Math.max(marks.length, narrow ? 3 : 5);
  const bar = Math.min(64, room * 0.5);
  return (
    <svg className="figure-svg" viewBox={`0 0 ${width} 182`} role="img" aria-label={words(drawing)}>
      <path d={`M${left} ${FOOT} H${right}`} stroke="var(--ink)" strokeWidth="2" />
      {marks.map((mark, place) => {
        const middle = left + room * (place + 0.5);
        const [x, top] = [middle - bar / 2, y(mark.load)];
        const under = y(Math.max(0, mark.load - weights));
        const half = (mark.unknown * larger * (FOOT - TOP)) / most;
        return (
          <g key={place}>
            {under < FOOT && (
              <rect x={x} y={under} width={bar} height={FOOT - under} fill="var(--band)" stroke="var(--aside)" />
            )}
            <rect
              x={x}
              y={top}
              width={bar}
              height={under - top}
              fill="var(--paper)"
              stroke="var(--ink)"
              strokeWidth="2"
            />
            <path d={`M${x + 4} ${(top + under) / 2} H${x + bar - 4}`} stroke="var(--ink)" strokeWidth="2" />
            <path
              d={`M${middle - 9} ${top - half} H${middle + 9} M${middle} ${top - half} V${top + half} M${middle - 9} ${top + half} H${middle + 9}`}
              stroke="var(--act)"
              strokeWidth="2.5"
              fill="none"
            />
            <text x={middle} y="158" textAnchor="middle" fontSize="15" fill="var(--ink)">
              {mark.text}
            </text>
          </g>
        );
      })}
      <text x={left} y="16" fontSize="14" fill="var(--soft)">
        {!marks.length
          ? ""
          : narrow
            ? "weights on top, material below"
            : "weights on top, material below; how well each load is known, drawn larger"}
      </text>
      {drawing.capacity && (
        <text x={right} y="177" fontSize="14" fill="var(--soft)" textAnchor="end">
          of {drawing.capacity.text}
        </text>
      )}
      {!marks.length && (
        <text x={width / 2} y="100" textAnchor="middle" fontSize="15" fill="var(--soft)">
          {weights ? "no round yet: the weights on, and read" : "say first what the weights are together"}
        </text>
      )}
    </svg>
  );
}

function words({ marks = [], capacity }: Of<"growing">): string {
  if (!marks.length) return "No round yet";
  const of = capacity ? ` of ${capacity.text}` : "";
  return `${marks.length} ${marks.length === 1 ? "round" : "rounds"}, up to ${marks.at(-1)!.text}${of}`;
}
