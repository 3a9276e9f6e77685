import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { api, asked, type Problem, type Schemas, type SystemView } from "../api/client";
import { DialogForm } from "../ui/DialogForm";
import { Said, TextField, ChoiceField } from "../ui/TextField";
import { day, moment } from "../ui/words";

type Kind = Schemas["IntervalView"]["kind"];
type Counter = Schemas["CounterIn"]["kind"];

const EVERY: [Kind, string][] = [
  ["days", "Days, at the most"],
  ["hours", "Running hours"],
  ["tonnes", "Tonnes"],
  ["cycles", "Cycles"],
  ["season", "Season begins, as month and day"],
];
const COUNTED: Partial<Record<Kind, string>> = { hours: "h", tonnes: "t", cycles: "cycles" };

/** When it is wanted again, by whichever comes first; what its counters show; and to whom its next visit is planned. */
export function Intervals({ system }: { system: SystemView }) {
  const cache = useQueryClient();
  const [open, setOpen] = useState<"" | "intervals" | "counter" | "plan">("");
  const counters = system.intervals.filter((one) => COUNTED[one.kind]);
  const fresh = () => {
    for (const key of [["system", system.id], ["round"], ["calendar"]]) void cache.invalidateQueries({ queryKey: key });
  };
  return (
    <section>
      <h2>When it is wanted again</h2>
      <dl className="plates">
        {system.dues.map((due) => (
          <div key={due.kind} style={{ display: "contents" }}>
            <dt>{EVERY.find(([kind]) => kind === due.kind)![1].split(",")[0]}</dt>
            <dd className={due.urgency === "overdue" ? "wrong-text" : undefined}>{due.words}</dd>
          </div>
        ))}
        {system.zero && (
          <>
            <dt>Zero{system.zero.band && `, within ${system.zero.band}`}</dt>
            <dd className={system.zero.holds === false ? "wrong-text" : undefined}>
              {system.zero.words}
              {system.zero.last && `; last ${system.zero.last}`}
            </dd>
          </>
        )}
        <dt>Planned</dt>
        <dd>
          {system.planned
            ? [day(system.planned.day), system.planned.name, system.planned.note].filter(Boolean).join(", ")
            : "not yet"}
        </dd>
      </dl>
      <div className="d-flex flex-wrap gap-2 mt-3">
        <Button variant="outline-primary" onClick={() => setOpen("plan")}>
          Plan a visit
        </Button>
        <Button variant="outline-primary" onClick={() => setOpen("intervals")}>
          Change its intervals
        </Button>
        {counters.length > 0 && (
          <Button variant="outline-primary" onClick={() => setOpen("counter")}>
            Read a counter
          </Button>
        )}
      </div>
      {system.counters.length > 0 && (
        <p className="soft mt-2 mb-0">
          Last read: {system.counters[0]!.figure} {COUNTED[system.counters[0]!.kind]}, {system.counters[0]!.who},{" "}
          {moment(system.counters[0]!.at, system.site.time_zone)}
        </p>
      )}
      {open === "intervals" && <IntervalForm system={system} onKept={fresh} onDone={() => setOpen("")} />}
      {open === "counter" && (
        <CounterForm
          system={system}
          kinds={counters.map((one) => one.kind as Counter)}
          onKept={fresh}
          onDone={() => setOpen("")}
        />
      )}
      {open === "plan" && <PlanForm system={system} onDone={() => setOpen("")} />}
    </section>
  );
}

interface FormProps {
  system: SystemView;
  onKept: () => void;
  onDone: () => void;
}

function IntervalForm({ system, onKept, onDone }: FormProps) {
  const held = (kind: Kind) => system.intervals.find((one) => one.kind === kind);
  const zero = system.zero_intervals[0];
  const drift = useDrift(system);
  const [given, setGiven] = useState<Record<string, string>>(() => ({
    ...Object.fromEntries(
      EVERY.map(([kind]) => [kind, kind === "season" ? (held(kind)?.season ?? "") : String(held(kind)?.every ?? "")]),
    ),
    days: String(system.interval_days),
    zero: zero ? String(zero.every) : "",
    band: zero?.band ?? "",
    why: "",
  }));
  const places = EVERY.filter(([kind]) => given[kind]?.trim());
  const number = (text = "") => Number(text.replace(",", "."));
  const keep = async () => {
    const calibration = places.map(([kind]) =>
      kind === "season" ? { kind, season: given[kind]!.trim() } : { kind, every: number(given[kind]) },
    );
    const zeros = given.zero?.trim()
      ? [{ kind: "days" as const, every: number(given.zero), band: given.band ?? "" }]
      : [];
    const params = { path: { system_id: system.id } };
    const body = { calibration, zero: zeros, why: given.why ?? "" } as Schemas["IntervalsIn"];
    await asked(api.PUT("/api/systems/{system_id}/intervals", { params, body }));
    onKept();
  };
  const field = (key: string, label: string, problem: Problem | null, path: string, hint = "") => (
    <>
      <TextField
        name={key}
        label={label}
        hint={hint}
        value={given[key] ?? ""}
        onChange={(text) => setGiven({ ...given, [key]: text })}
        problem={problem}
      />
      {path !== key && (
        <>
          <Said problem={problem} path={path} />
          <Said problem={problem} path={`${path}.every`} />
        </>
      )}
    </>
  );
  return (
    <DialogForm title={`When is ${system.name} wanted again?`} keep="Keep" onKeep={keep} onDone={onDone}>
      {(problem) => (
        <>
          <p>Whichever comes first. What is left empty does not count.</p>
          {drift && <p className="say">{drift}</p>}
          {EVERY.map(([kind, label]) => (
            <div key={kind}>
              {field(
                kind,
                label,
                problem,
                `calibration[${places.findIndex(([one]) => one === kind)}]`,
                kind === "season" ? "such as 03-01" : "",
              )}
            </div>
          ))}
          <Said problem={problem} path="calibration" />
          <h3 className="fs-6 mt-3">Its zero, between visits</h3>
          {field("zero", "Look at it every so many days", problem, "zero[0]", "1 for daily, 7 for weekly")}
          {field("band", "It holds within", problem, "band", "such as 2 kg; empty where it is only written down")}
          {field("why", "Why it is changed", problem, "why")}
        </>
      )}
    </DialogForm>
  );
}

/** What the drift of its first channel says of the interval. */
function useDrift(system: SystemView): string {
  const channel = system.channels[0]?.id ?? "";
  const history = useQuery({
    queryKey: ["history", channel],
    queryFn: () => asked(api.GET("/api/channels/{channel_id}/history", { params: { path: { channel_id: channel } } })),
    enabled: channel !== "",
  }).data;
  const drift = history?.drift;
  if (!drift) return "";
  const fits = drift.fits_days ? ` At its drift a third of the limit is used in ${drift.fits_days} days.` : "";
  return `${drift.hint}${fits}`;
}

function CounterForm({ system, kinds, onKept, onDone }: FormProps & { kinds: Counter[] }) {
  const [kind, setKind] = useState<Counter>(kinds[0]!);
  const [figure, setFigure] = useState("");
  const [anew, setAnew] = useState(false);
  const keep = async () => {
    const params = { path: { system_id: system.id } };
    const body = { kind, figure: Number(figure.replace(",", ".").replace(/\s/g, "")), anew };
    await asked(api.POST("/api/systems/{system_id}/counters", { params, body }));
    onKept();
  };
  return (
    <DialogForm title={`Counter of ${system.name}`} keep="Keep" onKeep={keep} onDone={onDone}>
      {(problem) => (
        <>
          {kinds.length > 1 && (
            <ChoiceField
              name="kind"
              label="Which"
              value={kind}
              onChange={(text) => setKind(text as Counter)}
              options={kinds.map((one) => [one, one] as const)}
            />
          )}
          <TextField
            name="figure"
            label={`It shows, in ${COUNTED[kind]}`}
            value={figure}
            onChange={setFigure}
            problem={problem}
          />
          {(problem?.at("figure") || anew) && (
            <label className="tick">
              <input
                type="checkbox"
                className="form-check-input"
                checked={anew}
                onChange={(event) => setAnew(event.target.checked)}
              />
              <span>The counter was replaced, or began anew</span>
            </label>
          )}
        </>
      )}
    </DialogForm>
  );
}

function PlanForm({ system, onDone }: { system: SystemView; onDone: () => void }) {
  const cache = useQueryClient();
  const people = useQuery({ queryKey: ["colleagues"], queryFn: () => asked(api.GET("/api/colleagues")) }).data ?? [];
  const [given, setGiven] = useState({
    day: system.planned?.day ?? "",
    username: system.planned?.username ?? "",
    note: system.planned?.note ?? "",
  });
  const params = { path: { system_id: system.id } };
  const known = () => {
    for (const key of [["system", system.id], ["round"], ["calendar"]]) void cache.invalidateQueries({ queryKey: key });
  };
  const keep = async () => {
    await asked(api.PUT("/api/systems/{system_id}/plan", { params, body: given }));
    known();
  };
  const takeBack = async () => {
    await asked(api.DELETE("/api/systems/{system_id}/plan", { params }));
    known();
    onDone();
  };
  return (
    <DialogForm
      title={`Plan a visit of ${system.name}`}
      keep="Plan it"
      onKeep={keep}
      onDone={onDone}
      ready={given.day !== ""}
      beside={
        system.planned && (
          <Button variant="link" onClick={() => void takeBack()}>
            Take the plan back
          </Button>
        )
      }
    >
      {(problem) => {
        const common = (key: keyof typeof given) => ({
          name: key,
          value: given[key],
          onChange: (value: string) => setGiven({ ...given, [key]: value }),
          problem,
        });
        return (
          <>
            <TextField label="Day" type="date" {...common("day")} />
            <ChoiceField
              label="Who goes"
              options={[["", "no one named"], ...people.map((one) => [one.username, one.name] as const)]}
              {...common("username")}
            />
            <TextField label="Note" long={200} {...common("note")} />
          </>
        );
      }}
    </DialogForm>
  );
}
