import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Table from "react-bootstrap/Table";
import { Link } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { FULL_PAGE, useSystemNames } from "../api/queries";
import { callColour } from "../ui/CallShape";
import { Fault } from "../ui/Fault";
import { trimmed } from "../ui/quantity";
import { day, signed } from "../ui/words";
import { FactorChange } from "./words";
import { historyQuery } from "./history";

type History = Schemas["HistoryView"];
type Point = Schemas["HistoryPoint"];
type SystemView = Schemas["SystemView"];

const [WIDEST, LEFT] = [1180, 64];
/** What one visit may take: a few of them are not drawn across the whole page. */
const PER_VISIT = 150;
/** The height that the errors take. */
const ERRORS = 132;
/** Whether there is something to draw of a visit. */
const shows = (point: Point) =>
  point.error_found != null || point.zero_figure != null || Number.isFinite(Number.parseFloat(point.factor_after));

/** Many points are drawn small. */
const MANY = 60;

interface Props {
  system: SystemView;
  channel: { id: string; name: string };
}

/** How a channel has behaved: errors as found and as left against the limit, zero and factor beneath, events, faults. */
export function HistoryChart({ system, channel }: Props) {
  const [table, setTable] = useState(false);
  const [beside, setBeside] = useState("");
  const found = useQuery(historyQuery(channel.id));
  const other = useQuery({ ...historyQuery(beside), enabled: !!beside }).data;
  const history = found.data;
  if (!history || !(history.points.some(shows) || history.events.length || history.faults.length)) return null;
  const drawn = [history, ...(beside && other ? [other] : [])].filter((one) => one.points.some(shows));
  const scale = scaleOf(drawn.length ? drawn : [history]);
  return (
    <figure className="history">
      <figcaption>
        <h2>How it has behaved{system.channels.length > 1 && `: ${channel.name}`}</h2>
        <span>{driftWords(history)}</span>
        <span className="ms-auto">
          <Beside system={system} channel={channel.id} chosen={beside} onChoose={setBeside} />
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
      <div className={drawn.length > 1 ? "charts-beside" : undefined}>
        {drawn.map((one) => (
          <div key={one.channel}>
            {drawn.length > 1 && <p className="soft mb-0">{`${one.system_name}, ${one.channel_name}`}</p>}
            <Chart history={one} factor={system.factor_name} scale={scale} />
          </div>
        ))}
      </div>
      {beside && other && drawn.length < 2 && <p className="soft">{other.system_name} has nothing to draw yet.</p>}
      {table && <Visits channel={channel.id} />}
    </figure>
  );
}

interface BesideProps {
  system: SystemView;
  channel: string;
  chosen: string;
  onChoose: (channel: string) => void;
}

/** Which other channel, of this machine or of another of its kind, is drawn beside this one on the same scales. */
function Beside({ system, channel, chosen, onChoose }: BesideProps) {
  const [asked, setAsked] = useState(false);
  const names = useSystemNames(system.kind, asked).data ?? [];
  const own = system.channels.filter((one) => one.id !== channel);
  const others = names.filter((one) => one.id !== system.id && one.channel);
  return (
    <select
      className="form-select chart-choice"
      aria-label="Beside another"
      value={chosen}
      onFocus={() => setAsked(true)}
      onPointerEnter={() => setAsked(true)}
      onChange={(event) => onChoose(event.target.value)}
    >
      <option value="">beside another…</option>
      {own.map((one) => (
        <option key={one.id} value={one.id}>
          {one.name}
        </option>
      ))}
      {others.map((one) => (
        <option key={one.id} value={one.channel!}>
          {one.name}, {one.site}
        </option>
      ))}
    </select>
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
function placed(events: History["events"], x: (iso: string) => number, right: number): Label[] {
  const taken = Array.from({ length: LABEL_ROWS }, () => LEFT - 20);
  return [...events]
    .sort((a, b) => a.at.localeCompare(b.at))
    .map((event) => {
      const at = x(event.at);
      const width = event.words.length * PER_LETTER;
      const end = at + 10 + width > right;
      const [from, to] = end ? [at - 10 - width, at + 8] : [at - 8, at + 10 + width];
      const row = taken.findIndex((until) => from > until + 6);
      if (row >= 0) taken[row] = to;
      return { ...event, at_x: at, row: row < 0 ? null : row, end };
    });
}

/** Everything that stands on the time line of a chart, in ms. */
const timesOf = (history: History) =>
  [...history.points.map((one) => one.closed_at), ...[...history.events, ...history.faults].map((one) => one.at)].map(
    (iso) => +new Date(iso),
  );

/** What two charts beside each other have in common. */
interface Scale {
  first: number;
  reach: number;
  width: number;
  /** How many rows the words of events take at least. */
  rows: number;
}

function scaleOf(histories: History[]): Scale {
  const times = histories.flatMap(timesOf);
  const most = Math.max(...histories.map((one) => one.points.length + one.events.length));
  const width = histories.length > 1 ? WIDEST / 2 : Math.min(WIDEST, LEFT + 180 + PER_VISIT * most);
  const rows = histories.length > 1 && histories.some((one) => one.events.length) ? LABEL_ROWS : 0;
  return { first: Math.min(...times), reach: Math.max(...histories.map(reachOf)), width, rows };
}

function Chart({ history, factor, scale }: { history: History; factor: string; scale: Scale }) {
  const { first, width } = scale;
  const right = width - 16;
  const last = Math.max(Date.now(), ...timesOf(history));
  const x = (iso: string) => LEFT + ((+new Date(iso) - first) / (last - first || 1)) * (right - LEFT - 20) + 6;
  const errors = history.points.filter((point) => point.error_found != null);
  const zeros = history.points.filter((point) => point.zero_figure != null);
  const factors = history.points.filter((point) => Number.isFinite(Number.parseFloat(point.factor_after)));
  const labels = placed(history.events, x, right);
  const rows = Math.max(scale.rows, ...labels.map((label) => (label.row ?? 0) + 1));
  const top = rows ? 8 + 17 * rows : 4;
  const zeroTop = top + (errors.length ? ERRORS + 26 : 12);
  const factorTop = zeroTop + (zeros.length > 1 ? 74 : 0);
  const height = factorTop + (factors.length > 1 ? 74 : 0) + 26;
  return (
    <svg
      viewBox={`0 0 ${width} ${height}`}
      style={{ maxWidth: width }}
      role="img"
      aria-label={`History of ${history.visits} visits`}
    >
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
      {errors.length > 0 && (
        <Errors points={errors} band={history.tolerance} reach={scale.reach} x={x} top={top} right={right} />
      )}
      {history.faults.map((one) => (
        <FaultMark key={one.id} fault={one} at={x(one.at)} y={top + (errors.length ? ERRORS : 0) + 4} />
      ))}
      {zeros.length > 1 && (
        <Steps
          points={zeros}
          figure={(point) => point.zero_figure!}
          name="zero"
          x={x}
          top={zeroTop}
          right={right}
          joined
        />
      )}
      {factors.length > 1 && (
        <Steps
          points={factors}
          figure={(point) => Number.parseFloat(point.factor_after)}
          name={factor}
          x={x}
          top={factorTop}
          right={right}
        />
      )}
      <g fontSize="14" fill="var(--soft)">
        <text x={LEFT} y={height - 4}>
          {day(new Date(first).toISOString())}
        </text>
        <text x={right} y={height - 4} textAnchor="end">
          today
        </text>
      </g>
    </svg>
  );
}

/** A fault that a visit found: a cross under the errors, full where it was put right in that visit. */
function FaultMark({ fault, at, y }: { fault: History["faults"][number]; at: number; y: number }) {
  return (
    <g className="fault-mark">
      <title>
        {fault.title}, {day(fault.at)}, {fault.put_right ? "put right" : "left for repair"}
      </title>
      <circle cx={at} cy={y + 7} r="9" fill={fault.put_right ? "var(--paper)" : "var(--fault)"} stroke="var(--fault)" />
      <path
        d={`M${at - 4} ${y + 3}l8 8M${at + 4} ${y + 3}l-8 8`}
        stroke={fault.put_right ? "var(--fault)" : "var(--paper)"}
        strokeWidth="2.2"
      />
    </g>
  );
}

interface Drawn {
  points: Point[];
  x: (iso: string) => number;
  top: number;
  right: number;
}

const percent = (value: number) => `${value > 0 ? "+" : "−"}${trimmed(Math.abs(+value.toPrecision(3)))} %`;

function Errors({ points, band, reach, x, top, right }: Drawn & { band: History["tolerance"]; reach: number }) {
  const height = ERRORS;
  const clamped = (error: number) => Math.max(-reach, Math.min(reach, error));
  const y = (error: number) => top + height / 2 - (clamped(error) / reach) * (height / 2 - 8);
  const small = points.length > MANY ? 2.5 : 5;
  return (
    <g>
      {band && (
        <rect x={LEFT} width={right - LEFT} y={y(band.high)} height={y(band.low) - y(band.high)} fill="var(--band)" />
      )}
      <line x1={LEFT} x2={right} y1={y(0)} y2={y(0)} stroke="var(--aside)" />
      <g fontSize="14" fill="var(--soft)" textAnchor="end">
        <text x={LEFT - 8} y={y(0) + 5}>
          0
        </text>
        {band && (
          <>
            {band.high > 0 && (
              <text x={LEFT - 8} y={y(band.high) + 3}>
                {percent(band.high)}
              </text>
            )}
            {band.low < 0 && (
              <text x={LEFT - 8} y={y(band.low) + 8}>
                {percent(band.low)}
              </text>
            )}
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
function reachOf({ points, tolerance }: History): number {
  const errors = points.flatMap((point) => [point.error_found, point.error_left]).filter((error) => error != null);
  const sizes = errors.map(Math.abs).sort((a, b) => a - b);
  const most = sizes[Math.floor((sizes.length - 1) * 0.75)] ?? 0;
  const widest = tolerance ? Math.max(-tolerance.low, tolerance.high) : 0;
  return Math.max(3 * widest, most * 1.15) || 1;
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
  right,
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
      <path d={joined ? path : `${path} H${right - 60}`} fill="none" stroke="var(--act)" strokeWidth="2" />
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
      <text x={right} y={y(figures.at(-1)!) + 5} fontSize="15" textAnchor="end" fill="var(--ink)">
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
