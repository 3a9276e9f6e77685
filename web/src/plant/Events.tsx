import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { api, asked, type SystemView } from "../api/client";
import { DialogForm } from "../ui/DialogForm";
import { ChoiceField, TextField } from "../ui/TextField";

/** Something happened that may make a calibration stale: what, and what is to be done again. */
export function Events({ system }: { system: SystemView }) {
  const [logging, setLogging] = useState(false);
  return (
    <section>
      <h2>Something happened?</h2>
      <p className="soft mb-2">A splice, a cell, a weld, an overload: what it makes stale goes on the round.</p>
      <Button variant="outline-primary" onClick={() => setLogging(true)}>
        Log an event
      </Button>
      {logging && <LogEvent system={system} onDone={() => setLogging(false)} />}
    </section>
  );
}

function LogEvent({ system, onDone }: { system: SystemView; onDone: () => void }) {
  const cache = useQueryClient();
  const params = { path: { system_id: system.id } };
  const kinds = useQuery({
    queryKey: ["event-kinds", system.id],
    queryFn: () => asked(api.GET("/api/systems/{system_id}/event-kinds", { params })),
  }).data;
  const [kind, setKind] = useState("");
  const [stale, setStale] = useState<string[]>([]);
  const [note, setNote] = useState("");
  const choose = (chosen: string) => {
    setKind(chosen);
    setStale(kinds?.find((one) => one.kind === chosen)?.stale ?? []);
  };
  const log = async () => {
    await asked(api.POST("/api/systems/{system_id}/events", { params, body: { kind, note, stale } }));
    for (const key of [["system", system.id], ["history"], ["round"]]) void cache.invalidateQueries({ queryKey: key });
  };
  const turn = (method: string, on: boolean) =>
    setStale(on ? [...stale, method] : stale.filter((one) => one !== method));
  return (
    <DialogForm
      title={`What happened to ${system.name}?`}
      keep="Log it"
      onKeep={log}
      onDone={onDone}
      ready={kind !== ""}
    >
      {(problem) => (
        <>
          <ChoiceField
            name="kind"
            label="What"
            value={kind}
            onChange={choose}
            problem={problem}
            options={[["", "choose"], ...(kinds ?? []).map((one) => [one.kind, one.words] as const)]}
          />
          <TextField name="note" label="In a few words" value={note} long={300} onChange={setNote} problem={problem} />
          {kind && (
            <fieldset>
              <legend className="fs-6 soft">Makes stale, and goes on the round</legend>
              {system.methods.map((method) => (
                <Form.Check
                  key={method.key}
                  id={`stale-${method.key}`}
                  label={method.title}
                  checked={stale.includes(method.key)}
                  onChange={(event) => turn(method.key, event.target.checked)}
                />
              ))}
            </fieldset>
          )}
        </>
      )}
    </DialogForm>
  );
}
