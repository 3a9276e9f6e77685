import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import { api, asked, type Schemas } from "../../api/client";
import { useBench } from "../../job/useJob";
import { Fault } from "../../ui/Fault";
import { useLive } from "../live/live";
import { type Look, lookedAt, notedAt } from "./looking";

const WHOLE = 60;
const LEAST = 20;
const [MOST_FIGURES, MOST_READINGS] = [12, 2000];

/** Watches what the instrument shows while nothing is done to it, and answers a look by what it did. */
export function Watch({ look }: { look: Look }) {
  const bench = useBench();
  const { reading, silent } = useLive();
  const [begun, setBegun] = useState<number | null>(null);
  const [seconds, setSeconds] = useState(0);
  const heard = useRef(new Map<string, Schemas["FigureWatched"]["readings"]>());
  const worked = useMutation({
    mutationFn: () => {
      const figures = [...heard.current].map(([name, readings]) => ({ name, readings }));
      return asked(api.POST("/api/readings/watched", { body: { figures } }));
    },
    onSuccess: (found) => {
      const running = found.filter((one) => !one.stands);
      const said = (running.length ? running : found).map((one) => one.text).join(" ");
      void bench.enter({ path: notedAt(look.key), text: said });
      void bench.enter({ path: lookedAt(look.key), text: running.length ? "not-fine" : "fine" });
    },
  });
  const end = () => {
    setBegun(null);
    worked.mutate();
  };
  useEffect(() => {
    if (begun === null || !reading) return;
    const since = (performance.now() - begun) / 1000;
    for (const one of reading.readouts.slice(0, MOST_FIGURES)) {
      const readings = heard.current.get(one.title) ?? [];
      if (!one.fault && readings.length < MOST_READINGS) readings.push([since, one.capture, one.unit]);
      heard.current.set(one.title, readings);
    }
    setSeconds(Math.floor(since));
    if (since >= WHOLE) end();
    // Each reading counts once, whatever else is drawn anew.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [reading]);
  if (silent || !reading?.readouts.length) return null;
  if (begun === null)
    return (
      <>
        <Button
          disabled={worked.isPending}
          onClick={() => {
            heard.current = new Map();
            setSeconds(0);
            setBegun(performance.now());
          }}
        >
          Watch it for a minute
        </Button>
        {worked.error && <Fault of={worked.error} />}
      </>
    );
  return (
    <>
      <span role="timer" aria-label="Watched for">
        {seconds} s of {WHOLE}
      </span>
      <Button variant="outline-primary" disabled={seconds < LEAST} onClick={end}>
        That is enough
      </Button>
      <Button variant="link" onClick={() => setBegun(null)}>
        Leave it
      </Button>
    </>
  );
}
