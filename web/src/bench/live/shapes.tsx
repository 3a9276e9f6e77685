import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";

export type Shape = Schemas["StandInView"]["shape"];
export type Spot = Exclude<Schemas["StandInView"]["spots"][string], "">;

/** How high a machine is drawn, px. */
export const HIGH = 158;

/** Where a spot lies: a share of the width, and px from above. */
type At = readonly [number, number];

const CELLS: Partial<Record<Spot, At>> = {
  "cell-1": [0.2, 118],
  "cell-2": [0.36, 118],
  "cell-3": [0.52, 118],
  "cell-4": [0.68, 118],
};
const CORNERS: Partial<Record<Spot, At>> = {
  "corner-1": [0.22, 60],
  "corner-2": [0.335, 60],
  middle: [0.45, 60],
  "corner-3": [0.565, 60],
  "corner-4": [0.68, 60],
};
const BESIDE: Partial<Record<Spot, At>> = { instrument: [0.9, 40], scale: [0.9, 116] };

/** Where each spot lies on a machine of each shape. */
export const PLACES: Record<Shape, Partial<Record<Spot, At>>> = {
  belt: {
    ...BESIDE,
    chute: [0.14, 30],
    load: [0.3, 30],
    drive: [0.7, 62],
    frame: [0.42, 116],
    "cell-1": [0.32, 116],
    "cell-2": [0.52, 116],
  },
  deck: { ...BESIDE, ...CORNERS, ...CELLS, load: [0.08, 40], drive: [0.08, 116], frame: [0.44, 118] },
  vessel: { ...BESIDE, ...CELLS, load: [0.44, 28], drive: [0.07, 116], frame: [0.07, 60] },
  vehicle: { ...BESIDE, ...CELLS, load: [0.42, 40], drive: [0.08, 60], frame: [0.6, 60] },
  arm: { ...BESIDE, load: [0.62, 40], drive: [0.26, 84], frame: [0.44, 116] },
  hopper: { ...BESIDE, load: [0.26, 28], drive: [0.44, 112], frame: [0.66, 70], chute: [0.44, 60] },
};

/** A machine in a few lines, `wide` px across: enough to see what is touched. */
export function outline(shape: Shape, wide: number): ReactNode {
  const x = (share: number) => share * wide;
  const line = { fill: "none", stroke: "var(--ink)", strokeWidth: 2.5 } as const;
  const soft = { ...line, stroke: "var(--aside)", strokeWidth: 2 } as const;
  if (shape === "belt")
    return (
      <>
        <rect x={x(0.06)} y={52} width={x(0.66)} height={20} rx={10} {...line} />
        <path d={`M${x(0.1)} 8l${x(0.02)} 34h${x(0.04)}l${x(0.02)} -34`} {...soft} />
        <path d={`M${x(0.34)} 74v18h${x(0.16)}v-18M${x(0.1)} 74v62M${x(0.68)} 74v62`} {...soft} />
      </>
    );
  if (shape === "deck")
    return (
      <>
        <rect x={x(0.12)} y={78} width={x(0.64)} height={12} {...line} />
        {[0.2, 0.36, 0.52, 0.68].map((at) => (
          <path key={at} d={`M${x(at)} 90v10`} {...soft} />
        ))}
        <path d={`M${x(0.1)} 146h${x(0.7)}`} {...soft} />
      </>
    );
  if (shape === "vessel")
    return (
      <>
        <path d={`M${x(0.24)} 16v54l${x(0.16)} 22h${x(0.08)}l${x(0.16)} -22v-54`} {...line} />
        {[0.2, 0.36, 0.52, 0.68].map((at) => (
          <path key={at} d={`M${x(at)} 92v8`} {...soft} />
        ))}
        <path d={`M${x(0.16)} 92h${x(0.56)}`} {...soft} />
      </>
    );
  if (shape === "vehicle")
    return (
      <>
        <path d={`M${x(0.18)} 16h${x(0.56)}v62h${x(-0.56)}z`} {...line} />
        <path d={`M${x(0.03)} 78v-26l${x(0.03)} -18h${x(0.09)}v44z`} {...line} />
        {[0.09, 0.36, 0.6].map((at) => (
          <circle key={at} cx={x(at)} cy={90} r={11} {...line} />
        ))}
        <path d={`M${x(0.02)} 102h${x(0.76)}`} {...soft} />
      </>
    );
  if (shape === "arm")
    return (
      <>
        <path d={`M${x(0.1)} 130v-40h${x(0.2)}v40M${x(0.2)} 88L${x(0.54)} 34l${x(0.04)} 30`} {...line} />
        <path d={`M${x(0.54)} 62h${x(0.14)}l${x(-0.02)} 20h${x(-0.1)}z`} {...line} />
        <path d={`M${x(0.04)} 146h${x(0.76)}`} {...soft} />
      </>
    );
  return (
    <>
      <path d={`M${x(0.16)} 8l${x(0.2)} 66h${x(0.16)}l${x(0.2)} -66`} {...line} />
      <path d={`M${x(0.38)} 80h${x(0.12)}M${x(0.4)} 86v10h${x(0.08)}v-10`} {...soft} />
      <path d={`M${x(0.36)} 146h${x(0.16)}`} {...soft} />
    </>
  );
}
