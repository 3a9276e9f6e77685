import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Table from "react-bootstrap/Table";
import { Link } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { FULL_PAGE } from "../api/queries";
import { callColour } from "../ui/CallShape";
import { Fault } from "../ui/Fault";
import { day, signed } from "../ui/words";
import { FactorChange } from "./words";

type History = Schemas["HistoryView"];
type Point = Schemas["HistoryPoint"];

const WIDTH = 1180;
const [LEFT, RIGHT] = [64, WIDTH - 16];
/** The height that the errors take. */
const ERRORS = 132;
/** Whether there is something to draw of a visit. */
const shows = (point: Point) =>
  point.error_found != null || point.zero_figure != null || Number.isFinite(Number.parseFloat(point.factor_after));

/** Many points are drawn small. */
const MANY = 60;

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
  if (!history || (!history.points.some(shows) && !history.events.length)) return null;
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
      {history.points.some(shows) && <Chart history={history} factor={factor} />}
      {table && <Visits channel={channel.id} />}
    </figure>
  );
}

function driftWords({ drift, intervals }: History): string {
  if (!drift) return intervals ? `${intervals} of the 4 intervals that a drift needs` : "";
  const rate = `Drifts ${signed(drift.rate, 3)} a month (${signed(drift.low, 3)} to ${signed(drift.high, 3)}).`;
  const leaves = drift.leaves_on ? ` At that rate it leaves its limit about ${day(drift.leaves_on)}.` : "";
  return `${rate}${leaves} ${drift.hint}`;
}

type Label = History["events"][number] & { at_x: number; row: number | null; end: boolean };

const LABEL_ROWS = 3;
const PER_LETTER = 7.8;

/** Each event with the row in which its words stand; null where they would lie over others: its mark says them then. */
function placed(events: History["events"], x: (iso: string) => number): Label[] {
  const taken = Array.from({ length: LABEL_ROWS }, () => LEFT - 20);
  return [...events]
    .sort((a, b) => a.at.localeCompare(b.at))
    .map((event) => {
      const at = x(event.at);
      const width = event.words.length * PER_LETTER;
      const end = at + 10 + width > RIGHT;
      const [from, to] = end ? [at - 10 - width, at + 8] : [at - 8, at + 10 + width];
      const row = taken.findIndex((until) => from > until + 6);
      if (row >= 0) taken[row] = to;
      return { ...event, at_x: at, row: row < 0 ? null : row, end };
    });
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
  const labels = placed(history.events, x);
  const top = labels.length ? 8 + 17 * Math.max(1, ...labels.map((label) => (label.row ?? 0) + 1)) : 4;
  const zeroTop = top + (errors.length ? ERRORS + 26 : 12);
  const factorTop = zeroTop + (zeros.length > 1 ? 74 : 0);
  const height = factorTop + (factors.length > 1 ? 74 : 0) + 26;
  return (
    <svg viewBox={`0 0 ${WIDTH} ${height}`} role="img" aria-label={`History of ${history.visits} visits`}>
      {labels.map(({ id, words, note, at_x: at, row, end }) => (
        <g key={id}>
          <title>{note ? `${words}: ${note}` : words}</title>
          <line x1={at} x2={at} y1={6 + 17 * (row ?? 0)} y2={height - 22} stroke="var(--soft)" strokeDasharray="2 4" />
          <path d={`M${at - 5} ${2 + 17 * (row ?? 0)}h10l-5 8z`} fill="var(--soft)" />
          {row !== null && (
            <text
              x={end ? at - 8 : at + 8}
              textAnchor={end ? "end" : "start"}
              y={13 + 17 * row}
              fontSize="14"
              fill="var(--soft)"
            >
              {words}
            </text>
          )}
        </g>
      ))}
      {errors.length > 0 && <Errors points={errors} accept={history.accept} x={x} top={top} height={ERRORS} />}
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
  const reach = reachOf(all, accept);
  const clamped = (error: number) => Math.max(-reach, Math.min(reach, error));
  const y = (error: number) => top + height / 2 - (clamped(error) / reach) * (height / 2 - 8);
  const small = points.length > MANY ? 2.5 : 5;
  return (
    <g>
      {accept != null && (
        <rect x={LEFT} width={RIGHT - LEFT} y={y(accept)} height={y(-accept) - y(accept)} fill="var(--band)" />
      )}
      <line x1={LEFT} x2={RIGHT} y1={y(0)} y2={y(0)} stroke="var(--aside)" />
      <g fontSize="14" fill="var(--soft)" textAnchor="end">
        <text x={LEFT - 8} y={y(0) + 5}>
          0
        </text>
        {accept != null && (
          <>
            <text x={LEFT - 8} y={y(accept) + 3}>{`+${accept} %`}</text>
            <text x={LEFT - 8} y={y(-accept) + 8}>{`−${accept} %`}</text>
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
            <Mark error={point.error_found!} at={at} y={y} reach={reach} r={small} open={point.error_left != null} />
            {point.error_left != null && <Mark error={point.error_left} at={at} y={y} reach={reach} r={small} />}
          </g>
        );
      })}
    </g>
  );
}

/**
 * How far the errors are drawn, in per cent: the limits take a third of the height, more only where
 * most visits were further off; a first point far out must not press all others into a line.
 */
function reachOf(errors: number[], accept: number | null): number {
  const sizes = errors.map(Math.abs).sort((a, b) => a - b);
  const most = sizes[Math.floor((sizes.length - 1) * 0.75)] ?? 0;
  return Math.max(3 * (accept ?? 0), most * 1.15) || 1;
}

interface MarkProps {
  error: number;
  at: number;
  y: (error: number) => number;
  reach: number;
  r: number;
  open?: boolean;
}

/** One error: a dot, open as found; where it lies beyond the picture a triangle at its edge, with the figure. */
function Mark({ error, at, y, reach, r, open }: MarkProps) {
  const fill = open ? "var(--paper)" : "var(--ink)";
  if (Math.abs(error) <= reach)
    return <circle cx={at} cy={y(error)} r={r} fill={fill} stroke="var(--ink)" strokeWidth="2" />;
  const way = error > 0 ? -1 : 1;
  return (
    <g>
      <path d={`M${at - 6} ${y(error)}h12l-6 ${9 * way}z`} fill={fill} stroke="var(--ink)" strokeWidth="2" />
      {r > 3 && (
        <text x={at + 11} y={y(error) + (way > 0 ? 8 : 3)} fontSize="14" fill="var(--ink)">
          {signed(error, 1)}
        </text>
      )}
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
            r={points.length > MANY ? 1.5 : 3.5}
            fill="var(--act)"
          />
        ))}
      <text x={RIGHT} y={y(figures.at(-1)!) + 5} fontSize="15" textAnchor="end" fill="var(--ink)">
        {joined ? points.at(-1)!.zero : points.at(-1)!.factor_after}
      </text>
    </g>
  );
}

function Visits({ channel }: { channel: string }) {
  const found = useInfiniteQuery({
    queryKey: ["history", channel, "visits"],
    queryFn: ({ pageParam }) =>
      asked(
        api.GET("/api/channels/{channel_id}/visits", {
          params: { path: { channel_id: channel }, query: pageParam ? { before: pageParam } : {} },
        }),
      ),
    initialPageParam: "",
    getNextPageParam: (page) => (page.length === FULL_PAGE ? page.at(-1)!.closed_at : undefined),
  });
  const error = (value: number | null, sure: number | null) =>
    value == null ? "–" : `${signed(value)}${sure == null ? "" : ` ± ${sure.toFixed(2)}`}`;
  const rows = found.data?.pages.flat() ?? [];
  return (
    <>
      <Fault of={found.error} />
      <Table responsive className="plain-table">
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
          {rows.map((row) => (
            <tr key={row.closed_at}>
              <td className="text-nowrap">{day(row.closed_at)}</td>
              <td>{row.record ? <Link to={`/records/${row.record}`}>{row.title}</Link> : row.title}</td>
              <td>{row.outcome}</td>
              <td className="num figure-text">{error(row.error_found, row.uncertainty_found)}</td>
              <td className="num figure-text">{error(row.error_left, row.uncertainty_left)}</td>
              <td className="num figure-text">
                <FactorChange done={row} />
              </td>
              <td className="num figure-text">{row.zero || "–"}</td>
              <td>{row.reference}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      {found.hasNextPage && (
        <Button variant="link" onClick={() => found.fetchNextPage()}>
          Earlier
        </Button>
      )}
    </>
  );
}
