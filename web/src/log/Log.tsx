import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Table from "react-bootstrap/Table";
import { Link, useSearchParams } from "react-router";
import { api, asked } from "../api/client";
import { FactorChange } from "../plant/words";
import { Fault } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { day, signed } from "../ui/words";
import { Calls } from "./Calls";

/** What was done, by whom, and where is the paper? */
export function Log() {
  const [search, setSearch] = useSearchParams();
  const [find, setFind] = useState(search.get("find") ?? "");
  const system = search.get("system") ?? undefined;
  const log = useInfiniteQuery({
    queryKey: ["log", search.get("find"), system],
    queryFn: ({ pageParam }) =>
      asked(
        api.GET("/api/log", {
          params: { query: { find: search.get("find") ?? "", system, before: pageParam ?? undefined } },
        }),
      ),
    initialPageParam: null as string | null,
    getNextPageParam: (page) => page.earlier,
  });
  const rows = log.data?.pages.flatMap((page) => page.rows) ?? [];
  return (
    <Page title="Log">
      <h1>
        Log
        {system && rows[0] && <small>{rows[0].system_name}</small>}
      </h1>
      <form
        className="find-line"
        onSubmit={(event) => {
          event.preventDefault();
          setSearch({ ...(system ? { system } : {}), ...(find ? { find } : {}) });
        }}
      >
        <input
          type="search"
          className="form-control"
          placeholder="Find by system, site or person"
          aria-label="Find in the log"
          value={find}
          onChange={(event) => setFind(event.target.value)}
        />
        <Button type="submit" variant="outline-primary">
          Find
        </Button>
        {(system || search.get("find")) && (
          <Button
            variant="link"
            onClick={() => {
              setFind("");
              setSearch({});
            }}
          >
            Show all
          </Button>
        )}
      </form>
      <Fault of={log.error} />
      <Table responsive className="plain-table">
        <thead>
          <tr>
            <th>
              <span className="visually-hidden">Call as found, and as left</span>
            </th>
            <th>Record</th>
            <th>System</th>
            <th>What</th>
            <th>Closed as</th>
            <th className="num">Left at</th>
            <th className="num">Factor</th>
            <th>Paper</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.record}>
              <td>
                <Calls done={row} />
              </td>
              <td className="text-nowrap">
                <Link to={`/records/${row.record}`}>No. {row.number}</Link>
                <div className="soft">{day(row.closed_at, row.time_zone)}</div>
              </td>
              <td>
                {row.system_name}
                <div className="soft">{row.site}</div>
              </td>
              <td>{row.title}</td>
              <td>
                {row.outcome}
                {row.provisional && row.outcome !== "provisional" && <b className="provisional">provisional</b>}
                <div className="soft">{row.closed_by}</div>
              </td>
              <td className="num figure-text">{row.error == null ? "–" : signed(row.error)}</td>
              <td className="num figure-text">
                <FactorChange done={row} />
              </td>
              <td>
                <a href={`/api/records/${row.record}/certificate.pdf`}>Certificate</a>
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      {!rows.length && log.isSuccess && <p>Nothing here yet: a job stands here once it is closed.</p>}
      {log.hasNextPage && (
        <Button variant="outline-primary" className="mt-3" onClick={() => log.fetchNextPage()}>
          Earlier
        </Button>
      )}
    </Page>
  );
}
