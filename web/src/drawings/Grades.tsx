import type { Schemas } from "../api/client";
import type { DrawnProps, Of } from "./props";
import { useWidth } from "./width";

type Grade = Schemas["GradeMark"];

const [TOP, FLOOR] = [46, 118];

/** The grades as a ruler of weights: what was sorted stands on it, and each grade's mean is a mark that must lie inside. */
export function GradesDrawing({ drawing }: DrawnProps<"grades">) {
  const width = useWidth();
  const grades = drawing.grades ?? [];
  const edges = drawing.edges ?? [];
  const last = Math.max(drawing.reject?.size ?? 0, ...edges.map((edge) => edge.at));
  const first = Math.min(...edges.map((edge) => edge.at), last);
  const room = (last - first) / Math.max(1, edges.length) || last * 0.2 || 1;
  const [from, to] = [Math.max(0, first - room * 0.8), last + room * 0.8];
  const [left, right] = [10, width - 10];
  const x = (mass: number) => left + ((Math.min(to, Math.max(from, mass)) - from) / (to - from || 1)) * (right - left);
  const most = Math.max(1e-9, ...grades.map((grade) => grade.share ?? 0));
  const span = (grade: Grade) => [x(Math.max(from, grade.low)), x(grade.high ?? to)] as const;
  const rows = apart(
    edges.map((edge) => x(edge.at)),
    width < 500 ? 62 : 70,
  );
  const names = apart(
    grades.map((grade) => (span(grade)[0] + span(grade)[1]) / 2),
    width < 500 ? 78 : 86,
  );
  return (
    <svg className="figure-svg" viewBox={`0 0 ${width} 182`} role="img" aria-label={words(drawing)}>
      {grades.map((grade, place) => {
        const [a, b] = span(grade);
        const high = ((grade.share ?? 0) / most) * (FLOOR - TOP);
        return (
          <g key={place}>
            <rect x={a + 2} y={FLOOR - high} width={Math.max(1, b - a - 4)} height={high} fill="var(--line)" />
            {grade.mean != null && (
              <path
                d={`M${x(grade.mean)} ${FLOOR - 26} V${FLOOR}`}
                stroke={grade.wrong ? "var(--fault)" : "var(--act)"}
                strokeWidth={grade.wrong ? 7 : 5}
              />
            )}
            <text
              x={(a + b) / 2}
              y={names[place] ? 34 : 15}
              textAnchor="middle"
              fontSize="15"
              fontWeight="700"
              fill="var(--ink)"
            >
              {grade.label}
              <tspan fontWeight="400">{grade.outlet && ` → ${grade.outlet}`}</tspan>
            </text>
            {grade.share != null && b - a > 40 && (
              <text x={(a + b) / 2} y={FLOOR - 30} textAnchor="middle" fontSize="15" fill="var(--ink)">
                {Math.round(grade.share * 100)} %
              </text>
            )}
          </g>
        );
      })}
      <path d={`M${left} ${FLOOR} H${right}`} stroke="var(--ink)" strokeWidth="2.5" />
      {edges.map((edge, place) => (
        <g key={edge.at}>
          <path d={`M${x(edge.at)} ${TOP - 4} V${FLOOR + 8}`} stroke="var(--ink)" strokeWidth="1.5" />
          <text x={x(edge.at)} y={rows[place] ? 156 : 138} textAnchor="middle" fontSize="15" fill="var(--ink)">
            {edge.text}
          </text>
        </g>
      ))}
      {drawing.reject && (
        <g>
          <path
            d={`M${x(drawing.reject.size)} ${TOP - 4} V${FLOOR + 8}`}
            stroke="var(--fault)"
            strokeWidth="3"
            strokeDasharray="6 4"
          />
          <text x={right} y="176" textAnchor="end" fontSize="15" fill="var(--ink)">
            rejected beyond <tspan fontWeight="700">{drawing.reject.text}</tspan>
          </text>
        </g>
      )}
      {!grades.length && (
        <text x={width / 2} y="90" textAnchor="middle" fontSize="16" fill="var(--soft)">
          no grades yet
        </text>
      )}
    </svg>
  );
}

/** Which of the words at these places go into the second row, so that none touches another. */
function apart(places: number[], room: number): boolean[] {
  const ends = [-Infinity, -Infinity];
  return places.map((place) => {
    const row = place - ends[0]! >= room ? 0 : 1;
    ends[row] = place;
    return row === 1;
  });
}

function words({ grades = [], reject }: Of<"grades">): string {
  const each = grades.map(
    (grade) =>
      `${grade.label}${grade.outlet ? ` to outlet ${grade.outlet}` : ""}${grade.count != null ? `, ${grade.count} pieces` : ""}`,
  );
  return each.length
    ? `Grades by weight. ${each.join("; ")}${reject ? `; rejected beyond ${reject.text}` : ""}`
    : "No grades yet";
}
