import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { useMe } from "../api/queries";
import { Fault } from "../ui/Fault";

const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

const KEY = ["my mail"];

type Wish = Schemas["WishView"];

/** What one would like to hear of by mail, on which days and at what hour; kept as it is chosen. */
export function ByMail() {
  const cache = useQueryClient();
  const works = useMe().data?.works;
  const found = useQuery({ queryKey: KEY, queryFn: () => asked(api.GET("/api/me/mail")) });
  // What is chosen is shown at once, and kept one after the other, so that the last of it stands.
  const [chosen, setChosen] = useState<Wish | null>(null);
  const latest = useRef<Wish | null>(null);
  const keeping = useMutation({
    scope: { id: KEY[0]! },
    mutationFn: (body: Schemas["WishIn"]) => asked(api.PUT("/api/me/mail", { body })),
    onSuccess: (answer) => cache.setQueryData(KEY, answer),
    onError: () => {
      setChosen((latest.current = null));
      void cache.invalidateQueries({ queryKey: KEY });
    },
  });
  const wish = chosen ?? found.data;
  if (!wish) return <Fault of={found.error} />;
  const keep = (change: (now: Wish) => Partial<Wish>) => {
    const now = latest.current ?? wish;
    const next = { ...now, ...change(now) };
    setChosen((latest.current = next));
    const { days, hour, sites, faults, looks, chain } = next;
    keeping.mutate({ days, hour, sites, faults, looks, chain });
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
            onClick={() => keep((now) => ({ days: toggled(now.days, day) }))}
          >
            {name}
          </Button>
        ))}
        <Form.Group controlId="mail-hour">
          <Form.Label>at</Form.Label>
          <Form.Select value={wish.hour} onChange={(event) => keep(() => ({ hour: Number(event.target.value) }))}>
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
              onChange={() =>
                keep((now) => {
                  const all = now.choices.map((one) => one.id);
                  const next = toggled(now.sites?.length ? now.sites : all, site.id);
                  // Of none at all there would be nothing to tell: the last one stays.
                  if (!next.length) return {};
                  return { sites: next.length === all.length ? [] : next };
                })
              }
            />
          ))}
        {works && (
          <Form.Check
            id="mail-faults"
            label="A fault is found, at once"
            checked={wish.faults}
            onChange={() => keep((now) => ({ faults: !now.faults }))}
          />
        )}
        {wish.leads && (
          <Form.Check
            id="mail-looks"
            label="A record to look at: closed with a reason, provisional, or put right"
            checked={wish.looks}
            onChange={() => keep((now) => ({ looks: !now.looks }))}
          />
        )}
        {wish.leads && (
          <Form.Check
            id="mail-chain"
            label="The night’s walk finds that the chain of records does not fit"
            checked={wish.chain}
            onChange={() => keep((now) => ({ chain: !now.chain }))}
          />
        )}
      </div>
      <Fault of={keeping.error} />
    </section>
  );
}
