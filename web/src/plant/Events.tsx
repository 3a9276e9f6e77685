import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import Modal from "react-bootstrap/Modal";
import { api, asked, Problem, type SystemView } from "../api/client";
import { Fault } from "../ui/Fault";

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
  const kinds = useQuery({
    queryKey: ["event-kinds", system.id],
    queryFn: () =>
      asked(api.GET("/api/systems/{system_id}/event-kinds", { params: { path: { system_id: system.id } } })),
  }).data;
  const [kind, setKind] = useState("");
  const [stale, setStale] = useState<string[]>([]);
  const [note, setNote] = useState("");
  const [fault, setFault] = useState<unknown>(null);
  const problem = fault instanceof Problem ? fault : null;
  const choose = (chosen: string) => {
    setKind(chosen);
    setStale(kinds?.find((one) => one.kind === chosen)?.stale ?? []);
  };
  const log = async (event: React.FormEvent) => {
    event.preventDefault();
    try {
      await asked(
        api.POST("/api/systems/{system_id}/events", {
          params: { path: { system_id: system.id } },
          body: { kind, note, stale },
        }),
      );
      void cache.invalidateQueries({ queryKey: ["system", system.id] });
      void cache.invalidateQueries({ queryKey: ["history"] });
      void cache.invalidateQueries({ queryKey: ["round"] });
      onDone();
    } catch (raised) {
      setFault(raised);
    }
  };
  return (
    <Modal show onHide={onDone} centered>
      <Form onSubmit={log}>
        <Modal.Header closeButton>
          <Modal.Title>What happened to {system.name}?</Modal.Title>
        </Modal.Header>
        <Modal.Body>
          {problem && !problem.errors.length && <Fault of={fault} />}
          <Form.Group className="mb-3" controlId="event-kind">
            <Form.Label>What</Form.Label>
            <Form.Select value={kind} onChange={(event) => choose(event.target.value)}>
              <option value="" disabled>
                choose
              </option>
              {kinds?.map((one) => (
                <option key={one.kind} value={one.kind}>
                  {one.words}
                </option>
              ))}
            </Form.Select>
            {problem?.at("kind") && <p className="wrong-text">{problem.at("kind")}</p>}
          </Form.Group>
          <Form.Group className="mb-3" controlId="event-note">
            <Form.Label>In a few words</Form.Label>
            <Form.Control value={note} maxLength={300} onChange={(event) => setNote(event.target.value)} />
            {problem?.at("note") && <p className="wrong-text">{problem.at("note")}</p>}
          </Form.Group>
          {kind && (
            <fieldset>
              <legend className="fs-6 soft">Makes stale, and goes on the round</legend>
              {system.methods.map((method) => (
                <Form.Check
                  key={method.key}
                  id={`stale-${method.key}`}
                  label={method.title}
                  checked={stale.includes(method.key)}
                  onChange={(event) =>
                    setStale(event.target.checked ? [...stale, method.key] : stale.filter((one) => one !== method.key))
                  }
                />
              ))}
            </fieldset>
          )}
        </Modal.Body>
        <Modal.Footer>
          <Button type="submit" disabled={!kind}>
            Log it
          </Button>
        </Modal.Footer>
      </Form>
    </Modal>
  );
}
