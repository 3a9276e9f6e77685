import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useStream } from "../bench/live/live";
import type { SystemView } from "../api/client";
import { spoken } from "../ui/quantity";

/** A live weight keeps the log: a load begins and ends by a steady change of it, for as long as this is on. */
export function ByItself({ system, channel, onLoads }: { system: SystemView; channel: string; onLoads: () => void }) {
  const links = system.links.filter((one) => one.way === "network");
  const key = `loads ${system.id}`;
  const [link, setLink] = useState<string | null>(() => localStorage.getItem(key));
  const on = links.find((one) => one.id === link);
  const address = on ? `/api/systems/${system.id}/loads/live?link=${on.id}&channel=${channel}` : null;
  const { reading, silent } = useStream(address, onLoads);
  if (!links.length) return null;
  const turn = (id: string | null) => {
    if (id) localStorage.setItem(key, id);
    else localStorage.removeItem(key);
    setLink(id);
  };
  const weight = reading?.readouts[0];
  return (
    <section className="by-itself" aria-label="Live weight">
      {on ? (
        <>
          {silent || !weight ? (
            <p className={silent ? "live-silent" : "m-0"} role={silent ? "alert" : undefined}>
              {silent ? `${on.name} is silent. Loads are begun and stored by hand.` : "Listening."}
              {silent && reading?.fault && <small className="d-block fw-normal">{reading.fault}</small>}
            </p>
          ) : (
            <>
              <span className="live-figure">
                <b>{weight.text}</b> <small>{spoken(weight.unit)}</small>
                <i>{on.name}</i>
              </span>
              <span className={weight.steady ? "steady" : "unsteady"}>{weight.steady ? "steady" : "moving"}</span>
              <span className="soft">Loads begin and end by its steady changes.</span>
            </>
          )}
          <Button variant="link" onClick={() => turn(null)}>
            By hand again
          </Button>
        </>
      ) : (
        links.map((one) => (
          <Button key={one.id} variant="outline-primary" onClick={() => turn(one.id)}>
            Let {one.name} keep the log
          </Button>
        ))
      )}
    </section>
  );
}
