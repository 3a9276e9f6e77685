import { useDeferredValue, useState } from "react";
import Button from "react-bootstrap/Button";
import Table from "react-bootstrap/Table";
import { Link, useSearchParams } from "react-router";
import { useMachines, useMe, useRoundPages } from "../api/queries";
import { NotYet, Page } from "../ui/Layout";
import { day, signed } from "../ui/words";
import { NewSystem } from "./NewSystem";
import { FirstSteps } from "./FirstSteps";
import { answersTo, StateShape } from "./words";

const FILTERS = ["find", "site", "kind", "state", "wanted"] as const;
type Filter = (typeof FILTERS)[number];

/** Every system, whatever is due; what is asked for stays in the address. */
export function Systems() {
  const [search, setSearch] = useSearchParams();
  const [find, setFind] = useState(search.get("find") ?? "");
  const asks = Object.fromEntries(FILTERS.flatMap((key) => (search.get(key) ? [[key, search.get(key)!]] : [])));
  const words = useDeferredValue(find.trim());
  const round = useRoundPages({ ...asks, find: words, wanted: !!asks.wanted });
  const kinds = useMachines().data ?? [];
  const me = useMe().data;
  const ask = (key: Filter, text: string) => {
    const next = new URLSearchParams(asks);
    if (text) next.set(key, text);
    else next.delete(key);
    setSearch(next, { replace: true });
  };
  const first = round.data?.pages[0];
  if (!round.data || !first) return <NotYet error={round.error} />;
  const rows = round.data.pages
    .flatMap((page) => page.systems)
    .filter((system) => answersTo(system, find))
    .sort((a, b) => a.site.name.localeCompare(b.site.name) || a.name.localeCompare(b.name));
  const choice = (key: Filter, label: string, options: readonly (readonly [string, string])[]) => (
    <select
      className="form-select"
      aria-label={label}
      value={asks[key] ?? ""}
      onChange={(event) => ask(key, event.target.value)}
    >
      <option value="">{label}: any</option>
      {options.map(([value, says]) => (
        <option key={value} value={value}>
          {says}
        </option>
      ))}
    </select>
  );
  return (
    <Page title="Systems">
      <h1>Systems</h1>
      <div className="find-line systems-find">
        <input
          type="search"
          className="form-control"
          placeholder="Find by name, site or kind"
          aria-label="Find a system"
          value={find}
          onChange={(event) => {
            setFind(event.target.value);
            ask("find", event.target.value.trim());
          }}
        />
        {choice(
          "site",
          "Site",
          first.sites.map((site) => [site.id, site.name]),
        )}
        {choice(
          "kind",
          "Kind",
          kinds.map((kind) => [kind.key, kind.title]),
        )}
        {choice(
          "state",
          "State",
          first.states.map(({ state, words }) => [state, words]),
        )}
        {choice("wanted", "Due", [["yes", "wanted now"]])}
        <NewSystem sites={first.sites} />
        {me?.leads && (
          <Link className="btn btn-link" to="/set-up">
            From a spreadsheet
          </Link>
        )}
      </div>
      {!first.total && !Object.keys(asks).length && <FirstSteps leads={!!me?.leads} />}
      <Table responsive className="plain-table as-list signed">
        <thead>
          <tr>
            <th>
              <span className="visually-hidden">State</span>
            </th>
            <th>System</th>
            <th>Site</th>
            <th>State</th>
            <th className="num">Last error</th>
            <th>Last done</th>
            <th>Due</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((system) => (
            <tr key={system.id}>
              <td>
                <StateShape system={system} size={24} />
              </td>
              <td className="name">
                <Link to={`/systems/${system.id}`}>{system.name}</Link>
                <div className="soft">
                  {system.kind_name}
                  {system.material && ` · ${system.material}`}
                </div>
              </td>
              <td>{system.site.name}</td>
              <td>{system.open_jobs[0] ? system.why : system.state_words}</td>
              <td className="num figure-text" data-head="Last error">
                {system.last?.error == null ? "–" : signed(system.last.error)}
              </td>
              <td className="text-nowrap" data-head="Last done">
                {system.last ? day(system.last.closed_at, system.site.time_zone) : "never"}
              </td>
              <td className="text-nowrap">{system.due_words}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      {!rows.length && !!(first.total || Object.keys(asks).length) && <p>No system of that name.</p>}
      {round.hasNextPage && (
        <Button variant="outline-primary" onClick={() => round.fetchNextPage()} disabled={round.isFetchingNextPage}>
          Show more of {first.total} systems
        </Button>
      )}
    </Page>
  );
}
