import { useInfiniteQuery, useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Link, useNavigate } from "react-router";
import { api, asFile, asked, Problem, type Schemas, type SystemView } from "../api/client";
import { OfSystem } from "../plant/OfSystem";
import { Fault } from "../ui/Fault";
import { FileButton } from "../ui/FileButton";
import { Page } from "../ui/Layout";
import { TextField } from "../ui/TextField";
import { counted } from "../ui/words";
import { ByItself } from "./ByItself";
import { Listed, type Load, type OneProps, useChange } from "./Rows";
import { Totals } from "./Totals";

/** How often the log is asked for while a live weight keeps it, in ms. */
const EVERY = 2_000;

/** What was loaded, where did it go, and does it agree with the tickets? */
export function LoadLog() {
  return <OfSystem title="Load log">{(system) => <Whole system={system} />}</OfSystem>;
}

function Whole({ system }: { system: SystemView }) {
  const navigate = useNavigate();
  const cache = useQueryClient();
  const [channel, setChannel] = useState(system.channels[0]!.id);
  const [find, setFind] = useState("");
  const key = ["loads", system.id, channel];
  const log = useInfiniteQuery({
    queryKey: [...key, find],
    queryFn: ({ pageParam }) => {
      const params = { path: { system_id: system.id }, query: { channel, find, before: pageParam ?? undefined } };
      return asked(api.GET("/api/systems/{system_id}/loads", { params }));
    },
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.earlier,
    // A load that a live weight began or stored is seen within seconds.
    refetchInterval: (query) => (query.state.data?.pages[0]?.watch ? EVERY : false),
  });
  const again = () => cache.invalidateQueries({ queryKey: key });
  const params = { path: { system_id: system.id } };
  const begin = useMutation({
    mutationFn: (given: Schemas["LoadIn"]) =>
      asked(api.POST("/api/systems/{system_id}/loads", { params, body: { ...given, channel } })),
    onSuccess: again,
  });
  const compare = useMutation({
    mutationFn: () =>
      asked(api.POST("/api/systems/{system_id}/loads/compare", { params, body: { channel, loads: [] } })),
    onSuccess: ({ job }) => navigate(`/jobs/${job}`),
  });
  const bring = useMutation({
    mutationFn: (file: File) =>
      asked(
        api.POST("/api/systems/{system_id}/loads.csv", {
          params: { path: { system_id: system.id }, query: { channel } },
          ...asFile(file),
        }),
      ),
    onSuccess: again,
  });
  const pages = log.data?.pages ?? [];
  const loads = pages.flatMap((page) => page.loads);
  const unit = pages[0]?.unit ?? "";
  const open = find ? undefined : loads.find((load) => load.state !== "stored" && !load.taken_out);
  const ready = pages[0]?.to_compare ?? 0;
  return (
    <Page title={`Load log, ${system.name}`}>
      <h1>
        Load log
        <small>
          <Link to={`/systems/${system.id}`}>{system.name}</Link>
        </small>
      </h1>
      {system.channels.length > 1 && (
        <select
          className="form-select w-auto"
          aria-label="Channel"
          value={channel}
          onChange={(event) => setChannel(event.target.value)}
        >
          {system.channels.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
      )}
      <Fault of={begin.error ?? compare.error ?? bring.error ?? log.error} />
      {log.isSuccess && (
        <ByItself system={system} channel={channel} watch={pages[0]?.watch ?? null} onChanged={again} />
      )}
      {log.isSuccess &&
        (open ? (
          <InHand key={open.id} load={open} unit={unit} onChanged={again} />
        ) : (
          <Begin latest={loads[0]} busy={begin.isPending} onBegin={(given) => begin.mutate(given)} />
        ))}
      {ready > 0 && (
        <p className="load-ready">
          <Button onClick={() => compare.mutate()} disabled={compare.isPending}>
            Compare {counted(ready, "load")} with {ready === 1 ? "its ticket" : "their tickets"}
          </Button>
        </p>
      )}
      <div className="system-grid">
        <section>
          <h2>Loads</h2>
          <input
            type="search"
            className="form-control mb-2"
            placeholder="Find by number, destination, material or person"
            aria-label="Find in the load log"
            value={find}
            onChange={(event) => setFind(event.target.value)}
          />
          <Listed loads={loads} unit={unit} zone={system.site.time_zone} onChanged={again} />
          {log.isSuccess && !loads.length && (
            <p>{find ? "No load is like that." : "No load yet: begin one, or bring in a file."}</p>
          )}
          {log.hasNextPage && (
            <Button variant="outline-primary" className="mt-3" onClick={() => log.fetchNextPage()}>
              Earlier
            </Button>
          )}
        </section>
        <div>
          <Totals system={system.id} channel={channel} find={find} of={loads.length} />
          <p>
            <a className="btn btn-link" href={`/api/systems/${system.id}/loads.csv?channel=${channel}`}>
              All as CSV
            </a>
            <FileButton accept=".csv,text/csv" onFile={(file) => bring.mutate(file)}>
              Bring in CSV
            </FileButton>
          </p>
        </div>
      </div>
    </Page>
  );
}

interface BeginProps {
  latest?: Load;
  busy: boolean;
  onBegin: (given: Schemas["LoadIn"]) => void;
}

/** A load begins: where to and what, as the one before where nothing else is said. */
function Begin({ latest, busy, onBegin }: BeginProps) {
  const [to, setTo] = useState(latest?.destination ?? "");
  const [material, setMaterial] = useState(latest?.material ?? "");
  return (
    <form
      className="load-hand"
      aria-label="Next load"
      onSubmit={(event) => {
        event.preventDefault();
        onBegin({ how: "hand", destination: to, material, operator: "" });
      }}
    >
      <TextField name="destination" label="Where to" value={to} long={80} onChange={setTo} />
      <TextField name="material" label="What" value={material} long={80} onChange={setMaterial} />
      <Button type="submit" className="load-act" disabled={busy}>
        Begin load {latest ? latest.number + 1 : 1}
      </Button>
    </form>
  );
}

/** The load in hand, large: what it shows, and that it is stored before anything moves. */
function InHand({ load, unit, onChanged }: OneProps) {
  const [shows, setShows] = useState(load.indicated);
  const [moved, setMoved] = useState(load.moved);
  const change = useChange(load, onChanged);
  const problem = change.error instanceof Problem ? change.error : null;
  const to = [load.material, load.destination && `to ${load.destination}`].filter(Boolean).join(" ");
  return (
    <form
      className="load-hand"
      aria-label={`Load ${load.number}`}
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate({ indicated: shows, moved, store: true });
      }}
    >
      <p className="load-number">
        <b>Load {load.number}</b>
        <small>{[load.state === "recording" ? "being read" : "being filled", to].filter(Boolean).join(", ")}</small>
      </p>
      <TextField
        name="indicated"
        label={`Shown${unit && `, ${unit}`}`}
        value={shows}
        long={30}
        problem={problem}
        onChange={setShows}
      />
      <Button type="submit" className="load-act" disabled={change.isPending}>
        Standing still: store it
      </Button>
      <label className="tick">
        <input
          type="checkbox"
          className="form-check-input"
          checked={moved}
          onChange={(event) => {
            setMoved(event.target.checked);
            change.mutate({ moved: event.target.checked, indicated: shows });
          }}
        />
        <span>It moved before it was stored</span>
      </label>
      {problem && !problem.at("indicated") && <Fault of={problem} />}
    </form>
  );
}
