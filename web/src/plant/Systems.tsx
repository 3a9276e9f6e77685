import { useDeferredValue, useState } from "react";
import Button from "react-bootstrap/Button";
import Table from "react-bootstrap/Table";
import { Link } from "react-router";
import { useRoundPages } from "../api/queries";
import { Fault, Waiting } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { day, signed } from "../ui/words";
import { NewSystem } from "./NewSystem";
import { answersTo, StateShape } from "./words";

/** Every system, whatever is due. */
export function Systems() {
  const [find, setFind] = useState("");
  const round = useRoundPages(useDeferredValue(find.trim()));
  const first = round.data?.pages[0];
  if (!round.data || !first) return round.error ? <Fault of={round.error} /> : <Waiting />;
  const rows = round.data.pages
    .flatMap((page) => page.systems)
    .filter((system) => answersTo(system, find))
    .sort((a, b) => a.site.name.localeCompare(b.site.name) || a.name.localeCompare(b.name));
  return (
    <Page title="Systems">
      <h1>Systems</h1>
      <div className="find-line">
        <input
          type="search"
          className="form-control"
          placeholder="Find by name, site or kind"
          aria-label="Find a system"
          value={find}
          onChange={(event) => setFind(event.target.value)}
        />
        <NewSystem sites={first.sites} />
      </div>
      <Table responsive className="plain-table">
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
              <td>
                <Link to={`/systems/${system.id}`}>{system.name}</Link>
                <div className="soft">
                  {system.kind_name}
                  {system.material && ` · ${system.material}`}
                </div>
              </td>
              <td>{system.site.name}</td>
              <td>{system.open_jobs[0] ? system.why : system.state_words}</td>
              <td className="num figure-text">{system.last?.error == null ? "–" : signed(system.last.error)}</td>
              <td className="text-nowrap">
                {system.last ? day(system.last.closed_at, system.site.time_zone) : "never"}
              </td>
              <td className="text-nowrap">{system.due_words}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      {!rows.length && <p>No system of that name.</p>}
      {round.hasNextPage && (
        <Button variant="outline-primary" onClick={() => round.fetchNextPage()} disabled={round.isFetchingNextPage}>
          Show more of {first.total} systems
        </Button>
      )}
    </Page>
  );
}
