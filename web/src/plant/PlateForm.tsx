import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { api, asked, Problem, type SystemView } from "../api/client";
import { useInstruments, useProfiles, useReferences } from "../api/queries";
import { Fault } from "../ui/Fault";

const CORRECTIONS: Record<string, string> = {
  factor: "a new factor",
  percent: "a change in per cent",
  reading: "the reading it should show",
  steps: "steps up or down",
};

type Given = Record<string, string>;

const begin = (system: SystemView): Given => ({
  name: system.name,
  material: system.material,
  serial: system.serial,
  notes: system.notes,
  correction: system.correction,
  factor_name: system.factor_name,
  factor: system.channels[0]?.factor ?? "",
  factor_decimals: String(system.factor_decimals),
  direction: system.direction,
  nominal_factor: system.nominal_factor,
  interval_days: String(system.interval_days),
  reference: system.reference ?? "",
  profile: system.profile,
  instrument: system.instrument ?? "",
  ...Object.fromEntries(
    system.plate_fields.map((plate) => [`plates.${plate.key}`, String(system.plates[plate.key] ?? "")]),
  ),
});

/** Everything that is on record of a system; each change is kept in its trail. */
export function PlateForm({ system, onDone }: { system: SystemView; onDone: () => void }) {
  const cache = useQueryClient();
  const references = useReferences().data ?? [];
  const profiles = useProfiles().data ?? [];
  const instruments = useInstruments().data ?? [];
  const [given, setGiven] = useState<Given>(() => begin(system));
  const [fault, setFault] = useState<unknown>(null);
  const problem = fault instanceof Problem ? fault : null;
  const set = (key: string) => (event: { target: { value: string } }) =>
    setGiven({ ...given, [key]: event.target.value });

  const keep = async (event: React.FormEvent) => {
    event.preventDefault();
    const was = begin(system);
    const changed = Object.keys(given).filter((key) => given[key] !== was[key]);
    const plates = changed.filter((key) => key.startsWith("plates."));
    const numbers = ["factor_decimals", "interval_days"];
    const body = {
      ...Object.fromEntries(
        changed
          .filter((key) => !key.startsWith("plates."))
          .map((key) => [
            key,
            numbers.includes(key)
              ? Number(given[key])
              : ["reference", "instrument"].includes(key)
                ? given[key] || null
                : given[key]!,
          ]),
      ),
      ...(plates.length ? { plates: Object.fromEntries(plates.map((key) => [key.slice(7), given[key]!])) } : {}),
    };
    try {
      const view = await asked(
        api.PATCH("/api/systems/{system_id}", { params: { path: { system_id: system.id } }, body }),
      );
      cache.setQueryData(["system", system.id], view);
      void cache.invalidateQueries({ queryKey: ["round"] });
      onDone();
    } catch (raised) {
      setFault(raised);
    }
  };
  const text = (key: string, label: string, hint = "") => (
    <Form.Group controlId={`plate-${key}`} key={key}>
      <Form.Label>{label}</Form.Label>
      <Form.Control value={given[key]} onChange={set(key)} isInvalid={!!problem?.at(key)} autoComplete="off" />
      {problem?.at(key) ? <p className="wrong-text">{problem.at(key)}</p> : hint && <Form.Text>{hint}</Form.Text>}
    </Form.Group>
  );
  const choice = (key: string, label: string, words: Record<string, string>) => (
    <Form.Group controlId={`plate-${key}`} key={key}>
      <Form.Label>{label}</Form.Label>
      <Form.Select value={given[key]} onChange={set(key)} isInvalid={!!problem?.at(key)}>
        {Object.entries(words).map(([value, said]) => (
          <option key={value} value={value}>
            {said}
          </option>
        ))}
      </Form.Select>
      {problem?.at(key) && <p className="wrong-text">{problem.at(key)}</p>}
    </Form.Group>
  );
  return (
    <Form onSubmit={keep}>
      {problem && <Fault of={new Problem(problem.status, problem.title, problem.detail, [])} />}
      <div className="plate-form">
        {text("name", "Name")}
        {text("material", "Material")}
        {text("serial", "Serial number")}
        {system.plate_fields.map((plate) =>
          text(
            `plates.${plate.key}`,
            plate.title,
            plate.units.length ? `in ${plate.units.slice(0, 4).join(", ")}` : "",
          ),
        )}
        {text("factor_name", "What its factor is called there")}
        {text("factor", `${system.factor_name}, now`)}
        {text("factor_decimals", "Decimals that it takes")}
        {choice("direction", "What the factor does", {
          multiplies: "multiplies the reading",
          divides: "divides the reading",
        })}
        {text("nominal_factor", "Factor it should be near")}
        {choice("correction", "Takes a correction as", CORRECTIONS)}
        {choice("reference", "Usual reference", {
          "": "none",
          ...Object.fromEntries(references.map((one) => [one.id, one.name])),
        })}
        {choice(
          "profile",
          "Limits",
          Object.fromEntries(profiles.map((one) => [one.key, `${one.title}, ${one.accept_words}`])),
        )}
        {instruments.length > 0 &&
          choice("instrument", "Kind of instrument", {
            "": "not said",
            ...Object.fromEntries(instruments.map((one) => [one.id, one.name])),
          })}
        {text("interval_days", "Days between visits")}
      </div>
      <Form.Group controlId="plate-notes" className="mt-3">
        <Form.Label>The way in and out of its set-up, in your own words</Form.Label>
        <Form.Control as="textarea" rows={2} value={given.notes} onChange={set("notes")} />
      </Form.Group>
      <div className="d-flex gap-3 mt-3">
        <Button type="submit">Keep</Button>
        <Button variant="link" onClick={onDone}>
          Leave as it was
        </Button>
      </div>
    </Form>
  );
}
