import { useQueryClient } from "@tanstack/react-query";
import { type DragEvent, useState } from "react";
import { api, asked } from "../api/client";

/** The order of driving: dragged, or moved by its arrows; kept for the person who drives. */
export function useOrder(sites: string[]) {
  const cache = useQueryClient();
  const [moved, setMoved] = useState<string[] | null>(null);
  const [dragged, setDragged] = useState("");
  const [over, setOver] = useState("");
  const now = moved?.length === sites.length ? moved : sites;

  const keep = (order: string[]) => {
    setMoved(order);
    void asked(api.PUT("/api/round/order", { body: { sites: order } }))
      .then(() => cache.invalidateQueries({ queryKey: ["round"] }))
      .catch(() => undefined);
  };
  const put = (site: string, before: string) => {
    const rest = now.filter((one) => one !== site);
    const place = now.indexOf(before) > now.indexOf(site) ? rest.indexOf(before) + 1 : rest.indexOf(before);
    keep([...rest.slice(0, place), site, ...rest.slice(place)]);
  };
  return {
    sites: now,
    over,
    move: (site: string, by: 1 | -1) => {
      const other = now[now.indexOf(site) + by];
      if (other) put(site, other);
    },
    begin: (event: DragEvent, site: string) => {
      event.dataTransfer.effectAllowed = "move";
      event.dataTransfer.setData("text/plain", site);
      setDragged(site);
    },
    drag: (event: DragEvent, site: string) => {
      if (!dragged || dragged === site) return;
      event.preventDefault();
      setOver(site);
    },
    drop: (site: string) => {
      if (dragged && dragged !== site) put(dragged, site);
      setDragged("");
      setOver("");
    },
    end: () => {
      setDragged("");
      setOver("");
    },
  };
}
