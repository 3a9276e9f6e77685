import { useState } from "react";
import type { StepView } from "../../api/client";
import { useBench } from "../../job/useJob";
import { useWidth } from "../../drawings/width";
import { spoken } from "../../ui/quantity";
import { litBy } from "./acts";
import { act, useLive } from "./live";
import { HIGH, outline, PLACES, type Spot } from "./shapes";
import type { Control } from "./types";
import { useWeigh } from "./weigh";

interface Props {
  step?: StepView;
  field: string | null;
}

/** A spot as it is drawn, and what a touch of it does. */
interface Touch {
  spot: Spot;
  x: number;
  y: number;
  words: string;
  lit: boolean;
  go: () => void;
}

const [DRAWN, TOUCHED] = [19, 26];
/** Words of a spot so near to the left edge begin under it, so that none is cut off. */
const NEAR = 0.15;
/** Spots of which the machine has several are named by their number. */
const NUMBERED = /^(?:cell|corner)-(\d)$/;

/**
 * The machine as its own panel: what can be touched is touched on its drawing, and what the step wants is lit.
 *
 * The same acts stand as buttons in the line below, for whoever works by keyboard or hears the page.
 */
export function MachinePanel({ step, field }: Props) {
  const bench = useBench();
  const live = useLive();
  const width = useWidth();
  const weigh = useWeigh(step, field);
  const [last, setLast] = useState<Partial<Record<Spot, string>>>({});
  const { standIn, reading } = live;
  if (!standIn || live.silent) return null;
  const places = PLACES[standIn.shape];
  const lit = litBy(bench, standIn.doing, field);
  const at = (spot: Spot) => standIn.controls.filter((one) => standIn.spots[one.name] === spot && offered(one));
  const offered = (one: Control) => !reading || (reading.offers ?? []).includes(one.name);
  const release = standIn.controls.find((one) => one.name === "release" && offered(one));
  /** What a touch does: what the step wants, else what follows on what was done there last. */
  const next = (spot: Spot): Control | undefined => {
    const all = at(spot);
    if (spot.startsWith("cell-") && release && last[spot] === all[0]?.name) return release;
    const wanted = all.find((one) => lit.has(one.does) && one.name !== last[spot]);
    if (wanted) return wanted;
    const before = all.findIndex((one) => one.name === last[spot]);
    return all[(before + 1) % all.length];
  };
  const touch = (spot: Spot, control: Control) => {
    void act(bench.job.id, control.does, control.figure).then(live.hear);
    // Whoever presses another cell lets go of the one before.
    const others = spot.startsWith("cell-") ? Object.keys(places).filter((one) => one.startsWith("cell-")) : [];
    setLast({ ...last, ...Object.fromEntries(others.map((one) => [one, undefined])), [spot]: control.name });
  };
  const spots = (Object.keys(places) as Spot[]).flatMap((spot): Touch[] => {
    const [share, y] = places[spot]!;
    const x = Math.round(share * width);
    if (spot === "scale") {
      const scale = standIn.scales[0];
      return scale ? [{ spot, x, y, words: "weigh", lit: false, go: () => void weigh(scale.name) }] : [];
    }
    const control = next(spot);
    // What is set is typed: that stands in the line below.
    if (!control || (spot === "instrument" && control.typed && !lit.has(control.does))) return [];
    const figure = control.typed && control.figure ? ` ${control.figure} ${spoken(control.unit ?? "")}` : "";
    return [
      { spot, x, y, words: `${control.words}${figure}`, lit: lit.has(control.does), go: () => touch(spot, control) },
    ];
  });
  if (!spots.length) return null;
  // Words of several corners beside each other would lie over one another: their numbers say it.
  const one = spots.filter(({ spot, lit }) => lit && NUMBERED.test(spot)).length === 1;
  return (
    <svg className="machine-panel" viewBox={`0 0 ${width} ${HIGH}`} aria-hidden="true">
      {outline(standIn.shape, width)}
      {spots.map((at) => {
        const number = NUMBERED.exec(at.spot)?.[1];
        const left = at.x < width * NEAR;
        // Long words at the upper left would run into what stands to the right of the spot.
        const above = at.y > HIGH - 50 || (left && at.y < HIGH / 3);
        return (
          <g
            key={at.spot}
            className={`spot${at.lit ? " spot-lit" : ""}`}
            data-spot={at.spot}
            onClick={at.go}
            transform={`translate(${at.x} ${at.y})`}
          >
            <title>{at.words}</title>
            <circle r={TOUCHED} className="spot-touch" />
            <circle r={DRAWN} className="spot-mark" />
            {number ? <text y="6">{number}</text> : <path d="M-7 0H7M0 -7V7" />}
            {(!number || (at.lit && one)) && (
              <text
                className={`spot-words${left ? " spot-words-left" : ""}`}
                x={left ? -DRAWN : 0}
                y={above ? -DRAWN - 6 : DRAWN + 14}
              >
                {at.words}
              </text>
            )}
          </g>
        );
      })}
    </svg>
  );
}
