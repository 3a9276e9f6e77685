import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { api, asked, Problem, type Schemas, type SystemRow } from "../api/client";
import { spoken } from "../ui/quantity";
import { ago } from "../ui/words";

const NOW: Schemas["ZeroView"]["urgency"][] = ["due", "overdue", "unknown"];

/** Zeros to look at today: `z`, what it shows, Enter; and on to the next. */
export function ZeroChecks({ systems }: { systems: SystemRow[] }) {
  const cache = useQueryClient();
  const [done, setDone] = useState<Record<string, Schemas["ZeroView"]>>({});
  const box = useRef<HTMLElement>(null);
  const listed = systems.filter((system) => system.zero && (NOW.includes(system.zero.urgency) || done[system.id]));
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (event.key !== "z" || event.ctrlKey || event.metaKey || event.target instanceof HTMLInputElement) return;
      const first = box.current?.querySelector<HTMLInputElement>("input");
      if (!first) return;
      event.preventDefault();
      first.focus();
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  }, []);
  // The next one is in hand as soon as one is done.
  useEffect(() => {
    if (Object.keys(done).length) box.current?.querySelector<HTMLInputElement>("input")?.focus();
  }, [done]);
  if (!listed.length) return null;
  const open = listed.filter((system) => !done[system.id]).length;
  return (
    <section className="zero-list" ref={box} aria-label="Zeros to look at">
      <h2>
        Zeros to look at
        <small>
          {open ? `${open} of ${listed.length} still to do` : "all looked at"}{" "}
          <span className="zero-key">
            · <kbd>z</kbd> to begin
          </span>
        </small>
      </h2>
      {listed.map((system) => (
        <Check
          key={system.id}
          system={system}
          done={done[system.id]}
          onDone={(zero) => {
            setDone((held) => ({ ...held, [system.id]: zero }));
            void cache.invalidateQueries({ queryKey: ["round"] });
          }}
        />
      ))}
    </section>
  );
}

interface Props {
  system: SystemRow;
  done?: Schemas["ZeroView"];
  onDone: (zero: Schemas["ZeroView"]) => void;
}

function Check({ system, done, onDone }: Props) {
  const [text, setText] = useState("");
  const [said, setSaid] = useState("");
  const id = useRef(crypto.randomUUID());
  const zero = done ?? system.zero!;
  const keep = async (event: React.FormEvent) => {
    event.preventDefault();
    if (!text.trim()) return;
    const body = { id: id.current, text: text.trim(), unit: zero.unit, at: new Date().toISOString() };
    try {
      onDone(
        await asked(
          api.POST("/api/systems/{system_id}/zero-checks", { params: { path: { system_id: system.id } }, body }),
        ),
      );
      setSaid("");
    } catch (raised) {
      const problem = raised as Problem;
      if (problem.status) id.current = crypto.randomUUID();
      setSaid(problem.errors[0]?.text ?? problem.message);
    }
  };
  return (
    <form className="zero-row" onSubmit={keep} noValidate>
      <span>
        <b>{system.name}</b>
        <small>
          {zero.last ? `last ${zero.last}, ${zero.at ? ago(zero.at) : ""}` : "not looked at yet"}
          {zero.band && ` · holds within ${zero.band}`}
        </small>
      </span>
      {done ? (
        <span className={done.holds ? "good-text" : "wrong-text"} role="status">
          <b>{done.last}</b>, {done.holds ? "holds" : "off"}
          {!done.holds && (
            <small>
              <Link to={`/systems/${system.id}`}>find out why, and run its zero</Link>
            </small>
          )}
        </span>
      ) : (
        <span className="zero-entry">
          <input
            className="form-control"
            inputMode="decimal"
            autoComplete="off"
            aria-label={`Zero of ${system.name}, empty`}
            aria-invalid={said ? true : undefined}
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          <span className="unit">{spoken(zero.unit)}</span>
        </span>
      )}
      {said && (
        <small className="wrong-text" role="alert">
          {said}
        </small>
      )}
    </form>
  );
}
