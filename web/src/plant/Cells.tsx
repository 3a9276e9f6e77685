import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import Modal from "react-bootstrap/Modal";
import { api, asked, Problem, type Schemas, type SystemView } from "../api/client";
import { Fault } from "../ui/Fault";
import { day } from "../ui/words";

type Cell = Schemas["CellView"];

/** The load cells of a system, where they stand, and those that came out. */
export function Cells({ system }: { system: SystemView }) {
  const [fitting, setFitting] = useState<Cell | "new" | null>(null);
  const cells = useQuery({
    queryKey: ["cells", system.id],
    queryFn: () => asked(api.GET("/api/systems/{system_id}/cells", { params: { path: { system_id: system.id } } })),
  }).data;
  if (!cells) return null;
  const inPlace = cells.filter((cell) => !cell.removed);
  const out = cells.filter((cell) => cell.removed);
  return (
    <section>
      <h2>Load cells</h2>
      {inPlace.map((cell) => (
        <div key={cell.id} className="cell-row">
          <span>
            <b>{cell.label}</b>
            {system.channels.length > 1 && ` (${cell.channel_name})`}{" "}
            {[cell.capacity, cell.sensitivity].filter(Boolean).join(", ")}
            <small className="d-block soft">
              {[
                cell.serial,
                cell.source === "assumed" ? "sensitivity assumed" : cell.source && `from the ${cell.source}`,
              ]
                .filter(Boolean)
                .join(" · ")}
            </small>
          </span>
          <Button variant="link" onClick={() => setFitting(cell)} aria-label={`Replace cell ${cell.label}`}>
            Replace
          </Button>
        </div>
      ))}
      {out.map((cell) => (
        <div key={cell.id} className="cell-row soft">
          <span>
            {cell.label}, {cell.serial || "no serial number"}: out {cell.removed && day(cell.removed)},{" "}
            {cell.why_removed}
          </span>
        </div>
      ))}
      <Button variant="outline-primary" className="mt-2" onClick={() => setFitting("new")}>
        Add a cell
      </Button>
      {fitting && <FitCell system={system} old={fitting === "new" ? null : fitting} onDone={() => setFitting(null)} />}
    </section>
  );
}

function FitCell({ system, old, onDone }: { system: SystemView; old: Cell | null; onDone: () => void }) {
  const cache = useQueryClient();
  const [given, setGiven] = useState({
    channel: system.channels[0]?.id ?? null,
    label: old?.label ?? "",
    capacity: old?.capacity ?? String(system.plates.cell_capacity ?? ""),
    sensitivity: old?.sensitivity ?? String(system.plates.cell_sensitivity ?? ""),
    source: "plate",
    serial: "",
    why: "",
  });
  const [fault, setFault] = useState<unknown>(null);
  const problem = fault instanceof Problem ? fault : null;
  const fit = async (event: React.FormEvent) => {
    event.preventDefault();
    try {
      const body = { ...given, instead_of: old?.id ?? null };
      await asked(api.POST("/api/systems/{system_id}/cells", { params: { path: { system_id: system.id } }, body }));
      for (const key of ["cells", "system", "events"]) void cache.invalidateQueries({ queryKey: [key, system.id] });
      void cache.invalidateQueries({ queryKey: ["round"] });
      onDone();
    } catch (raised) {
      setFault(raised);
    }
  };
  const field = (key: "label" | "capacity" | "sensitivity" | "serial" | "why", label: string) => (
    <Form.Group className="mb-3" controlId={`cell-${key}`}>
      <Form.Label>{label}</Form.Label>
      <Form.Control value={given[key]} onChange={(event) => setGiven({ ...given, [key]: event.target.value })} />
      {problem?.at(key) && <p className="wrong-text">{problem.at(key)}</p>}
    </Form.Group>
  );
  return (
    <Modal show onHide={onDone} centered>
      <Form onSubmit={fit}>
        <Modal.Header closeButton>
          <Modal.Title>{old ? `Replace cell ${old.label}` : "Add a cell"}</Modal.Title>
        </Modal.Header>
        <Modal.Body>
          {problem && !problem.errors.length && <Fault of={fault} />}
          {old && field("why", "Why was it replaced?")}
          {!old && field("label", "Which cell, or where it stands")}
          {!old && system.channels.length > 1 && (
            <Form.Group className="mb-3" controlId="cell-channel">
              <Form.Label>Channel</Form.Label>
              <Form.Select
                value={given.channel ?? ""}
                onChange={(event) => setGiven({ ...given, channel: event.target.value })}
              >
                {system.channels.map((channel) => (
                  <option key={channel.id} value={channel.id}>
                    {channel.name}
                  </option>
                ))}
              </Form.Select>
            </Form.Group>
          )}
          {field("capacity", "Capacity, such as 10 t")}
          {field("sensitivity", "Sensitivity, such as 2 mV/V")}
          <Form.Group className="mb-3" controlId="cell-source">
            <Form.Label>Read from</Form.Label>
            <Form.Select value={given.source} onChange={(event) => setGiven({ ...given, source: event.target.value })}>
              <option value="plate">its plate</option>
              <option value="certificate">a certificate</option>
              <option value="assumed">assumed: provisional</option>
            </Form.Select>
          </Form.Group>
          {field("serial", "Serial number")}
        </Modal.Body>
        <Modal.Footer>
          <Button type="submit">{old ? "Replace it" : "Add it"}</Button>
        </Modal.Footer>
      </Form>
    </Modal>
  );
}
