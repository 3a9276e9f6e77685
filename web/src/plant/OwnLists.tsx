import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { api, asked, type Schemas, type SystemView } from "../api/client";
import { DialogForm } from "../ui/DialogForm";

type OwnList = Schemas["OwnListView"];

/** Lists that the site writes for this machine, and that a method begins with. */
export function OwnLists({ system, works }: { system: SystemView; works: boolean }) {
  const [changing, setChanging] = useState<OwnList | null>(null);
  return (
    <>
      {system.lists.map((list) => (
        <section key={list.key}>
          <h2>{list.title}</h2>
          <ul className="own-list">
            {list.rows.map((row, place) => (
              <li key={place}>
                {list.columns
                  .map(({ key }) => row[key] ?? "")
                  .filter(Boolean)
                  .join(", ")}
              </li>
            ))}
          </ul>
          {works && (
            <Button
              variant="outline-primary"
              aria-label={`Change this list: ${list.title}`}
              onClick={() => setChanging(list)}
            >
              Change this list
            </Button>
          )}
        </section>
      ))}
      {changing && <ListForm system={system.id} list={changing} onDone={() => setChanging(null)} />}
    </>
  );
}

function ListForm({ system, list, onDone }: { system: string; list: OwnList; onDone: () => void }) {
  const cache = useQueryClient();
  const [rows, setRows] = useState(() => [...list.rows, {}] as Record<string, string>[]);
  const set = (place: number, key: string, text: string) => {
    const changed = rows.map((row, at) => (at === place ? { ...row, [key]: text } : row));
    // The last row is always an empty one, to go on in.
    setRows(Object.values(changed.at(-1)!).some(Boolean) ? [...changed, {}] : changed);
  };
  const keep = async () => {
    const params = { path: { system_id: system } };
    await asked(api.PATCH("/api/systems/{system_id}/record", { params, body: { lists: { [list.key]: rows } } }));
    await cache.invalidateQueries({ queryKey: ["system", system] });
  };
  return (
    <DialogForm title={list.title} keep="Keep" onKeep={keep} onDone={onDone} wide>
      {() => (
        <table className="own-list-form">
          <thead>
            <tr>
              {list.columns.map(({ key, title }) => (
                <th key={key} scope="col">
                  {title}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row, place) => (
              <tr key={place}>
                {list.columns.map(({ key, title }) => (
                  <td key={key}>
                    <Form.Control
                      aria-label={`${title}, row ${place + 1}`}
                      value={row[key] ?? ""}
                      maxLength={160}
                      onChange={(event) => set(place, key, event.target.value)}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </DialogForm>
  );
}
