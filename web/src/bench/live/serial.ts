import { useCallback, useEffect, useRef, useState } from "react";
import { api, asked } from "../../api/client";
import type { LinkOfJob, Reading } from "./types";

/** The browser's serial ports; not every browser has them. */
const portsOf = () => (navigator as Partial<Navigator>).serial;

const TELL = 400;
const KEPT_SECONDS = 4;
const MOST_LINES = 60;
const LONGEST = 400;
const SILENT = 1_700;

export const NO_SERIAL =
  "This browser reaches no serial port. Use Chromium or Edge on a computer, or a serial server on the network.";

/** Reads the serial port of this device; the server says what the lines mean, by the pattern of that instrument. */
export function useSerial(link: LinkOfJob | null) {
  const [reading, setReading] = useState<Reading | null>(null);
  const [silent, setSilent] = useState(true);
  const [fault, setFault] = useState("");
  const [port, setPort] = useState<SerialPort | null>(null);
  const lines = useRef<[number, string][]>([]);
  const id = link?.id;

  const plug = useCallback(async () => {
    const ports = portsOf();
    if (!ports) return setFault(NO_SERIAL);
    try {
      const found = await ports.requestPort();
      await found.open({ baudRate: link?.baud ?? 9600 });
      setFault("");
      setPort(found);
    } catch {
      setFault("The port was not opened. Plug the instrument in, and choose its port.");
    }
  }, [link?.baud]);

  useEffect(() => {
    if (!port?.readable || !id) return;
    let over = false;
    const reader = port.readable.getReader();
    const began = performance.now();
    const take = async () => {
      const text = new TextDecoder();
      let rest = "";
      try {
        for (;;) {
          const { done, value } = await reader.read();
          if (done || over) break;
          const came = (rest + text.decode(value, { stream: true })).split(/\r\n|\r|\n/);
          rest = (came.pop() ?? "").slice(-LONGEST);
          const now = (performance.now() - began) / 1000;
          const fresh = came
            .filter((line) => line.trim())
            .map((line): [number, string] => [now, line.slice(0, LONGEST)]);
          lines.current = [...lines.current, ...fresh].filter(([at]) => now - at < KEPT_SECONDS).slice(-MOST_LINES);
        }
      } catch {
        // Pulled out: what follows says so.
      }
      if (!over) {
        setFault("The port is gone. Plug the instrument in again, and choose its port.");
        setPort(null);
      }
    };
    void take();
    let told = 0;
    let heard = Date.now();
    const tell = setInterval(async () => {
      const latest = lines.current.at(-1)?.[0] ?? 0;
      setSilent(Date.now() - heard > SILENT);
      if (latest <= told) return;
      told = latest;
      const params = { path: { link_id: id } };
      const said = await asked(api.POST("/api/links/{link_id}/read", { params, body: { lines: lines.current } })).catch(
        () => null,
      );
      if (!said || over) return;
      if (said.readouts.length) heard = Date.now();
      setReading(said);
    }, TELL);
    return () => {
      over = true;
      clearInterval(tell);
      lines.current = [];
      void reader
        .cancel()
        .catch(() => undefined)
        .then(() => port.close())
        .catch(() => undefined);
      setReading(null);
      setSilent(true);
    };
  }, [id, port]);

  const can = !!portsOf();
  return { reading, silent, fault: fault || (link && !can ? NO_SERIAL : ""), open: !!port || !can, plug };
}
