import type { ReactNode } from "react";
import type { Schemas } from "../api/client";

/** The large figures above a drawing, in one line that wraps: nothing can lie over anything. */
export function Heads({ heads, children }: { heads: Schemas["Headline"][]; children?: ReactNode }) {
  if (!heads.length && !children) return null;
  return (
    <div className="drawing-heads">
      {heads.map((head) => (
        <span key={head.title}>
          <b>{head.text}</b>
          <small>{head.title}</small>
        </span>
      ))}
      {children}
    </div>
  );
}
