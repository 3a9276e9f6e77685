import type { Schemas } from "../api/client";
import type { DrawnProps, Of } from "./props";

type Mark = Schemas["LiftMark"];

/** The lines are drawn as wide as they stand, so that their words keep their size. */
const wide = 234;
const LOADS = ["empty", "full", "known"];
const SPEEDS = ["slow", "normal", "quick"];

/** Loads by speeds: how many lifts of each are in and how many are wanted; the oil; the two lines of the speed. */
export function LiftsDrawing({ drawing, compact }: DrawnProps<"lifts">) {
  const kinds = drawing.kinds ?? [];
  const down = kinds.filter((kind) => kind.going === "down");
  return (
    <div className="lift-field">
      <table aria-label="Lifts that are in, of those that are wanted">
        <thead>
          <tr>
            <td />
            {SPEEDS.map((speed) => (
              <th key={speed} scope="col">
                {speed}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {LOADS.map((load) => (
            <tr key={load}>
              <th scope="row">{load}</th>
              {SPEEDS.map((speed) => (
                <Field
                  key={speed}
                  kind={kinds.find((one) => one.load === load && one.speed === speed && one.going !== "down")}
                />
              ))}
            </tr>
          ))}
          {down.map((kind) => (
            <tr key={`${kind.load} ${kind.speed}`}>
              <th scope="row" colSpan={3}>
                {kind.load} {kind.speed}, down
              </th>
              <Field kind={kind} />
            </tr>
          ))}
        </tbody>
      </table>
      {(drawing.oil || drawing.least) && <Oil oil={drawing.oil} least={drawing.least} />}
      {drawing.empty && drawing.full && !compact && (
        <Lines empty={drawing.empty} full={drawing.full} known={drawing.known} provisional={!!drawing.provisional} />
      )}
    </div>
  );
}

function Field({ kind }: { kind?: Mark }) {
  if (!kind) return <td className="lift-none" />;
  const count = kind.count ?? 0;
  const wanted = kind.wanted ?? 1;
  const full = count >= wanted;
  return (
    <td className={full ? "lift-in" : "lift-wanted"}>
      <b>{count}</b>
      <small> of {wanted}</small>
    </td>
  );
}

interface OilProps {
  oil?: Of<"lifts">["oil"];
  least?: Of<"lifts">["least"];
}

const [HOT, COLD] = [14, 132];

/** The oil's temperature against its gate, and the margin that a cold day wants. */
function Oil({ oil, least }: OilProps) {
  const gate = least?.size ?? 0;
  const reach = Math.max(30, Math.abs((oil?.size ?? gate) - gate) * 1.3);
  const y = (size: number) => COLD - ((size - (gate - reach)) / (2 * reach)) * (COLD - HOT);
  const cold = !!oil && !!least && oil.size < least.size;
  return (
    <svg
      className="lift-oil"
      viewBox="0 0 150 150"
      role="img"
      aria-label={`Oil at ${oil?.text ?? "a temperature not read yet"}${least ? `, ${least.text} at least` : ""}`}
    >
      <rect
        x="14"
        y={HOT}
        width="20"
        height={COLD - HOT}
        rx="10"
        fill="var(--paper)"
        stroke="var(--ink)"
        strokeWidth="2"
      />
      {oil && (
        <rect
          x="17"
          y={Math.min(COLD - 6, Math.max(HOT + 3, y(oil.size)))}
          width="14"
          height={Math.max(3, COLD - 3 - Math.min(COLD - 6, Math.max(HOT + 3, y(oil.size))))}
          rx="7"
          fill={cold ? "var(--fault)" : "var(--act)"}
        />
      )}
      {least && <path d={`M8 ${y(gate)} H44`} stroke="var(--ink)" strokeWidth="3" />}
      {oil && (
        <text x="52" y="34" fontSize="22" fontWeight="700" fill={cold ? "var(--fault)" : "var(--ink)"}>
          {oil.text}
        </text>
      )}
      {oil && (
        <text x="52" y="54" fontSize="14" fill="var(--soft)">
          oil{cold ? ", too cold" : ""}
        </text>
      )}
      {least && (
        <text x="52" y={y(gate) + 24} fontSize="14" fill="var(--soft)">
          least {least.text}
        </text>
      )}
    </svg>
  );
}

interface LinesProps {
  empty: Schemas["Stretch"];
  full: Schemas["Stretch"];
  known?: Schemas["Spot"] | null;
  provisional: boolean;
}

/** Raw figure over pace: the empty and the full line, and the known load's lift between them. */
function Lines({ empty, full, known, provisional }: LinesProps) {
  const spots = [empty.start, empty.end, full.start, full.end, ...(known ? [known] : [])];
  const [x0, x1] = [Math.min(...spots.map((spot) => spot.x)), Math.max(...spots.map((spot) => spot.x))];
  const [y0, y1] = [Math.min(...spots.map((spot) => spot.y)), Math.max(...spots.map((spot) => spot.y))];
  const x = (pace: number) => 16 + ((pace - x0) / (x1 - x0 || 1)) * (wide - 90);
  const y = (raw: number) => 112 - ((raw - y0) / (y1 - y0 || 1)) * 88;
  const line = ({ start, end }: Schemas["Stretch"]) => `M${x(start.x)} ${y(start.y)} L${x(end.x)} ${y(end.y)}`;
  return (
    <svg
      className="lift-lines"
      viewBox={`0 0 ${wide} 150`}
      role="img"
      aria-label="Raw figure over the pace of the lift: empty below, full above, the known load between"
    >
      <path d={line(empty)} stroke="var(--act)" strokeWidth="3" />
      <path d={line(full)} stroke="var(--act)" strokeWidth="3" />
      {known && (
        <circle
          cx={x(known.x)}
          cy={y(known.y)}
          r="8"
          fill={provisional ? "var(--paper)" : "var(--ink)"}
          stroke="var(--ink)"
          strokeWidth="2.5"
          strokeDasharray={provisional ? "4 3" : undefined}
        />
      )}
      <g fontSize="14" fill="var(--soft)">
        <text x={wide - 68} y={y(full.end.y) + 5}>
          full
        </text>
        <text x={wide - 68} y={y(empty.end.y) + 5}>
          empty
        </text>
        <text x="16" y="144">
          slow
        </text>
        <text x={x(x1)} y="144" textAnchor="end">
          quick
        </text>
        {known && (
          <text x={x(known.x) + 14} y={y(known.y) - 9}>
            known
          </text>
        )}
      </g>
    </svg>
  );
}
