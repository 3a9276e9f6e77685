import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Link } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { callColour } from "../ui/CallShape";
import { day, signed } from "../ui/words";

type History = Schemas["HistoryView"];
type Point = Schemas["HistoryPoint"];

const WIDTH = 1180;
const [LEFT, RIGHT] = [64, WIDTH - 16];

/** How a channel has behaved: errors as found and as left against the limit, zero and factor beneath, events. */
export function HistoryChart({
  channel,
  many,
  factor,
}: {
  channel: { id: string; name: string };
  many: boolean;
  factor: string;
}) {
  const [table, setTable] = useState(false);
  const found = useQuery({
    queryKey: ["history", channel.id],
    queryFn: () =>
      asked(api.GET("/api/channels/{channel_id}/history", { params: { path: { channel_id: channel.id } } })),
  });
  const history = found.data;
  if (!history || (!history.points.length && !history.events.length)) return null;
  return (
    <figure className="history">
      <figcaption>
        <h2>How it has behaved{many && `: ${channel.name}`}</h2>
        <span>{driftWords(history)}</span>
        <span className="ms-auto">
          <Button variant="link" onClick={() => setTable(!table)} aria-expanded={table}>
            {table ? "Hide the table" : "As a table"}
          </Button>
          <a className="btn btn-link" href={`/api/channels/${channel.id}/history.csv`}>
            CSV
          </a>
          <a className="btn btn-link" href={`/api/channels/${channel.id}/history.xlsx`}>
            XLSX
          </a>
        </span>
      </figcaption>
      {history.points.length > 0 && <Chart history={history} factor={factor} />}
      {table && <Table points={history.points} />}
    </figure>
  );
}

function driftWords({ drift, intervals }: History): string {
  if (!drift) return intervals ? `${intervals} of the 4 intervals that a drift needs` : "";
  const rate = `Drifts ${signed(drift.rate, 3)} a month (${signed(drift.low, 3)} to ${signed(drift.high, 3)}).`;
  const leaves = drift.leaves_on ? ` At that rate it leaves its limit about ${day(drift.leaves_on)}.` : "";
  return `${rate}${leaves} ${drift.hint}`;
}

function Chart({ history, factor }: { history: History; factor: string }) {
  const times = [
    ...history.points.map((point) => +new Date(point.closed_at)),
    ...history.events.map((event) => +new Date(event.at)),
  ];
  const first = Math.min(...times);
  const last = Math.max(Date.now(), ...times);
  const x = (iso: string) => LEFT + ((+new Date(iso) - first) / (last - first || 1)) * (RIGHT - LEFT - 20) + 6;
  const errors = history.points.filter((point) => point.error_found != null);
  const zeros = history.points.filter((point) => point.zero_figure != null);
  const factors = history.points.filter((point) => Number.isFinite(Number.parseFloat(point.factor_after)));
  const top = 132;
  const zeroTop = errors.length ? top + 26 : 16;
  const factorTop = zeroTop + (zeros.length > 1 ? 74 : 0);
  const height = factorTop + (factors.length > 1 ? 74 : 0) + 26;
  return (
    <svg viewBox={`0 0 ${WIDTH} ${height}`} role="img" aria-label={`History of ${history.points.length} visits`}>
      {history.events.map((event, place) => {
        const at = x(event.at);
        // A label stands only where the one before leaves it room.
        const before = history.events[place - 1];
        const room = !before || at - x(before.at) > 190;
        return (
          <g key={event.id}>
            <title>{`${event.words}: ${event.note}`}</title>
            <line x1={at} x2={at} y1="6" y2={height - 22} stroke="var(--soft)" strokeDasharray="2 4" />
            <path d={`M${at - 5} 2h10l-5 8z`} fill="var(--soft)" />
            {room && (
              <text
                x={at > RIGHT - 200 ? at - 8 : at + 8}
                textAnchor={at > RIGHT - 200 ? "end" : "start"}
                y="13"
                fontSize="14"
                fill="var(--soft)"
              >
                {event.words}
              </text>
            )}
          </g>
        );
      })}
      {errors.length > 0 && <Errors points={errors} accept={history.accept} x={x} top={18} height={top - 22} />}
      {zeros.length > 1 && (
        <Steps points={zeros} figure={(point) => point.zero_figure!} name="zero" x={x} top={zeroTop} joined />
      )}
      {factors.length > 1 && (
        <Steps
          points={factors}
          figure={(point) => Number.parseFloat(point.factor_after)}
          name={factor}
          x={x}
          top={factorTop}
        />
      )}
      <g fontSize="14" fill="var(--soft)">
        <text x={LEFT} y={height - 4}>
          {day(new Date(first).toISOString())}
        </text>
        <text x={RIGHT} y={height - 4} textAnchor="end">
          today
        </text>
      </g>
    </svg>
  );
}

interface Drawn {
  points: Point[];
  x: (iso: string) => number;
  top: number;
}

function Errors({ points, accept, x, top, height }: Drawn & { accept: number | null; height: number }) {
  const all = points.flatMap((point) => [point.error_found, point.error_left]).filter((error) => error != null);
  const reach = Math.max((accept ?? 0) * 2, ...all.map(Math.abs)) * 1.1 || 1;
  const y = (error: number) => top + height / 2 - (error / reach) * (height / 2);
  const small = points.length > 120 ? 2 : 5;
  const roomy = accept == null || y(0) - y(accept) > 16;
  return (
    <g>
      {accept != null && (
        <rect x={LEFT} width={RIGHT - LEFT} y={y(accept)} height={y(-accept) - y(accept)} fill="var(--band)" />
      )}
      <line x1={LEFT} x2={RIGHT} y1={y(0)} y2={y(0)} stroke="var(--aside)" />
      <g fontSize="14" fill="var(--soft)" textAnchor="end">
        {roomy && (
          <text x={LEFT - 8} y={y(0) + 5}>
            0
          </text>
        )}
        {accept != null && (
          <>
            <text x={LEFT - 8} y={roomy ? y(accept) + 5 : y(0) - 3}>{`+${accept} %`}</text>
            <text x={LEFT - 8} y={roomy ? y(-accept) + 5 : y(0) + 13}>{`−${accept} %`}</text>
          </>
        )}
      </g>
      {points.map((point, place) => {
        const before = points[place - 1];
        const left = before ? (before.error_left ?? before.error_found!) : null;
        const at = x(point.closed_at);
        return (
          <g key={point.closed_at}>
            {left != null && (
              <line
                x1={x(before!.closed_at)}
                y1={y(left)}
                x2={at}
                y2={y(point.error_found!)}
                stroke="var(--soft)"
                strokeWidth="1.2"
              />
            )}
            {point.error_left != null && (
              <line
                x1={at}
                x2={at}
                y1={y(point.error_found!)}
                y2={y(point.error_left)}
                stroke={callColour("adjust")}
                strokeWidth="3"
              />
            )}
            <circle
              cx={at}
              cy={y(point.error_found!)}
              r={small}
              fill={point.error_left == null ? "var(--ink)" : "var(--paper)"}
              stroke="var(--ink)"
              strokeWidth="2"
            />
            {point.error_left != null && <circle cx={at} cy={y(point.error_left)} r={small} fill="var(--ink)" />}
          </g>
        );
      })}
    </g>
  );
}

/** A figure over time: joined where it creeps, as steps where it is keyed in. */
function Steps({
  points,
  figure,
  name,
  x,
  top,
  joined,
}: Drawn & { figure: (point: Point) => number; name: string; joined?: boolean }) {
  const figures = points.map(figure);
  const [low, high] = [Math.min(...figures), Math.max(...figures)];
  const y = (value: number) => top + 54 - ((value - low) / (high - low || 1)) * 44;
  const path = points
    .map(
      (point, place) =>
        `${place ? (joined ? "L" : `H${x(point.closed_at)} V`) : "M"}${place && !joined ? y(figures[place]!) : `${x(point.closed_at)} ${y(figures[place]!)}`}`,
    )
    .join(" ");
  return (
    <g>
      <text x={LEFT - 8} y={top + 36} fontSize="14" fill="var(--soft)" textAnchor="end">
        {name}
      </text>
      <path d={joined ? path : `${path} H${RIGHT - 60}`} fill="none" stroke="var(--act)" strokeWidth="2" />
      {joined &&
        points.map((point, place) => (
          <circle
            key={point.closed_at}
            cx={x(point.closed_at)}
            cy={y(figures[place]!)}
            r={points.length > 120 ? 1.5 : 3.5}
            fill="var(--act)"
          />
        ))}
      <text x={RIGHT} y={y(figures.at(-1)!) + 5} fontSize="15" textAnchor="end" fill="var(--ink)">
        {joined ? points.at(-1)!.zero : points.at(-1)!.factor_after}
      </text>
    </g>
  );
}

function Table({ points }: { points: Point[] }) {
  const error = (value: number | null, sure: number | null) =>
    value == null ? "–" : `${signed(value)}${sure == null ? "" : ` ± ${sure.toFixed(2)}`}`;
  return (
    <div className="table-responsive">
      <table className="table plain-table">
        <thead>
          <tr>
            <th>When</th>
            <th>What</th>
            <th>Closed as</th>
            <th className="num">As found</th>
            <th className="num">As left</th>
            <th className="num">Factor</th>
            <th className="num">Zero</th>
            <th>Reference</th>
          </tr>
        </thead>
        <tbody>
          {[...points].reverse().map((point) => (
            <tr key={point.closed_at}>
              <td className="text-nowrap">{day(point.closed_at)}</td>
              <td>{point.record ? <Link to={`/records/${point.record}`}>{point.title}</Link> : point.title}</td>
              <td>{point.outcome}</td>
              <td className="num figure-text">{error(point.error_found, point.uncertainty_found)}</td>
              <td className="num figure-text">{error(point.error_left, point.uncertainty_left)}</td>
              <td className="num figure-text">
                {point.factor_after || "–"}
                {point.factor_before && point.factor_before !== point.factor_after && (
                  <div className="soft">was {point.factor_before}</div>
                )}
              </td>
              <td className="num figure-text">{point.zero || "–"}</td>
              <td>{point.reference}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
