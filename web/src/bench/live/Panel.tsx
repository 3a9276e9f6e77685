import { useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import { api, asked, Problem, type Schemas, type StepView } from "../../api/client";
import { namedBy } from "../../job/path";
import { useBench } from "../../job/useJob";
import { spoken } from "../../ui/quantity";
import { counted } from "../../ui/words";
import { bodyOf, fieldOf, placesIn, useHand } from "../hand";
import { useLive } from "./live";
import type { Readout } from "./types";
import { fitting, keysOf } from "./places";
import { MachinePanel } from "./MachinePanel";
import { Controls } from "./Controls";

/** Readings as they come, large; what fits the field in hand is captured with one key. Of a stand-in also its controls. */
export function LivePanel({ step }: { step?: StepView }) {
  const bench = useBench();
  const hand = useHand();
  const live = useLive();
  const [field, setField] = useState<string | null>(null);
  const [chosen, setChosen] = useState("");
  const { reading } = live;
  const [all, setAll] = useState(false);
  const heard = reading?.readouts ?? [];
  const readouts = all || !bench.job.practice ? heard : needed(bench, hand.part, step, heard);

  useEffect(() => {
    const note = (event: FocusEvent) => {
      const path = event.target instanceof HTMLInputElement ? event.target.dataset.path : undefined;
      if (path) setField(path);
    };
    addEventListener("focusin", note);
    return () => removeEventListener("focusin", note);
  }, []);

  // A field that is on the page no more is not in hand: nothing is captured into what nobody sees.
  useEffect(() => {
    if (field && !fieldOf(field)) setField(null);
  }, [bench, field, hand, step]);

  const found = field ? fitting(bench, field, readouts, chosen) : null;
  const enter = (text: string, one: Readout, steady: boolean, raw: string) => {
    if (!field) return;
    bench.enter({ path: field, text, unit: one.unit, source: "captured", steady, raw });
    goOn(field, hand.part, hand.step);
  };
  const capture = () => found && enter(found.capture, found, found.steady, found.raw || "");
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const target = event.target instanceof HTMLInputElement ? event.target : null;
      const busy = target && (target.value !== "" || (!target.dataset.path && target.type !== "checkbox"));
      if (event.key !== "c" || event.ctrlKey || event.metaKey || event.altKey || busy) return;
      if (!found || document.querySelector(".modal.show, .offcanvas.show")) return;
      event.preventDefault();
      capture();
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  });
  if (!live.linked && !live.links.length) return null;
  const wrong = readouts.find((one) => one.fault)?.fault;
  const caution = readouts.find((one) => one.caution)?.caution;
  return (
    <section className="live" aria-label={bench.job.practice ? "Stand-in" : "Live readings"}>
      {bench.job.practice && <MachinePanel step={step} field={field} />}
      <div className="live-display" aria-live="off">
        {live.plug ? (
          <p className="m-0">
            <Button variant="outline-primary" onClick={() => void live.plug!()}>
              Open the serial port
            </Button>{" "}
            of this device, to read {live.name}
          </p>
        ) : live.silent ? (
          <p className="live-silent" role="alert">
            {live.name} is silent. Type the readings; they are taken in as before.
            {live.fault && <small className="d-block fw-normal">{live.fault}</small>}
          </p>
        ) : (
          <>
            {readouts.map((one) => (
              <button
                type="button"
                key={one.key}
                className={`live-figure${found?.key === one.key ? " live-fits" : ""}`}
                aria-pressed={found?.key === one.key}
                onClick={() => setChosen(one.key)}
                tabIndex={-1}
              >
                <b>{one.text}</b> <small>{spoken(one.unit)}</small>
                <i>{one.title}</i>
              </button>
            ))}
            {readouts.length > 0 ? (
              <span className={readouts[0]!.steady ? "steady" : "unsteady"}>
                {readouts[0]!.steady ? "steady" : "moving"}
              </span>
            ) : (
              live.linked && <span className="unsteady">listening</span>
            )}
          </>
        )}
        {live.linked && (
          <Button className="live-capture" disabled={!found} onClick={capture}>
            Capture{found ? ` ${found.capture} ${spoken(found.unit)}` : ""} <kbd>c</kbd>
          </Button>
        )}
      </div>
      {(wrong || caution) && !live.silent && (
        <p className={wrong ? "live-wrong" : "live-caution"} role="alert">
          {wrong ?? caution}
        </p>
      )}
      {!live.silent && live.fault && !wrong && <p className="live-caution">{live.fault}</p>}
      <div className="live-more">
        {bench.job.practice && <Controls step={step} field={field} all={all} onAll={setAll} />}
        {live.linked && !live.silent && <Gather fits={found} onMean={enter} />}
        {live.links.length > 0 && <Source />}
      </div>
    </section>
  );
}

const MOST_SHOWN = 4;

/** The readouts that a step can take; where it takes none, the first few of those that the part can. */
function needed(
  bench: ReturnType<typeof useBench>,
  part: string,
  step: StepView | undefined,
  heard: readonly Readout[],
): Readout[] {
  const takes = (keys: Set<string>) =>
    heard.filter((one) => one.into?.some((into) => keys.has(into) || keys.has(namedBy(into).key)));
  const own = step ? takes(keysOf(bench, part, step)) : [];
  if (own.length) return own;
  const ofPart = takes(keysOf(bench, part));
  return (ofPart.length ? ofPart : [...heard]).slice(0, MOST_SHOWN);
}

/** Puts the focus on the place after a field, as Enter would. */
function goOn(path: string, part: string, step: string) {
  requestAnimationFrame(() => {
    const body = bodyOf(part, step) ?? document;
    const places = placesIn(body);
    const here = places.findIndex((place) => place.dataset.path === path);
    const next = here >= 0 ? places[here + 1] : undefined;
    next?.focus({ preventScroll: true });
    if (next instanceof HTMLInputElement && next.type !== "checkbox") next.select();
  });
}

const MOST = 2000;

/** Gathers readings over time: how many so far, and at the end their mean into the field in hand. */
function Gather({
  fits,
  onMean,
}: {
  fits: Readout | null;
  onMean: (text: string, one: Readout, steady: boolean, raw: string) => void;
}) {
  const { reading } = useLive();
  const [since, setSince] = useState<{ key: string; at: number } | null>(null);
  const [said, setSaid] = useState("");
  const [count, setCount] = useState(0);
  const taken = useRef<[string, string, boolean][]>([]);
  const last = useRef(-1);
  const key = since?.key;
  useEffect(() => {
    if (!key || !reading || reading.at === last.current) return;
    const one = reading.readouts.find((found) => found.key === key);
    if (!one || one.fault || taken.current.length >= MOST) return;
    last.current = reading.at;
    taken.current.push([one.capture, one.unit, one.steady]);
    setCount(taken.current.length);
  }, [key, reading]);
  if (!fits && !since && !said) return null;
  const begin = () => {
    taken.current = [];
    setCount(0);
    setSaid("");
    setSince({ key: fits!.key, at: Date.now() });
  };
  const end = async () => {
    if (!since) return;
    const seconds = (Date.now() - since.at) / 1000;
    setSince(null);
    try {
      const found = await asked(api.POST("/api/readings/gathered", { body: { readings: taken.current } }));
      const mean = summary(found, seconds);
      // A field that takes another reading, or none, takes no mean of these either.
      const goesIn = fits?.key === since.key;
      setSaid(goesIn ? mean : `${mean}. The field in hand does not take it: type it where it belongs.`);
      if (goesIn) onMean(found.capture, fits, found.moving === 0, mean);
    } catch (problem) {
      setSaid(problem instanceof Problem ? (problem.errors[0]?.text ?? problem.message) : "");
    }
  };
  return (
    <span className="live-gather">
      {(fits || since) && (
        <Button variant="outline-primary" onClick={since ? () => void end() : begin}>
          {since ? `Take the mean of ${counted(count, "reading")}` : "Gather over time"}
        </Button>
      )}
      {since && (
        <Button variant="link" onClick={() => setSince(null)}>
          Leave it
        </Button>
      )}
      {said && !since && <small>{said}</small>}
    </span>
  );
}

const summary = (found: Schemas["Gathered"], seconds: number) =>
  `mean ${found.capture} ${spoken(found.unit)} of ${counted(found.count, "reading")} in ${seconds.toFixed(0)} s, spread ${shortly(found.spread)} ${spoken(found.unit)}${found.moving ? `, ${found.moving} of them moving` : ""}`;

const shortly = (figure: number) => String(Number(figure.toPrecision(3)));

/** Which instrument the readings are taken from, where there is a choice. */
function Source() {
  const live = useLive();
  return (
    <select
      className="form-select live-source"
      aria-label="Readings from"
      value={live.link?.id ?? ""}
      onChange={(event) => live.choose(event.target.value || null)}
    >
      {live.links.map((one) => (
        <option key={one.id} value={one.id}>
          {one.name}
        </option>
      ))}
      <option value="">type them all</option>
    </select>
  );
}
