import { createContext, useContext } from "react";

/** The place on the machine where the next look is made; empty where none is. */
export const LookAt = createContext("");

interface SpotProps {
  /** The places that lie here on this drawing. */
  at: readonly string[];
  points: readonly { x: number; y: number }[];
  size?: number;
}

/** Rings on a drawing where the next look is made, each with the lozenge that stands before its words. */
export function Spot({ at, points, size = 22 }: SpotProps) {
  if (!at.includes(useContext(LookAt))) return null;
  return (
    <g className="spot" stroke="var(--keep)" fill="none">
      {points.map(({ x, y }, place) => (
        <g key={place}>
          <circle cx={x} cy={y} r={size} strokeWidth="3.5" />
          <path d={`M${x} ${y - size - 7} l7 7 l-7 7 l-7 -7 Z`} fill="var(--keep)" stroke="none" />
        </g>
      ))}
    </g>
  );
}
