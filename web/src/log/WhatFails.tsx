import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Form from "react-bootstrap/Form";
import Table from "react-bootstrap/Table";
import { api, asked, type Schemas } from "../api/client";
import { Fault } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { counted, day } from "../ui/words";

const SPANS: [number, string][] = [
  [12, "in the last year"],
  [24, "in the last two years"],
  [60, "in the last five years"],
];

/** What fails most, by kind of machine and over time, with what it cost in minutes. */
export function WhatFails() {
  const [months, setMonths] = useState(24);
  const found = useQuery({
    queryKey: ["faults", months],
    queryFn: () => asked(api.GET("/api/faults", { params: { query: { months } } })),
  });
  const rows = found.data?.rows ?? [];
  const times = rows.reduce((sum, row) => sum + row.times, 0);
  const minutes = rows.reduce((sum, row) => sum + row.minutes, 0);
  return (
    <Page title="What fails">
      <h1>What fails</h1>
      <Fault of={found.error} />
      <Form.Select
        aria-label="Over which time"
        className="w-auto mb-3"
        value={months}
        onChange={(event) => setMonths(Number(event.target.value))}
      >
        {SPANS.map(([span, words]) => (
          <option key={span} value={span}>
            {words}
          </option>
        ))}
      </Form.Select>
      {rows.length > 0 && (
        <p className="lead-text">
          {counted(times, "fault")} found, in visits of {inHours(minutes)} together.
        </p>
      )}
      <Months months={found.data?.months ?? []} />
      {rows.length > 0 && (
        <Table responsive className="plain-table as-list">
          <thead>
            <tr>
              <th>What was wrong</th>
              <th>Kind of machine</th>
              <th className="num">Times</th>
              <th className="num">Machines</th>
              <th className="num">Time spent</th>
              <th className="num">At a visit</th>
              <th>Last</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.kind + row.title}>
                <td className="name">{row.title[0]!.toUpperCase() + row.title.slice(1)}</td>
                <td>{row.kind}</td>
                <td className="num" data-head="Times">
                  {row.times}
                </td>
                <td className="num" data-head="Machines">
                  {row.machines}
                </td>
                <td className="num" data-head="Time spent">
                  {inHours(row.minutes)}
                </td>
                <td className="num text-nowrap" data-head="At a visit">
                  {row.chance}
                </td>
                <td className="text-nowrap" data-head="Last">
                  {day(row.last)}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
      {found.data && rows.length === 0 && (
        <p>Nothing was found wrong in that time. A fault stands here once a job is closed with it.</p>
      )}
    </Page>
  );
}

const inHours = (minutes: number) => (minutes < 120 ? `${minutes} min` : `${Math.round(minutes / 60)} h`);

/** How many faults were found in each month: a bar a month, with its number over it. */
function Months({ months }: { months: Schemas["MonthView"][] }) {
  if (months.length < 2) return null;
  const first = months[0]!.month;
  const place = (month: string) =>
    (Number(month.slice(0, 4)) - Number(first.slice(0, 4))) * 12 +
    Number(month.slice(5, 7)) -
    Number(first.slice(5, 7));
  const count = place(months.at(-1)!.month) + 1;
  const most = Math.max(...months.map((one) => one.times));
  const width = 900 / Math.max(count, 12);
  return (
    <svg className="fail-months" viewBox="0 0 900 130" role="img" aria-label="Faults found by month">
      <path d="M0 100.5H900" stroke="currentColor" />
      {months.map((one) => {
        const x = place(one.month) * width;
        const height = (one.times / most) * 80;
        return (
          <g key={one.month}>
            <rect x={x + width * 0.2} y={100 - height} width={width * 0.6} height={height} fill="var(--fault)" />
            <text x={x + width / 2} y={94 - height} textAnchor="middle" fontSize="14">
              {one.times}
            </text>
          </g>
        );
      })}
      <text x="0" y="122" fontSize="14">
        {first.slice(0, 7)}
      </text>
      <text x={Math.max(place(months.at(-1)!.month) * width + width, 160)} y="122" fontSize="14" textAnchor="end">
        {months.at(-1)!.month.slice(0, 7)}
      </text>
    </svg>
  );
}
