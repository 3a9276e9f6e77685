import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Table from "react-bootstrap/Table";
import { Link, useSearchParams } from "react-router";
import { api, asked } from "../api/client";
import { Fault } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { counted, day } from "../ui/words";
import { Bundles } from "./Bundles";

/** One's machines for those who only read: what is due, what is out, and the certificates of a period. */
export function DueDates() {
  const found = useQuery({ queryKey: ["due-dates"], queryFn: () => asked(api.GET("/api/due-dates")) });
  const [search, setSearch] = useSearchParams();
  const [only, site] = [search.get("only") ?? "", search.get("site") ?? ""];
  const all = found.data ?? [];
  const ask = (key: string, text: string) => {
    const next = new URLSearchParams(search);
    if (text) next.set(key, text);
    else next.delete(key);
    setSearch(next, { replace: true });
  };
  const due = (one: (typeof all)[number]) => one.urgency === "overdue" || one.urgency === "due";
  const rows = all.filter((one) => (!site || one.site_id === site) && (!only || (only === "due" ? due(one) : one.out)));
  const sites = [...new Map(all.map((one) => [one.site_id, one.site]))];
  return (
    <Page title="Your machines">
      <h1>
        Your machines
        {found.data && (
          <small>
            {counted(all.length, "machine")}, {all.filter(due).length} due, {all.filter((one) => one.out).length} out
          </small>
        )}
      </h1>
      <Fault of={found.error} />
      <div className="find-line systems-find">
        <select
          className="form-select"
          aria-label="Which"
          value={only}
          onChange={(event) => ask("only", event.target.value)}
        >
          <option value="">All of them</option>
          <option value="due">Due or overdue</option>
          <option value="out">Not in order</option>
        </select>
        {sites.length > 1 && (
          <select
            className="form-select"
            aria-label="Site"
            value={site}
            onChange={(event) => ask("site", event.target.value)}
          >
            <option value="">Every site</option>
            {sites.map(([id, name]) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        )}
      </div>
      <Table responsive className="plain-table as-list">
        <thead>
          <tr>
            <th>System</th>
            <th>Site</th>
            <th>State</th>
            <th>Due</th>
            <th>Last certificate</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((one) => (
            <tr key={one.system}>
              <td className="name">
                <b>{one.name}</b>
              </td>
              <td>{one.site}</td>
              <td className={one.out ? "provisional" : undefined}>{one.state_words}</td>
              <td className="text-nowrap">
                {one.urgency === "overdue" ? <b className="wrong-text">{one.words}</b> : one.words}
                {one.due && !one.words.includes(day(one.due)) && <div className="soft">{day(one.due)}</div>}
              </td>
              <td className="text-nowrap" data-head="Last certificate">
                {one.record && one.done_on ? <Link to={`/records/${one.record}`}>{day(one.done_on)}</Link> : "none yet"}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      {found.data && !rows.length && (
        <p>{all.length ? "None of them." : "No machine of your sites is on record yet."}</p>
      )}
      {all.length > 0 && <Certificates site={site} />}
    </Page>
  );
}

/** All certificates of a period in one file. */
function Certificates({ site }: { site: string }) {
  const today = new Date();
  const [since, setSince] = useState(() =>
    new Date(today.getFullYear(), today.getMonth() - 3, 1).toLocaleDateString("sv"),
  );
  const [until, setUntil] = useState(() => today.toLocaleDateString("sv"));
  return (
    <section className="certificates">
      <h2>Certificates of a period</h2>
      <label>
        <span>From</span>
        <input type="date" className="form-control" value={since} onChange={(event) => setSince(event.target.value)} />
      </label>
      <label>
        <span>To</span>
        <input type="date" className="form-control" value={until} onChange={(event) => setUntil(event.target.value)} />
      </label>
      <Bundles since={since} until={until} site={site} />
    </section>
  );
}
