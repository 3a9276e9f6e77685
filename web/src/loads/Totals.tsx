import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import ButtonGroup from "react-bootstrap/ButtonGroup";
import { api, asked } from "../api/client";
import { counted, day } from "../ui/words";

type By = "day" | "destination" | "material";
const BY: Record<By, string> = { day: "by day", destination: "by destination", material: "by material" };

interface Props {
  system: string;
  channel: string;
  find: string;
  /** How many loads are shown: another load makes other totals. */
  of: number;
}

/** What was loaded in all; the longest bar is the most. */
export function Totals({ system, channel, find, of }: Props) {
  const [by, setBy] = useState<By>("day");
  const rows =
    useQuery({
      queryKey: ["loads", system, channel, "totals", by, find, of],
      queryFn: () =>
        asked(
          api.GET("/api/systems/{system_id}/loads/totals", {
            params: { path: { system_id: system }, query: { by, channel, find } },
          }),
        ),
      placeholderData: keepPreviousData,
    }).data ?? [];
  const size = (total: string) => Number(total.replace(/[^\d.]/g, ""));
  const most = Math.max(...rows.map((row) => size(row.total)), 0) || 1;
  return (
    <section>
      <h2>In all</h2>
      <ButtonGroup size="sm" aria-label="Totals">
        {(Object.keys(BY) as By[]).map((one) => (
          <Button
            key={one}
            variant={one === by ? "primary" : "outline-primary"}
            aria-pressed={one === by}
            onClick={() => setBy(one)}
          >
            {BY[one]}
          </Button>
        ))}
      </ButtonGroup>
      <ul className="load-totals">
        {rows.slice(0, 12).map((row) => (
          <li key={row.name}>
            <span>{by === "day" ? day(row.name) : row.name}</span>
            <b>{row.total}</b>
            <i style={{ inlineSize: `${(size(row.total) / most) * 100}%` }} />
            <small>
              {counted(row.loads, "load")}
              {row.tickets > 0 && `, ${counted(row.tickets, "ticket")}`}
            </small>
          </li>
        ))}
      </ul>
      {!rows.length && <p className="soft">Nothing stored yet.</p>}
    </section>
  );
}
