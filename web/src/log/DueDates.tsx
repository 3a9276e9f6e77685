import { useQuery } from "@tanstack/react-query";
import Table from "react-bootstrap/Table";
import { api, asked } from "../api/client";
import { Fault } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { day } from "../ui/words";

/** When each machine of one's sites is due, for those who only read. */
export function DueDates() {
  const found = useQuery({ queryKey: ["due-dates"], queryFn: () => asked(api.GET("/api/due-dates")) });
  return (
    <Page title="Due dates">
      <h1>Due dates</h1>
      <Fault of={found.error} />
      <Table responsive className="plain-table">
        <thead>
          <tr>
            <th>System</th>
            <th>Site</th>
            <th>State</th>
            <th>Due</th>
          </tr>
        </thead>
        <tbody>
          {found.data?.map((one) => (
            <tr key={one.system}>
              <td>{one.name}</td>
              <td>{one.site}</td>
              <td>{one.state_words}</td>
              <td>
                {one.urgency === "overdue" ? <b className="wrong-text">{one.words}</b> : one.words}
                {one.due && !one.words.includes(day(one.due)) && <div className="soft">{day(one.due)}</div>}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      {found.data?.length === 0 && <p>No machine of your sites is on record yet.</p>}
    </Page>
  );
}
