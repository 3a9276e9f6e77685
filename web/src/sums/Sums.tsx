import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import Button from "react-bootstrap/Button";
import Modal from "react-bootstrap/Modal";
import { useNavigate, useSearchParams } from "react-router";
import { openJob } from "../job/opening";
import { api, asked, type InputView, type Schemas } from "../api/client";
import { sumsQuery, useSystemNames } from "../api/queries";
import { core } from "../core/core";
import { Fault } from "../ui/Fault";
import { useHeld } from "../ui/held";
import { NotYet, Page } from "../ui/Layout";
import { figureOf, spoken } from "../ui/quantity";

type Sum = Schemas["SumView"];
type Typed = Record<string, { text: string; unit: string }>;

/** What is the number? A quick answer with no job, with its formula and the numbers in it. */
export function Sums() {
  const found = useQuery(sumsQuery);
  const [search, setSearch] = useSearchParams();
  if (!found.data) return <NotYet error={found.error} />;
  const sum = found.data.find((one) => one.key === search.get("sum")) ?? found.data[0]!;
  const groups = [...new Set(found.data.map((one) => one.group))];
  return (
    <Page title="Sums">
      <h1>Sums</h1>
      <div className="sums">
        <select
          className="form-select sums-choice"
          aria-label="Which sum"
          value={sum.key}
          onChange={(event) => setSearch({ sum: event.target.value })}
        >
          {groups.map((group) => (
            <optgroup key={group} label={group}>
              {found.data
                .filter((one) => one.group === group)
                .map((one) => (
                  <option key={one.key} value={one.key}>
                    {one.title}
                  </option>
                ))}
            </optgroup>
          ))}
        </select>
        <nav aria-label="Sums">
          {groups.map((group) => (
            <section key={group}>
              <h2>{group}</h2>
              {found.data
                .filter((one) => one.group === group)
                .map((one) => (
                  <button
                    key={one.key}
                    type="button"
                    aria-pressed={one.key === sum.key}
                    onClick={() => setSearch({ sum: one.key })}
                  >
                    {one.title}
                  </button>
                ))}
            </section>
          ))}
        </nav>
        <Working key={sum.key} sum={sum} />
      </div>
    </Page>
  );
}

/** The answer of the core on this device where it is there, else the server's: they are the same. */
async function workedOut(key: string, given: Typed): Promise<Schemas["Answer"]> {
  if (core.state.is === "ready") return core.call("sum", { key, given });
  return asked(api.POST("/api/sums/{sum_key}", { params: { path: { sum_key: key } }, body: given }));
}

/** A figure with its unit as it is spoken: `57 deg` is 57 °. */
const spokenText = (text: string) => {
  const { figure, unit } = figureOf(text, "");
  return unit ? `${figure} ${spoken(unit)}` : figure;
};

function Working({ sum }: { sum: Sum }) {
  const { typed, hold } = useHeld<Typed>(`sum ${sum.key}`, {});
  const [carrying, setCarrying] = useState(false);
  const asking = useDeferredValue(typed);
  const answer = useQuery({
    queryKey: ["sum", sum.key, asking],
    queryFn: () => workedOut(sum.key, asking),
    placeholderData: (before) => before,
  }).data;
  const set = (key: string, change: Partial<{ text: string; unit: string }>, units: string[]) => {
    const before = typed[key] ?? { text: "", unit: units[0] ?? "" };
    hold({ ...typed, [key]: { ...before, ...change } });
  };
  const empty = !Object.values(typed).some((one) => one.text.trim());
  const examples = sum.inputs.flatMap(({ key, title }) =>
    sum.example[key] ? [{ key, title, text: sum.example[key] }] : [],
  );
  const take = () =>
    hold(
      Object.fromEntries(
        examples.map(({ key, text }) => {
          const { figure, unit } = figureOf(text, "");
          return [key, { text: figure, unit }];
        }),
      ),
    );
  return (
    <section aria-label={sum.title}>
      <h2 className="mt-0">{sum.title}</h2>
      {empty && !!examples.length && (
        <div className="sum-example">
          <p>
            For example: {examples.map(({ title, text }) => `${title.toLowerCase()} ${spokenText(text)}`).join(", ")}.
          </p>
          <Button variant="outline-primary" onClick={take}>
            Try it with these
          </Button>
        </div>
      )}
      <div className="fields">
        {sum.inputs.map((input) => (
          <SumField
            key={input.key}
            input={input}
            typed={typed[input.key]}
            problem={answer?.problems[input.key]}
            onChange={(change) => set(input.key, change, input.units)}
          />
        ))}
      </div>
      <dl className="sum-lines" aria-live="polite">
        {answer?.lines.map((line) => (
          <div key={line.title}>
            <dt>{line.title}</dt>
            <dd>{line.figure}</dd>
            {line.formula && <small>= {line.formula}</small>}
          </div>
        ))}
      </dl>
      {!answer?.lines.length && <p className="soft pt-2">Type what you know; the answer stands here.</p>}
      {sum.method && (
        <Button variant="outline-primary" className="mt-3" onClick={() => setCarrying(true)}>
          Carry it into a job
        </Button>
      )}
      {carrying && <Carry sum={sum} typed={typed} onDone={() => setCarrying(false)} />}
    </section>
  );
}

interface FieldProps {
  input: InputView;
  typed?: { text: string; unit: string };
  problem?: string;
  onChange: (change: Partial<{ text: string; unit: string }>) => void;
}

function SumField({ input, typed, problem, onChange }: FieldProps) {
  const id = `sum-${input.key}`;
  return (
    <div className={`entry${problem ? " entry-wrong" : ""}`}>
      <label htmlFor={id}>{input.title}</label>
      <div className="entry-line">
        <input
          id={id}
          className="form-control"
          inputMode="decimal"
          autoComplete="off"
          value={typed?.text ?? ""}
          onChange={(event) => onChange({ text: event.target.value })}
          onKeyDown={(event) => {
            if (event.key !== "Enter") return;
            const all = [...(event.currentTarget.closest(".fields")?.querySelectorAll("input") ?? [])];
            all[all.indexOf(event.currentTarget) + (event.shiftKey ? -1 : 1)]?.focus();
          }}
        />
        {input.units.length > 1 ? (
          <select
            className="form-select unit-choice"
            aria-label={`Unit of ${input.title.toLowerCase()}`}
            value={typed?.unit || input.units[0]}
            onChange={(event) => onChange({ unit: event.target.value })}
          >
            {input.units.map((unit) => (
              <option key={unit} value={unit}>
                {spoken(unit)}
              </option>
            ))}
          </select>
        ) : (
          input.units[0] && <span className="unit">{spoken(input.units[0])}</span>
        )}
      </div>
      <div className="entry-says">{problem ?? input.why}</div>
    </div>
  );
}

/** Which system the figures go into, as a job of the method that this sum belongs to. */
function Carry({ sum, typed, onDone }: { sum: Sum; typed: Typed; onDone: () => void }) {
  const navigate = useNavigate();
  const [fault, setFault] = useState<unknown>(null);
  const { kinds } = sum;
  const systems = useSystemNames().data?.filter((system) => kinds.includes(system.kind)) ?? [];
  const carry = async (id: string) => {
    const system = systems.find((one) => one.id === id)!;
    const inputs = Object.fromEntries(
      Object.entries(sum.carries)
        .filter(([from]) => typed[from]?.text.trim())
        .map(([from, to]) => {
          const { text, unit } = typed[from]!;
          return [to, /^[\d.,\s+-]+$/.test(text) && unit ? `${text.trim()} ${unit}` : text.trim()];
        }),
    );
    try {
      navigate(`/jobs/${(await openJob(system, sum.method, undefined, inputs)).id}`);
    } catch (problem) {
      setFault(problem);
    }
  };
  return (
    <Modal show onHide={onDone} centered>
      <Modal.Header closeButton>
        <Modal.Title>Into a job on which system?</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <Fault of={fault} />
        {systems.map((system) => (
          <Button key={system.id} variant="outline-primary" className="w-100 mb-2" onClick={() => carry(system.id)}>
            {system.name}, {system.site}
          </Button>
        ))}
        {!systems.length && <p>No system of that kind is on record.</p>}
      </Modal.Body>
    </Modal>
  );
}
