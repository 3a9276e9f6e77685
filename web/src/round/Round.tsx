import { useDeferredValue, useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import { Link, useNavigate, useSearchParams } from "react-router";
import { openJob } from "../job/opening";
import { version } from "../about/version";
import type { SystemRow } from "../api/client";
import { useMe, useReferences, useRoundPages } from "../api/queries";
import { Fault } from "../ui/Fault";
import { NotYet, Top } from "../ui/Layout";
import type { Code } from "../ui/scan/codes";
import { Scan } from "../ui/scan/Scan";
import { ago, counted, day, signed } from "../ui/words";
import { FirstSteps } from "../plant/FirstSteps";
import { answersTo, LastStrip, StateShape } from "../plant/words";
import { takenAlong } from "./along";
import { useOrder } from "./order";
import { ZeroChecks } from "./ZeroChecks";

const wanted = (system: SystemRow) =>
  system.open_jobs.length > 0 || system.is_due || !["in-order", "in-part", "limited"].includes(system.state);

/** What do I do today, and what do I bring? */
export function Round() {
  const [search, setSearch] = useSearchParams();
  const [find, setFind] = useState("");
  const me = useMe().data;
  const navigate = useNavigate();
  /** A code of ours opens its page; any other text is looked for. */
  const opened = (code: Code) => {
    if (code.of) navigate(`/${code.of}/${code.id}`);
    else setFind(code.text);
  };
  const round = useRoundPages({ find: useDeferredValue(find.trim()) });
  const box = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (search.has("find")) {
      box.current?.focus();
      setSearch({}, { replace: true });
    }
  }, [search, setSearch]);
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (event.key !== "/" || event.target instanceof HTMLInputElement) return;
      event.preventDefault();
      box.current?.focus();
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  }, []);
  const first = round.data?.pages[0];
  // What the round needs of its systems is taken along, once the page is drawn.
  useEffect(() => {
    if (!first || find) return;
    const later = setTimeout(() => void takenAlong(first.systems), 2_000);
    return () => clearTimeout(later);
  }, [first, find]);
  const order = useOrder(first?.sites.map((site) => site.id) ?? []);
  if (!round.data || !first) return <NotYet error={round.error} />;
  const systems = round.data.pages.flatMap((page) => page.systems).filter((system) => answersTo(system, find));
  const stops = systems.filter(wanted);
  const today = new Date().toLocaleDateString("en-GB", { weekday: "long" });
  const known = new Map(first.sites.map((site) => [site.id, site]));
  const sites = order.sites
    .flatMap((id) => known.get(id) ?? [])
    .filter((site) => systems.some((system) => system.site.id === site.id));
  return (
    <>
      <title>Round · Wary Beacon</title>
      <Top>
        <div className="round-find">
          <input
            ref={box}
            type="search"
            className="form-control"
            placeholder="Find a system"
            aria-label="Find a system"
            value={find}
            onChange={(event) => setFind(event.target.value)}
          />
          <Scan title="Which machine?" onCode={(code) => opened(code)} />
        </div>
      </Top>
      <div className="round">
        <main>
          <h1>
            {today}
            <Link className="round-month" to="/calendar">
              The month
            </Link>
            <small>
              {counted(first.wanted, "stop")} at {counted(first.places, "site")}
            </small>
          </h1>
          <ZeroChecks systems={systems} />
          {sites.map((site, place) => (
            <section
              key={site.id}
              className={`stop${order.over === site.id ? " stop-over" : ""}`}
              onDragOver={(event) => order.drag(event, site.id)}
              onDrop={() => order.drop(site.id)}
            >
              <h2
                draggable={sites.length > 1}
                onDragStart={(event) => order.begin(event, site.id)}
                onDragEnd={() => order.end()}
              >
                {site.name}
                {sites.length > 1 && (
                  <span className="stop-order">
                    <button
                      type="button"
                      aria-label={`Drive to ${site.name} earlier`}
                      disabled={place === 0}
                      onClick={() => order.move(site.id, -1)}
                    >
                      ↑
                    </button>
                    <button
                      type="button"
                      aria-label={`Drive to ${site.name} later`}
                      disabled={place === sites.length - 1}
                      onClick={() => order.move(site.id, 1)}
                    >
                      ↓
                    </button>
                  </span>
                )}
              </h2>
              <Stops systems={systems.filter((system) => system.site.id === site.id)} all={!!find} />
            </section>
          ))}
          {!systems.length &&
            (find || first.total ? <p>No system of that name.</p> : <FirstSteps leads={!!me?.leads} />)}
          {round.hasNextPage && (
            <Button variant="outline-primary" onClick={() => round.fetchNextPage()} disabled={round.isFetchingNextPage}>
              Show more of {first.total} systems
            </Button>
          )}
        </main>
        <Beside stops={stops} />
      </div>
    </>
  );
}

/** So many of a site are shown until all are asked for; those that are wanted come first. */
const SHOWN = 40;

function Stops({ systems, all }: { systems: SystemRow[]; all: boolean }) {
  const [more, setMore] = useState(false);
  const sorted = [...systems].sort((a, b) => Number(wanted(b)) - Number(wanted(a)));
  const shown = more || all ? sorted : sorted.slice(0, Math.max(SHOWN, sorted.filter(wanted).length));
  return (
    <>
      {shown.slice(0, more ? undefined : 200).map((system) => (
        <Stop key={system.id} system={system} />
      ))}
      {!more && sorted.length > Math.min(shown.length, 200) && (
        <Button variant="link" onClick={() => setMore(true)}>
          {sorted.length - Math.min(shown.length, 200)} more here
        </Button>
      )}
    </>
  );
}

const URGENT: SystemRow["state"][] = ["fault", "not-valid", "out-of-service", "stale"];
const overdue = ({ urgency, zero }: SystemRow) => urgency === "overdue" || zero?.holds === false;

function Stop({ system }: { system: SystemRow }) {
  const open = system.open_jobs[0];
  const urgent = !open && (overdue(system) || URGENT.includes(system.state));
  return (
    <div className="stop-row">
      <StateShape system={system} />
      <div>
        <Link className="stop-name" to={`/systems/${system.id}`}>
          {system.name}
        </Link>
        <small>
          {system.kind_name}
          {system.material && ` · ${system.material}`}
        </small>
      </div>
      <div className="stop-why">
        {urgent ? <b className="urgent">{system.why}</b> : system.why}
        {system.planned && (
          <small className="stop-planned">
            planned for {day(system.planned.day)}
            {system.planned.name && `, ${system.planned.name}`}
            {system.planned.note && `: ${system.planned.note}`}
          </small>
        )}
        <small>{open ? `${open.headline || "just begun"} · ${ago(open.opened_at)}` : lastWords(system)}</small>
      </div>
      <LastStrip system={system} />
      <div className="stop-act">
        {open ? (
          <Link className="btn btn-primary w-100" to={`/jobs/${open.id}`}>
            Carry on
          </Link>
        ) : (
          <Begin system={system} />
        )}
      </div>
    </div>
  );
}

function lastWords(system: SystemRow): string {
  const last = system.last;
  if (!last) return "never tested here";
  const error = last.error == null ? "" : `left at ${signed(last.error)}, `;
  return `${error}${day(last.closed_at, system.site.time_zone)}`;
}

/** Begins the usual visit of a system. */
export function Begin({ system }: { system: SystemRow }) {
  const navigate = useNavigate();
  const [fault, setFault] = useState<unknown>(null);
  const begin = async () => {
    try {
      navigate(`/jobs/${(await openJob(system, system.begin_with)).id}`);
    } catch (problem) {
      setFault(problem);
    }
  };
  if (!system.begin_with) return null;
  return (
    <>
      <Button variant="outline-primary" className="w-100" onClick={begin}>
        Begin
      </Button>
      <Fault of={fault} />
    </>
  );
}

/** How long before its date a reference is spoken of: a month. */
const SOON = 31 * 24 * 3600 * 1000;

function Beside({ stops }: { stops: SystemRow[] }) {
  const references = useReferences().data ?? [];
  const bring = new Map<string, { uses: string[]; why: Set<string> }>();
  for (const stop of stops) {
    const { reference, least, why_not } = stop.bring ?? {};
    if (!reference) continue;
    const held = bring.get(reference) ?? { uses: [], why: new Set<string>() };
    held.uses.push(`${stop.name}${least ? `: ${least}` : ""}`);
    if (why_not)
      held.why.add(
        `${stop.name}: ${why_not}${stop.bring!.others.length ? `; ${stop.bring!.others.join(" or ")} would do` : ""}`,
      );
    bring.set(reference, held);
  }
  const arranged = stops.filter((stop) => stop.bring?.material);
  const helped = stops.filter((stop) => (stop.bring?.people ?? 1) > 1);
  const soon = new Date(Date.now() + SOON).toLocaleDateString("sv");
  const coming = references.filter((one) => one.due != null && one.due <= soon);
  return (
    <aside className="beside" aria-label="To bring and to arrange">
      <section>
        <h2>To bring</h2>
        <ul>
          {[...bring].map(([name, { uses, why }]) => (
            <li key={name}>
              {name}
              {uses.slice(0, 8).map((use) => (
                <small key={use}>{use}</small>
              ))}
              {uses.length > 8 && <small>and {uses.length - 8} more</small>}
              {[...why].map((text) => (
                <small key={text} className="wrong-text">
                  {text}
                </small>
              ))}
            </li>
          ))}
          {!bring.size && <li className="soft">Nothing for these stops.</li>}
        </ul>
      </section>
      {(arranged.length > 0 || helped.length > 0) && (
        <section>
          <h2>To arrange</h2>
          <ul>
            {arranged.slice(0, 12).map((stop) => (
              <li key={stop.id}>
                {stop.name}
                <small>
                  {stop.material || "material"}: {stop.bring!.material}
                </small>
              </li>
            ))}
            {helped.length > 0 && (
              <li>
                A second pair of hands
                <small>
                  {helped
                    .slice(0, 12)
                    .map((stop) => stop.name)
                    .join(", ")}
                </small>
              </li>
            )}
          </ul>
        </section>
      )}
      {coming.length > 0 && (
        <section>
          <h2>References</h2>
          <ul>
            {coming.map((one) => (
              <li key={one.id}>
                {one.name}
                <small>
                  {one.overdue ? <b className="urgent">{one.due_words}</b> : one.due_words}
                  {one.checked_by && ` · ${one.checked_by}`}
                </small>
              </li>
            ))}
          </ul>
        </section>
      )}
      <section>
        <h2>Between two stops</h2>
        <ul>
          <li>
            <Link to="/practice">Practise on a belt</Link>
            <small>a stand-in with a hidden state: would you have found it?</small>
          </li>
          <li>
            <Link to="/sums">A quick sum</Link>
            <small>without a job</small>
          </li>
          <li>
            <Link to="/about">About this program</Link>
            <small>version {version()}, and the licences of what ships with it</small>
          </li>
        </ul>
      </section>
    </aside>
  );
}
