import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Table from "react-bootstrap/Table";
import { Link } from "react-router";
import { api, asked, Problem, type Schemas } from "../api/client";
import { DialogForm } from "../ui/DialogForm";
import { TextField } from "../ui/TextField";
import { moment } from "../ui/words";

export type Load = Schemas["LoadView"];
type Patch = Schemas["LoadPatch"];

/** Changes what a load says. */
export function useChange(load: Load, onChanged: () => unknown) {
  return useMutation({
    mutationFn: (body: Partial<Patch>) =>
      asked(api.PATCH("/api/loads/{load_id}", { params: { path: { load_id: load.id } }, body: body as Patch })),
    onSuccess: onChanged,
  });
}

export interface OneProps {
  load: Load;
  unit: string;
  onChanged: () => unknown;
}

/** The loads of a log, each with its ticket to be typed. */
export function Listed({
  loads,
  unit,
  zone,
  onChanged,
}: {
  loads: Load[];
  unit: string;
  zone: string;
  onChanged: () => unknown;
}) {
  return (
    <Table responsive className="plain-table load-table">
      <thead>
        <tr>
          <th>Load</th>
          <th className="num">Shown</th>
          <th className="num">Ticket</th>
          <th>Where to</th>
          <th>By</th>
        </tr>
      </thead>
      <tbody>
        {loads.map((load) => (
          <Row key={load.id} load={load} unit={unit} zone={zone} onChanged={onChanged} />
        ))}
      </tbody>
    </Table>
  );
}

const STATES: Record<Load["state"], string> = { open: "being filled", recording: "being read", stored: "" };

function Row({ load, unit, zone, onChanged }: OneProps & { zone: string }) {
  const [ticket, setTicket] = useState<string | null>(null);
  const change = useChange(load, () => {
    setTicket(null);
    return onChanged();
  });
  const problem = change.error instanceof Problem ? change.error : null;
  const says = problem?.at("ticket") ?? problem?.title;
  const commit = () => {
    if (ticket !== null && ticket.trim() !== load.ticket) change.mutate({ ticket });
    else setTicket(null);
  };
  return (
    <tr className={load.taken_out ? "taken-out" : undefined}>
      <td className="text-nowrap">
        <b>{load.number}</b>
        <div className="soft">{load.start ? moment(load.start, zone) : "a time that no clock shows"}</div>
        <div className="soft load-where">{load.destination}</div>
        {load.taken_out ? (
          <div className="soft taken-why">taken out: {load.taken_out}</div>
        ) : (
          !load.job && load.state === "stored" && <TakeOut load={load} onChanged={onChanged} />
        )}
      </td>
      <td className="num figure-text text-nowrap">
        {load.indicated || STATES[load.state]}
        {load.moved && <div className="wrong-text">moved first</div>}
        {load.changes
          .filter((one) => one.field === "indicated")
          .map((one) => (
            <div key={one.at} className="soft">
              was {one.before}
            </div>
          ))}
      </td>
      <td className="num">
        {load.job ? (
          <Link to={`/jobs/${load.job}`}>{load.ticket}</Link>
        ) : load.taken_out ? (
          load.ticket
        ) : (
          <input
            className="form-control load-ticket"
            inputMode="decimal"
            aria-label={`Ticket of load ${load.number}${unit && `, ${unit}`}`}
            aria-invalid={says ? true : undefined}
            value={ticket ?? load.ticket}
            maxLength={30}
            onChange={(event) => setTicket(event.target.value)}
            onBlur={commit}
            onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
          />
        )}
        {says && (
          <p className="wrong-text" role="alert">
            {says}
          </p>
        )}
      </td>
      <td>
        {load.destination || "–"}
        <div className="soft">{load.material}</div>
      </td>
      <td>{load.operator}</td>
    </tr>
  );
}

/** A load that should not be in the log is taken out of it, with why; it stays to be seen. */
function TakeOut({ load, onChanged }: { load: Load; onChanged: () => unknown }) {
  const [why, setWhy] = useState<string | null>(null);
  const keep = async () => {
    const params = { path: { load_id: load.id } };
    await asked(api.POST("/api/loads/{load_id}/take-out", { params, body: { why: why ?? "" } }));
    await onChanged();
  };
  return (
    <>
      <Button
        variant="link"
        className="p-0 d-block"
        aria-label={`Take out load ${load.number}`}
        onClick={() => setWhy("")}
      >
        Take out
      </Button>
      {why !== null && (
        <DialogForm
          title={`Take load ${load.number} out of the log`}
          keep="Take it out"
          onKeep={keep}
          onDone={() => setWhy(null)}
        >
          {(problem) => <TextField name="why" label="Why" long={200} value={why} onChange={setWhy} problem={problem} />}
        </DialogForm>
      )}
    </>
  );
}
