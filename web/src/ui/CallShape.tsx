import type { Call } from "../api/client";

/** The five calls as shapes of their own, so that none is told by colour alone. */

const COLOUR: Record<Call, string> = {
  "not-ready": "var(--ready)",
  "keep-testing": "var(--keep)",
  "find-fault": "var(--fault)",
  adjust: "var(--adjust)",
  leave: "var(--leave)",
};

interface Props {
  call: Call;
  /** For `adjust`: the way the reading will go. */
  down?: boolean;
  /** For `keep-testing`: runs in the set, and runs wanted. */
  have?: number;
  want?: number;
  size?: number;
  /** For `leave`: it stands on figures that were not tried; its bar is open. */
  provisional?: boolean;
}

export const callColour = (call: Call) => COLOUR[call];

export function CallShape({ call, down = false, have = 0, want = 3, size = 40, provisional }: Props) {
  const colour = callColour(call);
  return (
    <svg className="shape" width={size} height={size} viewBox="0 0 40 40" aria-hidden="true">
      {call === "adjust" && <path d={down ? "M20 37 37 4H3Z" : "M20 3 37 36H3Z"} fill={colour} />}
      {call === "leave" &&
        (provisional ? (
          <path d="M2.5 14.5h35v11h-35z" fill="none" stroke={colour} strokeWidth="3" strokeDasharray="6 4" />
        ) : (
          <path d="M1 13h38v14H1z" fill={colour} />
        ))}
      {call === "find-fault" && <path d="M20 1 37 20 20 39 3 20Z" fill={colour} />}
      {call === "keep-testing" && <Ring colour={colour} have={have} want={want} />}
      {call === "not-ready" && <path d="M14 5H5v30h30V5h-9" fill="none" stroke={colour} strokeWidth="4" />}
    </svg>
  );
}

/** A ring of as many arcs as runs are wanted; those that are in are thick. */
function Ring({ colour, have, want }: { colour: string; have: number; want: number }) {
  const arcs = Math.min(Math.max(want, 2), 12);
  const at = (turn: number) => `${20 + 15 * Math.sin(turn * 2 * Math.PI)} ${20 - 15 * Math.cos(turn * 2 * Math.PI)}`;
  return (
    <g fill="none" stroke={colour}>
      {Array.from({ length: arcs }, (_, number) => {
        const gap = 0.09 / arcs + 0.02;
        const from = at(number / arcs + gap);
        const to = at((number + 1) / arcs - gap);
        const filled = number < Math.min(have, arcs - 1) || have >= want;
        return <path key={number} d={`M${from} A15 15 0 0 1 ${to}`} strokeWidth={filled ? 8 : 2.5} />;
      })}
    </g>
  );
}
