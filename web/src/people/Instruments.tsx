import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { api, asked, type Schemas } from "../api/client";
import { useInstruments } from "../api/queries";
import { DialogForm } from "../ui/DialogForm";
import { TextField } from "../ui/TextField";

type Instrument = Schemas["InstrumentView"];

/** Kinds of instrument with settings of their own; a coded number gets a meaning for each digit. */
export function Instruments() {
  const found = useInstruments().data ?? [];
  const [changing, setChanging] = useState<Partial<Instrument> | null>(null);
  return (
    <section>
      <h2>Kinds of instrument</h2>
      <p>Settings that the set-up sheet asks for beyond the usual ones.</p>
      {found.map((one) => (
        <div key={one.id} className="cell-row">
          <span>
            <b>{one.name}</b>
            <small className="d-block soft">
              {one.fields.map((field) => field.title + (field.digits ? ` (${field.digits})` : "")).join(", ")}
            </small>
          </span>
          <Button variant="link" onClick={() => setChanging(one)} aria-label={`Change ${one.name}`}>
            Change
          </Button>
        </div>
      ))}
      <Button variant="outline-primary" className="mt-2" onClick={() => setChanging({ fields: [] })}>
        Add a kind
      </Button>
      {changing && <InstrumentForm instrument={changing} onDone={() => setChanging(null)} />}
    </section>
  );
}

function InstrumentForm({ instrument, onDone }: { instrument: Partial<Instrument>; onDone: () => void }) {
  const cache = useQueryClient();
  const [name, setName] = useState(instrument.name ?? "");
  const [fields, setFields] = useState([...(instrument.fields ?? []), { title: "", digits: "" }]);
  const set = (place: number, change: Partial<Schemas["ExtraField"]>) => {
    const next = fields.map((field, at) => (at === place ? { ...field, ...change } : field));
    setFields(next.at(-1)?.title ? [...next, { title: "", digits: "" }] : next);
  };
  const keep = async () => {
    const body = { id: instrument.id ?? null, name, fields: fields.filter((field) => field.title.trim()) };
    await asked(api.POST("/api/instruments", { body }));
    void cache.invalidateQueries({ queryKey: ["instruments"] });
  };
  return (
    <DialogForm title={instrument.name ?? "A kind of instrument"} keep="Keep" onKeep={keep} onDone={onDone} wide>
      {(problem) => (
        <>
          <TextField name="name" label="Name, in your own words" value={name} onChange={setName} problem={problem} />
          {fields.map((field, place) => (
            <div key={place} className="d-flex gap-2 mb-2">
              <Form.Control
                aria-label={`Setting ${place + 1}`}
                placeholder="setting"
                value={field.title}
                onChange={(event) => set(place, { title: event.target.value })}
              />
              <Form.Control
                aria-label={`Digits of setting ${place + 1}`}
                placeholder="digits: unit | filter | decimals"
                value={field.digits}
                onChange={(event) => set(place, { digits: event.target.value })}
              />
            </div>
          ))}
        </>
      )}
    </DialogForm>
  );
}
