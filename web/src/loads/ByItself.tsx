import { useMutation } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import { api, asked, type Schemas, type SystemView } from "../api/client";
import { useStream } from "../bench/live/live";
import { Fault } from "../ui/Fault";
import { spoken } from "../ui/quantity";

interface Props {
  system: SystemView;
  channel: string;
  watch: Schemas["WatchView"] | null;
  onChanged: () => unknown;
}

/** A live weight keeps the log: the server watches it, whether a page is open or not. */
export function ByItself({ system, channel, watch, onChanged }: Props) {
  const links = system.links.filter((one) => one.way === "network");
  const { reading, silent } = useStream(watch ? `/api/links/${watch.link}/live` : null);
  const params = { path: { system_id: system.id } };
  const begin = useMutation({
    mutationFn: (link: string) =>
      asked(api.POST("/api/systems/{system_id}/loads/watch", { params, body: { link, channel } })),
    onSuccess: onChanged,
  });
  const end = useMutation({
    mutationFn: () =>
      asked(api.DELETE("/api/systems/{system_id}/loads/watch", { params: { ...params, query: { channel } } })),
    onSuccess: onChanged,
  });
  if (!links.length && !watch) return null;
  const weight = reading?.readouts[0];
  return (
    <section className="by-itself" aria-label="Live weight">
      <Fault of={begin.error ?? end.error} />
      {watch ? (
        <>
          {silent || !weight ? (
            <p className={silent ? "live-silent" : "m-0"} role={silent ? "alert" : undefined}>
              {silent ? `${watch.name} is silent. Loads are begun and stored by hand.` : "Listening."}
              {silent && reading?.fault && <small className="d-block fw-normal">{reading.fault}</small>}
            </p>
          ) : (
            <>
              <span className="live-figure">
                <b>{weight.text}</b> <small>{spoken(weight.unit)}</small>
                <i>{watch.name}</i>
              </span>
              <span className={weight.steady ? "steady" : "unsteady"}>{weight.steady ? "steady" : "moving"}</span>
              <span className="soft">
                Loads begin and end by its steady changes, also while this page is closed. Let by {watch.by}.
              </span>
            </>
          )}
          <Button variant="link" disabled={end.isPending} onClick={() => end.mutate()}>
            By hand again
          </Button>
        </>
      ) : (
        links.map((one) => (
          <Button
            key={one.id}
            variant="outline-primary"
            disabled={begin.isPending}
            onClick={() => begin.mutate(one.id)}
          >
            Let {one.name} keep the log
          </Button>
        ))
      )}
    </section>
  );
}
