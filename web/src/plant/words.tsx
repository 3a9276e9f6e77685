import type { Call, Schemas, SystemRow } from "../api/client";
import { CallShape } from "../ui/CallShape";

/** The call whose shape stands for a system's state: what someone would say of it now. */
const SHAPE: Record<SystemRow["state"], Call> = {
  "in-order": "leave",
  "in-part": "leave",
  limited: "leave",
  "not-tested": "not-ready",
  "not-valid": "not-ready",
  provisional: "not-ready",
  stale: "not-ready",
  "not-confirmed": "keep-testing",
  fault: "find-fault",
  "out-of-service": "find-fault",
};

export function StateShape({ system, size = 30 }: { system: SystemRow; size?: number }) {
  const open = system.open_jobs[0];
  return (
    <CallShape call={open ? open.call || "not-ready" : SHAPE[system.state]} have={1} down={!!open?.down} size={size} />
  );
}

/** The last error against the accept limit, as one mark in a band. */
export function LastStrip({ system }: { system: SystemRow }) {
  const last = system.last;
  if (!last || last.error == null || !system.accept_percent) return <div className="stop-strip" />;
  const reach = system.accept_percent * 2.6;
  const at = (percent: number) => `${50 + (Math.max(-reach, Math.min(reach, percent)) / reach) * 48}%`;
  return (
    <div className="stop-strip" role="img" aria-label={`last error ${last.error.toFixed(2)} per cent`}>
      <svg>
        <rect
          x={at(-system.accept_percent)}
          width={`${(system.accept_percent / reach) * 96}%`}
          y="0"
          height="100%"
          fill="var(--band)"
        />
        <line x1="50%" x2="50%" y1="0" y2="100%" stroke="var(--aside)" />
        <line x1={at(last.error)} x2={at(last.error)} y1="22%" y2="78%" stroke="var(--ink)" strokeWidth="6" />
      </svg>
    </div>
  );
}

/** Whether a system answers to what was typed into a search. */
export function answersTo(system: SystemRow, find: string): boolean {
  const text = `${system.name} ${system.material} ${system.site.name} ${system.kind_name}`.toLowerCase();
  return find
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}

/** The factor after a job, and the one before it where it was changed. */
export function FactorChange({ done }: { done: Pick<Schemas["LastDone"], "factor_before" | "factor_after"> }) {
  return (
    <>
      {done.factor_after || "–"}
      {done.factor_before && done.factor_before !== done.factor_after && (
        <div className="soft">was {done.factor_before}</div>
      )}
    </>
  );
}
