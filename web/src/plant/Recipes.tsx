import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Table from "react-bootstrap/Table";
import { api, asked, Problem, type Schemas, type SystemView } from "../api/client";
import { systemQuery } from "../api/queries";
import { DialogForm } from "../ui/DialogForm";
import { TextField } from "../ui/TextField";
import { day } from "../ui/words";

type Channel = Schemas["ChannelView"];
type Asked = { of: Channel; copy: boolean };

const capital = (text: string) => text[0]!.toUpperCase() + text.slice(1);

/** What this machine knows by number, side by side: to compare, to copy to the next free number, to change. */
export function Recipes({ system, works }: { system: SystemView; works: boolean }) {
  const [asking, setAsking] = useState<Asked | null>(null);
  const fields = system.channel_fields;
  if (!fields.length) return null;
  const name = system.channel_name;
  return (
    <section>
      <h2>{capital(name)}s</h2>
      <Table responsive className="plain-table recipes">
        <thead>
          <tr>
            <th />
            {system.channels.map((channel) => (
              <th key={channel.id} scope="col" className="num">
                {channel.name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {fields.map((field) => (
            <tr key={field.key}>
              <th scope="row">{field.title}</th>
              {system.channels.map((channel) => (
                <td key={channel.id} className="num figure-text text-nowrap">
                  {channel.figures[field.key] ?? "–"}
                </td>
              ))}
            </tr>
          ))}
          <tr>
            <th scope="row">Last in order</th>
            {system.channels.map((channel) => (
              <td key={channel.id} className="num text-nowrap">
                {channel.proved_at ? day(channel.proved_at, system.site.time_zone) : "never yet"}
              </td>
            ))}
          </tr>
          {works && (
            <tr>
              <td />
              {system.channels.map((channel) => (
                <td key={channel.id} className="num recipe-acts">
                  <Button
                    variant="link"
                    aria-label={`Change ${channel.name}`}
                    onClick={() => setAsking({ of: channel, copy: false })}
                  >
                    Change
                  </Button>
                  <Button
                    variant="link"
                    aria-label={`Copy ${channel.name}`}
                    onClick={() => setAsking({ of: channel, copy: true })}
                  >
                    Copy
                  </Button>
                </td>
              ))}
            </tr>
          )}
        </tbody>
      </Table>
      {asking && <RecipeForm system={system} asked={asking} onDone={() => setAsking(null)} />}
    </section>
  );
}

function RecipeForm({ system, asked: { of, copy }, onDone }: { system: SystemView; asked: Asked; onDone: () => void }) {
  const cache = useQueryClient();
  const fields = system.channel_fields.filter((field) => !(copy && field.key === "number"));
  const [name, setName] = useState(copy ? "" : of.name);
  const [was] = useState(() => Object.fromEntries(fields.map(({ key }) => [key, String(of.figures[key] ?? "")])));
  const [seen, setSeen] = useState<Record<string, string>>({});
  const [figures, setFigures] = useState<Record<string, string>>(() =>
    Object.fromEntries(fields.map((field) => [field.key, String(of.figures[field.key] ?? "")])),
  );
  const keep = async () => {
    // Of a copy only what was typed otherwise is sent: the machine knows what follows for another size.
    const changed = Object.entries(figures).filter(([key, text]) => text !== String(of.figures[key] ?? ""));
    const before = {
      name: of.name,
      ...Object.fromEntries(fields.map(({ key }) => [`figures.${key}`, was[key] ?? ""])),
    };
    const body = {
      ...{ name, figures: copy ? Object.fromEntries(changed) : figures },
      ...(copy ? { copy_of: of.id } : { before: { ...before, ...seen } }),
    };
    const kept = copy
      ? api.POST("/api/systems/{system_id}/channels", { params: { path: { system_id: system.id } }, body })
      : api.PATCH("/api/channels/{channel_id}", { params: { path: { channel_id: of.id } }, body });
    try {
      await asked<Channel>(kept);
    } catch (raised) {
      // What somebody else typed meanwhile is said at its field; kept once more, one's own takes its place.
      if (raised instanceof Problem && raised.status === 409) {
        const fresh = await cache.fetchQuery({ ...systemQuery(system.id), staleTime: 0 });
        const now = fresh.channels.find((one) => one.id === of.id);
        const there = raised.errors.map(({ path }) => [
          path,
          path === "name" ? (now?.name ?? "") : String(now?.figures[path.replace("figures.", "")] ?? ""),
        ]);
        setSeen(Object.fromEntries(there) as Record<string, string>);
      }
      throw raised;
    }
    await cache.invalidateQueries({ queryKey: ["system", system.id] });
  };
  const what = system.channel_name;
  return (
    <DialogForm
      title={copy ? `A new ${what} from ${of.name}` : `Change ${of.name}`}
      keep={copy ? "Add it at the next free number" : "Keep"}
      onKeep={keep}
      onDone={onDone}
    >
      {(problem) => (
        <>
          <TextField name="name" label="Name" value={name} long={80} onChange={setName} problem={problem} />
          {fields.map((field) => (
            <TextField
              key={field.key}
              name={`figures.${field.key}`}
              label={field.title}
              value={figures[field.key] ?? ""}
              onChange={(text) => setFigures({ ...figures, [field.key]: text })}
              problem={problem}
            />
          ))}
          {copy && <p className="soft mb-0">For another size medium and fine stay as they are: try three fills.</p>}
        </>
      )}
    </DialogForm>
  );
}
