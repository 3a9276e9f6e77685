import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { Fault } from "../ui/Fault";

const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

const KEY = ["my mail"];

type Wish = Schemas["WishView"];

/** What one would like to hear of by mail, on which days and at what hour; kept as it is chosen. */
export function ByMail() {
  const cache = useQueryClient();
  const found = useQuery({ queryKey: KEY, queryFn: () => asked(api.GET("/api/me/mail")) });
  // One after the other, in the order of the choices, so that the last one stands.
  const keeping = useMutation({
    mutationKey: KEY,
    scope: { id: KEY[0]! },
    mutationFn: (body: Schemas["WishIn"]) => asked(api.PUT("/api/me/mail", { body })),
    onSuccess: (answer) => cache.isMutating({ mutationKey: KEY }) === 1 && cache.setQueryData(KEY, answer),
    onError: () => cache.invalidateQueries({ queryKey: KEY }),
  });
  const wish = found.data;
  if (!wish) return <Fault of={found.error} />;
  const keep = (change: (now: Wish) => Partial<Wish>) => {
    // What was chosen a moment ago may not be drawn yet.
    const now = cache.getQueryData<Wish>(KEY) ?? wish;
    const next = { ...now, ...change(now) };
    cache.setQueryData(KEY, next);
    const { days, hour, sites, faults, chain } = next;
    keeping.mutate({ days, hour, sites, faults, chain });
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
                  return { sites: next.length === all.length ? [] : next };
                })
              }
            />
          ))}
        <Form.Check
          id="mail-faults"
          label="A fault is found, at once"
          checked={wish.faults}
          onChange={() => keep((now) => ({ faults: !now.faults }))}
        />
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
