import { useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, useEffect, useRef } from "react";
import { useNavigate } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { CallShape } from "../ui/CallShape";
import { NotYet, Page } from "../ui/Layout";
import { ago, counted } from "../ui/words";
import { toClose } from "./writeUp";

type Row = Schemas["ToWriteUp"];

/** The day's jobs, written up one after the other: arrows choose, Enter opens one where it is closed. */
export function WriteUp() {
  const found = useQuery({ queryKey: ["write-up"], queryFn: () => asked(api.GET("/api/write-up")) });
  const list = useRef<HTMLUListElement>(null);
  const navigate = useNavigate();
  const rows = found.data;
  useEffect(() => {
    list.current?.querySelector<HTMLButtonElement>("button")?.focus();
  }, [rows?.length]);
  if (!rows) return <NotYet error={found.error} />;
  const mine = rows.filter((row) => row.mine);
  const others = rows.filter((row) => !row.mine);
  const move = (event: KeyboardEvent) => {
    const way = { ArrowDown: 1, j: 1, ArrowUp: -1, k: -1 }[event.key];
    if (!way) return;
    event.preventDefault();
    const all = [...(list.current?.parentElement?.querySelectorAll<HTMLButtonElement>(".write-up button") ?? [])];
    all[all.indexOf(document.activeElement as HTMLButtonElement) + way]?.focus();
  };
  const open = (row: Row) => {
    toClose(row.job);
    navigate(`/jobs/${row.job}`);
  };
  return (
    <Page title="Write up">
      <h1>
        Write up
        <small>{counted(mine.length, "job")} of yours open</small>
      </h1>
      {rows.length > 0 && (
        <p className="soft">
          <kbd>↑</kbd> <kbd>↓</kbd> choose, <kbd>Enter</kbd> opens where it is closed; after the seal <kbd>Enter</kbd>{" "}
          goes on to the next.
        </p>
      )}
      <div onKeyDown={move}>
        <ul className="write-up" ref={list} aria-label="Yours">
          {mine.map((row) => (
            <Line key={row.job} row={row} onOpen={() => open(row)} />
          ))}
        </ul>
        {!mine.length && <p>Nothing of yours is open.</p>}
        {others.length > 0 && (
          <>
            <h2>Of others</h2>
            <ul className="write-up" aria-label="Of others">
              {others.map((row) => (
                <Line key={row.job} row={row} onOpen={() => open(row)} />
              ))}
            </ul>
          </>
        )}
      </div>
    </Page>
  );
}

function Line({ row, onOpen }: { row: Row; onOpen: () => void }) {
  return (
    <li>
      <button type="button" onClick={onOpen}>
        <CallShape call={row.call || "not-ready"} size={24} down={row.down} />
        <span>
          <b>{row.system}</b> <small>{row.site}</small>
          <small className="d-block">
            {row.title}, opened {ago(row.opened_at, row.time_zone)}
            {!row.mine && ` by ${row.opened_by}`}
          </small>
        </span>
        <span>{row.headline || "Not ready yet"}</span>
      </button>
    </li>
  );
}
