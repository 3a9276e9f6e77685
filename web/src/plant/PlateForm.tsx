import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { api, asked, Problem, type SystemView } from "../api/client";
import { systemQuery, useInstruments, useProfiles, useReferences } from "../api/queries";
import { Fault } from "../ui/Fault";
import { ChoiceField, TextField } from "../ui/TextField";

const CORRECTIONS: Record<SystemView["correction"], string> = {
  factor: "a new factor",
  percent: "a change in per cent",
  reading: "the reading it should show",
  steps: "steps up or down",
};

const DIRECTIONS: Record<SystemView["direction"], string> = {
  multiplies: "multiplies the reading",
  divides: "divides the reading",
};

type Given = Record<string, string>;

const PLATES = "plates.";
const NUMBERS = ["factor_decimals"];
const NAMED = ["reference", "instrument"];

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
  reference: system.reference ?? "",
  profile: system.profile,
  instrument: system.instrument ?? "",
  ...Object.fromEntries(
    system.plate_fields.map((plate) => [`plates.${plate.key}`, String(system.plates[plate.key] ?? "")]),
  ),
});

/** What was changed, as the server takes it. */
function changesIn(given: Given, was: Given) {
  const changed = Object.keys(given).filter((key) => given[key] !== was[key]);
  const plates = changed.filter((key) => key.startsWith(PLATES));
  const asIs = (key: string) =>
    NUMBERS.includes(key) ? Number(given[key]) : NAMED.includes(key) ? given[key] || null : given[key]!;
  const rest = changed.filter((key) => !key.startsWith(PLATES)).map((key) => [key, asIs(key)]);
  const typed = plates.map((key) => [key.slice(PLATES.length), given[key]!]);
  return {
    ...Object.fromEntries(rest),
    ...(typed.length ? { plates: Object.fromEntries(typed) } : {}),
    // What stood there when the form was opened: what somebody else typed meanwhile is not written over unseen.
    before: Object.fromEntries(changed.map((key) => [key, was[key] ?? ""])),
  };
}

/** Everything that is on record of a system; each change is kept in its trail. */
export function PlateForm({ system, onDone }: { system: SystemView; onDone: () => void }) {
  const cache = useQueryClient();
  const references = useReferences().data ?? [];
  const profiles = useProfiles().data ?? [];
  const instruments = useInstruments().data ?? [];
  const [given, setGiven] = useState<Given>(() => begin(system));
  const [was, setWas] = useState<Given>(() => begin(system));
  const [fault, setFault] = useState<unknown>(null);
  /** What somebody else typed meanwhile in the fields that this form would change. */
  const [theirs, setTheirs] = useState<Given | null>(null);
  const problem = fault instanceof Problem ? fault : null;

  const keep = async (event: React.FormEvent) => {
    event.preventDefault();
    const params = { path: { system_id: system.id } };
    try {
      await asked(api.PATCH("/api/systems/{system_id}/record", { params, body: changesIn(given, was) }));
      void cache.invalidateQueries({ queryKey: ["round"] });
      await cache.invalidateQueries({ queryKey: ["system", system.id] });
      onDone();
    } catch (raised) {
      setFault(raised);
      if (raised instanceof Problem && raised.status === 409) {
        // What the other one typed is seen now: kept once more, one's own takes its place.
        const fresh = begin(await cache.fetchQuery({ ...systemQuery(system.id), staleTime: 0 }));
        const seen = raised.errors.map(({ path }) => [path, fresh[path] ?? ""]);
        setWas({ ...was, ...Object.fromEntries(seen) });
        setTheirs(Object.fromEntries(seen) as Given);
      }
    }
  };
  const takeTheirs = () => {
    setGiven({ ...given, ...theirs });
    setTheirs(null);
    setFault(null);
  };
  const common = (key: string) => ({
    name: key,
    value: given[key] ?? "",
    onChange: (value: string) => setGiven({ ...given, [key]: value }),
    problem,
  });
  const text = (key: string, label: string, hint = "") => (
    <TextField key={key} label={label} hint={hint} {...common(key)} />
  );
  const choice = (key: string, label: string, options: readonly (readonly [string, string])[]) => (
    <ChoiceField key={key} label={label} options={options} {...common(key)} />
  );
  return (
    <Form onSubmit={keep} noValidate>
      {problem ? <Fault of={new Problem(problem.status, problem.title, problem.detail, [])} /> : <Fault of={fault} />}
      <div className="plate-form">
        {text("name", "Name")}
        {text("material", "Material")}
        {text("serial", "Serial number")}
        {system.plate_fields.map((plate) =>
          text(PLATES + plate.key, plate.title, plate.units.length ? `in ${plate.units.slice(0, 4).join(", ")}` : ""),
        )}
        {text("factor_name", "What its factor is called there")}
        {text("factor", `${system.factor_name}, now`)}
        {text("factor_decimals", "Decimals that it takes")}
        {choice("direction", "What the factor does", Object.entries(DIRECTIONS))}
        {text("nominal_factor", "Factor it should be near")}
        {choice("correction", "Takes a correction as", Object.entries(CORRECTIONS))}
        {choice("reference", "Usual reference", [
          ["", "none"],
          ...references.map((one) => [one.id, one.name] as const),
        ])}
        {choice(
          "profile",
          "Limits",
          profiles.map((one) => [one.key, `${one.title}, ${one.accept_words}`] as const),
        )}
        {instruments.length > 0 &&
          choice("instrument", "Kind of instrument", [
            ["", "not said"],
            ...instruments.map((one) => [one.id, one.name] as const),
          ])}
      </div>
      <Form.Group controlId="plate-notes" className="mt-3">
        <Form.Label>The way in and out of its set-up, in your own words</Form.Label>
        <Form.Control
          as="textarea"
          rows={2}
          value={given.notes}
          onChange={(event) => setGiven({ ...given, notes: event.target.value })}
        />
      </Form.Group>
      <div className="d-flex gap-3 mt-3">
        <Button type="submit">{theirs ? "Keep mine" : "Keep"}</Button>
        {theirs && (
          <Button variant="outline-primary" onClick={takeTheirs}>
            Take theirs
          </Button>
        )}
        <Button variant="link" onClick={onDone}>
          Leave as it was
        </Button>
      </div>
    </Form>
  );
}
