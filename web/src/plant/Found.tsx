import type { SystemView } from "../api/client";
import { day } from "../ui/words";

/** What was found wrong with a machine, and when. */
export function Found({ system }: { system: SystemView }) {
  if (!system.faults.length) return null;
  return (
    <section>
      <h2>What was found</h2>
      <ul className="found-faults">
        {system.faults.map((fault) => (
          <li key={fault.at + fault.title}>
            <span className="date">{day(fault.at)}</span>
            <span>
              {fault.title[0]!.toUpperCase() + fault.title.slice(1)}
              <small>
                {fault.put_right ? "put right in that visit" : "left for repair"}, by {fault.who}
              </small>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
