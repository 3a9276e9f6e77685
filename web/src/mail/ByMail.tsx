import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { Fault } from "../ui/Fault";

const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

type Wish = Schemas["WishView"];

/** What one would like to hear of by mail, on which days and at what hour; kept as it is chosen. */
export function ByMail() {
  const cache = useQueryClient();
  const found = useQuery({ queryKey: ["my mail"], queryFn: () => asked(api.GET("/api/me/mail")) });
  const [fault, setFault] = useState<unknown>(null);
  const wish = found.data;
  if (!wish) return <Fault of={found.error} />;
  const keep = async (change: Partial<Wish>) => {
    const next = { ...wish, ...change };
    cache.setQueryData(["my mail"], next);
    const { days, hour, sites, faults, chain } = next;
    try {
      cache.setQueryData(
        ["my mail"],
        await asked(api.PUT("/api/me/mail", { body: { days, hour, sites, faults, chain } })),
      );
      setFault(null);
    } catch (problem) {
      setFault(problem);
      void cache.invalidateQueries({ queryKey: ["my mail"] });
    }
  };
  const toggled = <T,>(all: readonly T[], one: T) =>
    all.includes(one) ? all.filter((other) => other !== one) : [...all, one];
  const sites = wish.sites ?? [];
  return (
    <section className="by-mail">
      <h2>By mail</h2>
      <p>
        To {wish.address}: what is due on the days that you choose, one line a machine, with the calendar.{" "}
        {wish.leads && <Link to="/mails">The mails that were sent</Link>}
      </p>
      <fieldset className="mail-days" aria-label="What is due, on these days">
        {DAYS.map((name, day) => (
          <Button
            key={name}
            variant={wish.days.includes(day) ? "primary" : "outline-primary"}
            aria-pressed={wish.days.includes(day)}
            onClick={() => void keep({ days: toggled(wish.days, day) })}
          >
            {name}
          </Button>
        ))}
        <Form.Group controlId="mail-hour">
          <Form.Label>at</Form.Label>
          <Form.Select value={wish.hour} onChange={(event) => void keep({ hour: Number(event.target.value) })}>
            {Array.from({ length: 24 }, (_, hour) => (
              <option key={hour} value={hour}>
                {String(hour).padStart(2, "0")}:00
              </option>
            ))}
          </Form.Select>
        </Form.Group>
      </fieldset>
      <div className="ticks">
        {wish.choices.length > 1 &&
          wish.choices.map((site) => (
            <Form.Check
              key={site.id}
              id={`mail-${site.id}`}
              label={site.name}
              checked={!sites.length || sites.includes(site.id)}
              onChange={() => {
                const all = wish.choices.map((one) => one.id);
                const next = toggled(sites.length ? sites : all, site.id);
                void keep({ sites: next.length === all.length ? [] : next });
              }}
            />
          ))}
        <Form.Check
          id="mail-faults"
          label="A fault is found, at once"
          checked={wish.faults}
          onChange={() => void keep({ faults: !wish.faults })}
        />
        {wish.leads && (
          <Form.Check
            id="mail-chain"
            label="The night’s walk finds that the chain of records does not fit"
            checked={wish.chain}
            onChange={() => void keep({ chain: !wish.chain })}
          />
        )}
      </div>
      <Fault of={fault} />
    </section>
  );
}
