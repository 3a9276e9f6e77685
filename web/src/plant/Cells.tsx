import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { api, asked, type Schemas, type SystemView } from "../api/client";
import { DialogForm } from "../ui/DialogForm";
import { ChoiceField, TextField } from "../ui/TextField";
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

const SOURCES: Record<Schemas["CellIn"]["source"], string> = {
  plate: "its plate",
  certificate: "a certificate",
  assumed: "assumed: provisional",
};

function FitCell({ system, old, onDone }: { system: SystemView; old: Cell | null; onDone: () => void }) {
  const cache = useQueryClient();
  const [given, setGiven] = useState({
    channel: system.channels[0]?.id ?? "",
    label: old?.label ?? "",
    capacity: old?.capacity ?? String(system.plates.cell_capacity ?? ""),
    sensitivity: old?.sensitivity ?? String(system.plates.cell_sensitivity ?? ""),
    source: "plate",
    serial: "",
    why: "",
  });
  const fit = async () => {
    const body = {
      ...given,
      channel: given.channel || null,
      source: given.source as Schemas["CellIn"]["source"],
      instead_of: old?.id ?? null,
    };
    await asked(api.POST("/api/systems/{system_id}/cells", { params: { path: { system_id: system.id } }, body }));
    for (const key of ["cells", "system", "events"]) void cache.invalidateQueries({ queryKey: [key, system.id] });
    void cache.invalidateQueries({ queryKey: ["round"] });
  };
  return (
    <DialogForm
      title={old ? `Replace cell ${old.label}` : "Add a cell"}
      keep={old ? "Replace it" : "Add it"}
      onKeep={fit}
      onDone={onDone}
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
            {old ? (
              <TextField label="Why was it replaced?" {...common("why")} />
            ) : (
              <TextField label="Which cell, or where it stands" {...common("label")} />
            )}
            {!old && system.channels.length > 1 && (
              <ChoiceField
                label="Channel"
                options={system.channels.map((channel) => [channel.id, channel.name] as const)}
                {...common("channel")}
              />
            )}
            <TextField label="Capacity, such as 10 t" {...common("capacity")} />
            <TextField label="Sensitivity, such as 2 mV/V" {...common("sensitivity")} />
            <ChoiceField label="Read from" options={Object.entries(SOURCES)} {...common("source")} />
            <TextField label="Serial number" {...common("serial")} />
          </>
        );
      }}
    </DialogForm>
  );
}
