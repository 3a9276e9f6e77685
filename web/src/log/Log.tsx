import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Table from "react-bootstrap/Table";
import { Link, useSearchParams } from "react-router";
import { api, asked, type Call } from "../api/client";
import { referencesQuery, roundQuery, useMachines, useMe } from "../api/queries";
import { FactorChange } from "../plant/words";
import { Fault } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { day, moment, signed } from "../ui/words";
import { Calls } from "./Calls";

const FILTERS = ["find", "system", "site", "kind", "call", "person", "reference", "since", "until"] as const;
type Filter = (typeof FILTERS)[number];
const CALLS: [Call, string][] = [
  ["leave", "leave alone"],
  ["adjust", "adjust"],
  ["find-fault", "find the fault"],
  ["keep-testing", "keep testing"],
  ["not-ready", "not ready"],
];

/** What was done, by whom, and where is the paper? */
export function Log() {
  const [search, setSearch] = useSearchParams();
  const me = useMe().data;
  const [find, setFind] = useState(search.get("find") ?? "");
  const [more, setMore] = useState(() => FILTERS.some((key) => key !== "find" && key !== "system" && search.has(key)));
  const asks = Object.fromEntries(FILTERS.flatMap((key) => (search.get(key) ? [[key, search.get(key)!]] : [])));
  const query = new URLSearchParams(asks).toString();
  const log = useInfiniteQuery({
    queryKey: ["log", query],
    queryFn: ({ pageParam }) =>
      asked(api.GET("/api/log", { params: { query: { ...asks, before: pageParam } as { find?: string } } })),
    initialPageParam: "",
    getNextPageParam: (page) => page.earlier,
  });
  const rows = log.data?.pages.flatMap((page) => page.rows) ?? [];
  const ask = (key: Filter, text: string) => {
    const next = new URLSearchParams(asks);
    if (text) next.set(key, text);
    else next.delete(key);
    setSearch(next);
  };
  const system = search.get("system");
  return (
    <Page title="Log">
      <h1>
        Log
        {system && rows[0] && <small>{rows[0].system_name}</small>}
      </h1>
      <form
        className="find-line"
        role="search"
        onSubmit={(event) => {
          event.preventDefault();
          ask("find", find);
        }}
      >
        <input
          type="search"
          className="form-control"
          placeholder="System, material, site, person, number"
          aria-label="Find in the log"
          value={find}
          onChange={(event) => setFind(event.target.value)}
        />
        <Button type="submit" variant="outline-primary">
          Find
        </Button>
        <Button variant="link" aria-expanded={more} onClick={() => setMore(!more)}>
          {more ? "Fewer" : "More to ask for"}
        </Button>
        {query && (
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
        <span className="ms-auto">
          <a className="btn btn-link" href={`/api/log.csv?${query}`}>
            CSV
          </a>
          <a className="btn btn-link" href={`/api/log.xlsx?${query}`}>
            XLSX
          </a>
          <Link className="btn btn-link" to="/faults">
            What fails
          </Link>
          {me?.leads && (
            <Link className="btn btn-link" to="/chain">
              Seals
            </Link>
          )}
        </span>
      </form>
      {more && <Filters asks={asks} ask={ask} works={!!me?.works} />}
      <Fault of={log.error} />
      <Table responsive className="plain-table as-list signed">
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
                <Link to={`/records/${row.record}`} className={row.superseded_by ? "put-right" : undefined}>
                  No. {row.number}
                </Link>
                <div className="soft">{day(row.closed_at, row.time_zone)}</div>
              </td>
              <td className="name">
                {row.system_name}
                <div className="soft">{row.site}</div>
              </td>
              <td>{row.title}</td>
              <td>
                {row.outcome}
                {row.superseded_by && <b className="provisional">put right by no. {row.superseded_by}</b>}
                {row.supersedes && <div className="soft">puts no. {row.supersedes} right</div>}
                {row.provisional && row.outcome !== "provisional" && <b className="provisional">provisional</b>}
                <div className="soft">{row.closed_by}</div>
              </td>
              <td className="num figure-text" data-head="Left at">
                {row.error == null ? "–" : signed(row.error)}
              </td>
              <td className="num figure-text" data-head="Factor">
                <FactorChange done={row} />
              </td>
              <td>
                <a
                  href={`/api/records/${row.record}/certificate.pdf`}
                  aria-label={`Certificate of record ${row.number}, PDF`}
                >
                  PDF
                </a>
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      {!rows.length && log.isSuccess && (
        <p>{query ? "Nothing answers to that." : "Nothing here yet: a job stands here once it is closed."}</p>
      )}
      {log.data?.pages[0]?.as_of && <p className="soft mt-3">As it stood {moment(log.data.pages[0].as_of)}.</p>}
      {log.hasNextPage && (
        <Button variant="outline-primary" className="mt-3" onClick={() => log.fetchNextPage()}>
          Earlier
        </Button>
      )}
    </Page>
  );
}

/** What else a record can be looked for by; people who only read have no references and no kinds to choose from. */
function Filters({
  asks,
  ask,
  works,
}: {
  asks: Partial<Record<string, string>>;
  ask: (key: Filter, text: string) => void;
  works: boolean;
}) {
  const sites = useSites(works);
  const kinds = useMachines().data ?? [];
  const references = useQuery({ ...referencesQuery, enabled: works }).data ?? [];
  const choice = (key: Filter, label: string, options: readonly (readonly [string, string])[]) => (
    <label>
      <span>{label}</span>
      <select className="form-select" value={asks[key] ?? ""} onChange={(event) => ask(key, event.target.value)}>
        <option value="">any</option>
        {options.map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
  const date = (key: Filter, label: string) => (
    <label>
      <span>{label}</span>
      <input
        type="date"
        className="form-control"
        value={asks[key] ?? ""}
        onChange={(event) => ask(key, event.target.value)}
      />
    </label>
  );
  return (
    <div className="log-filters" role="group" aria-label="More to ask for">
      {date("since", "From")}
      {date("until", "Until")}
      {sites.length > 0 &&
        choice(
          "site",
          "Site",
          sites.map((one) => [one.id, one.name] as const),
        )}
      {choice(
        "kind",
        "Kind",
        kinds.map((one) => [one.key, one.title] as const),
      )}
      {choice("call", "Call as left", CALLS)}
      {works &&
        choice(
          "reference",
          "Reference",
          references.map((one) => [one.id, one.name] as const),
        )}
      <label>
        <span>Closed by</span>
        <input
          className="form-control"
          defaultValue={asks.person ?? ""}
          onBlur={(event) => ask("person", event.target.value.trim())}
          onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
        />
      </label>
    </div>
  );
}

const useSites = (works: boolean) => useQuery({ ...roundQuery, enabled: works }).data?.sites ?? [];
