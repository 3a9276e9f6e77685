import type { Call, Schemas } from "../api/client";
import { CallShape } from "../ui/CallShape";

const WORDS: Record<Call, string> = {
  "not-ready": "not ready",
  "keep-testing": "keep testing",
  "find-fault": "find the fault",
  adjust: "adjust",
  leave: "leave alone",
};

/** The call as found and, where it came to another, as left. */
export function Calls({
  done,
  size = 22,
}: {
  done: Pick<Schemas["LastDone"], "call" | "call_found" | "down" | "provisional">;
  size?: number;
}) {
  const found = done.call_found || done.call;
  const calls = [found, ...(done.call && done.call !== found ? [done.call] : [])].filter((call) => call !== "");
  if (!calls.length) return <>–</>;
  return (
    <span
      className="calls"
      role="img"
      aria-label={calls.map((call) => WORDS[call]).join(", then ") + (done.provisional ? ", provisional" : "")}
    >
      {calls.map((call, place) => (
        <span key={call}>
          {place > 0 && <i aria-hidden="true">→</i>}
          <CallShape call={call} down={done.down} have={3} size={size} provisional={done.provisional} />
        </span>
      ))}
    </span>
  );
}
