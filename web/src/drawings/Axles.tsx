import type { Schemas } from "../api/client";
import type { DrawnProps, Of } from "./props";
import { Spot } from "./Spot";
import { useWidth } from "./width";

type Group = Schemas["GroupMark"];

const [BED, FLOOR, AXLE, GROUND] = [22, 84, 112, 130];

const MISSING: Record<NonNullable<Group["missing"]>, string> = {
  empty: "empty missing",
  heavy: "heavy missing",
  both: "both missing",
};

/** A vehicle from the side: what each axle group carries stands over its wheels, and which load it still lacks under them. */
export function AxlesDrawing({ drawing }: DrawnProps<"axles">) {
  const groups = drawing.groups ?? [];
  const width = useWidth();
  const narrow = width < 500;
  const [left, right] = [narrow ? 8 : 40, width - (narrow ? 8 : 40)];
  const room = (right - left) / Math.max(groups.length, 2);
  const x = (place: number) => left + room * (place + 0.5);
  const cab = left + room * (groups.length > 1 ? 0.98 : 0.9);
  return (
    <svg className="figure-svg" viewBox={`0 0 ${width} 186`} role="img" aria-label={words(drawing)}>
      <g fill="none" stroke="var(--ink)" strokeWidth="2.5">
        <path d={`M${left + 4} ${FLOOR} V48 L${left + 22} ${BED} H${cab - 8} V${FLOOR} Z`} />
        <rect
          x={cab + 6}
          y={BED}
          width={right - cab - 10}
          height={FLOOR - BED}
          fill={drawing.valid ? "var(--line)" : "none"}
          strokeDasharray={drawing.valid ? undefined : "7 5"}
        />
        <path d={`M${left + 4} ${FLOOR + 7} H${right - 4}`} />
      </g>
      <path d={`M0 ${GROUND} H${width}`} stroke="var(--ink)" strokeWidth="1.5" />
      {groups.map((group, place) => (
        <g key={place} textAnchor="middle">
          {[-19, 19].map((off) => (
            <circle
              key={off}
              cx={x(place) + off}
              cy={AXLE}
              r="17"
              fill="var(--paper)"
              stroke="var(--ink)"
              strokeWidth="5"
            />
          ))}
          {group.carries && (
            <text x={x(place)} y="60" fontSize={groups.length > 3 ? 17 : 22} fontWeight="700" fill="var(--ink)">
              {group.carries.text}
            </text>
          )}
          <text x={x(place)} y="151" fontSize="15" fill="var(--ink)">
            {group.label}
          </text>
          {group.missing && (
            <text x={x(place)} y="171" fontSize="15" fontWeight="600" fill="var(--adjust)">
              {MISSING[group.missing]}
            </text>
          )}
        </g>
      ))}
      <Spot
        at={["suspension", "brake", "valve"]}
        points={groups.flatMap((_, place) => [-19, 19].map((off) => ({ x: x(place) + off, y: AXLE })))}
        size={20}
      />
      <Spot at={["sensor", "hose"]} points={groups.map((_, place) => ({ x: x(place), y: FLOOR + 7 }))} size={15} />
      <Spot at={["drawbar", "frame"]} points={[{ x: left + 16, y: FLOOR }]} size={15} />
      {groups.length === 0 && (
        <text x={(cab + right) / 2} y="60" textAnchor="middle" fontSize="16" fill="var(--soft)">
          no groups yet
        </text>
      )}
    </svg>
  );
}

function words({ groups = [], valid }: Of<"axles">): string {
  const each = groups.map(
    (group) =>
      `${group.label}: ${group.carries?.text ?? "nothing yet"}${group.missing ? `, ${MISSING[group.missing]}` : ""}`,
  );
  return each.length
    ? `Vehicle from the side. ${each.join("; ")}. ${valid ? "Both loads are in." : "Not valid until both loads are in."}`
    : "Vehicle from the side, no axle groups yet";
}
