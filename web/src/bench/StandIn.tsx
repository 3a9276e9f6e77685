import { useEffect, useState } from "react";
import Button from "react-bootstrap/Button";
import { useHand } from "./hand";
import { act, captured, ticket, useLive } from "./live";
import { useBench } from "./useJob";

/** The stand-in's display, what can be done to it, and capturing a reading into the field in hand. */
export function StandIn() {
  const bench = useBench();
  const hand = useHand();
  const live = useLive();
  const [feed, setFeed] = useState("210");
  const [weight, setWeight] = useState("60");
  const [factor, setFactor] = useState("");
  const [field, setField] = useState<string | null>(null);
  const [weighed, setTicket] = useState("");
  const job = bench.job.id;
  const { reading } = live;

  useEffect(() => {
    const note = (event: FocusEvent) => {
      const path = event.target instanceof HTMLInputElement ? event.target.dataset.path : undefined;
      if (path) setField(path);
    };
    addEventListener("focusin", note);
    return () => removeEventListener("focusin", note);
  }, []);

  const found = reading && field ? captured(field, reading) : null;
  const capture = () => {
    if (field && found) bench.enter({ path: field, ...found, source: "captured", steady: reading!.steady });
  };
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const target = event.target instanceof HTMLInputElement ? event.target : null;
      if (event.key !== "c" || event.ctrlKey || event.metaKey || event.altKey || (target && target.value !== ""))
        return;
      if (!found) return;
      event.preventDefault();
      capture();
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  });
  if (!live.linked) return null;
  const weigh = async () => {
    const got = await ticket(job);
    setTicket(`gross ${(got.gross / 1000).toFixed(2)} t, tare ${(got.tare / 1000).toFixed(2)} t`);
    const list = bench.rows("as_left").length || hand.step === "as-left" ? "as_left" : "runs";
    const row = field?.startsWith(`${list}.`) ? field.split(".")[1] : undefined;
    if (row)
      bench.enter(
        {
          path: `${list}.${row}.gross`,
          text: (got.gross / 1000).toFixed(2),
          unit: "t",
          source: "captured",
          steady: true,
        },
        {
          path: `${list}.${row}.tare`,
          text: (got.tare / 1000).toFixed(2),
          unit: "t",
          source: "captured",
          steady: true,
        },
      );
  };
  const number = (text: string) => Number(text.replace(",", ".")) || 0;
  const doing = (what: string, words: string, figure = 0) => (
    <Button variant="outline-primary" onClick={() => void act(job, what, figure)}>
      {words}
    </Button>
  );
  return (
    <section className="stand-in" aria-label="Stand-in">
      <div className="stand-in-display" aria-live="off">
        {live.silent ? (
          <p className="stand-in-silent" role="alert">
            The stand-in is silent. Type the readings; they are taken in as before.
          </p>
        ) : (
          <>
            <Shown figure={reading ? reading.rate.toFixed(1) : "–"} unit="t/h" name="rate" />
            <Shown figure={reading ? reading.total.toFixed(2) : "–"} unit="t" name="total" />
            <Shown figure={reading ? reading.live.toFixed(2) : "–"} unit="kg" name="live weight" />
            <Shown figure={reading ? reading.revolutions.toFixed(1) : "–"} unit="" name="revolutions" />
            <span className={reading?.steady ? "steady" : "unsteady"}>
              {reading ? (reading.steady ? "steady" : "moving") : ""}
            </span>
          </>
        )}
        <Button className="ms-auto" disabled={!found} onClick={capture}>
          Capture{found ? ` ${found.text} ${found.unit}` : ""} <kbd>c</kbd>
        </Button>
      </div>
      <div className="stand-in-acts">
        {reading?.running ? doing("stop", "Stop") : doing("run", "Run")}
        <label>
          <span className="visually-hidden">Feed, t/h</span>
          <input
            className="form-control"
            inputMode="decimal"
            value={feed}
            onChange={(event) => setFeed(event.target.value)}
          />
        </label>
        {doing("feed", "Feed t/h", number(feed))}
        {doing("feed", "Feed off", 0)}
        {doing("zero", "Take zero")}
        <label>
          <span className="visually-hidden">Weight, kg</span>
          <input
            className="form-control"
            inputMode="decimal"
            value={weight}
            onChange={(event) => setWeight(event.target.value)}
          />
        </label>
        {doing("hang", "Hang kg", number(weight))}
        {doing("unhang", "Take off")}
        <label>
          <span className="visually-hidden">Factor</span>
          <input
            className="form-control"
            inputMode="decimal"
            value={factor}
            placeholder="factor"
            onChange={(event) => setFactor(event.target.value)}
          />
        </label>
        {doing("key", "Key in", number(factor))}
        {doing("decimals", "Decimals up", 1)}
        {doing("decimals", "Decimals back", 0)}
        {doing("clean", "Clean it")}
        {doing("tension", "Ease the belt")}
        {doing("skip", "Wait 1 turn", 30)}
        {doing("skip", "Wait 5 min", 300)}
        <Button variant="outline-primary" onClick={() => void weigh()}>
          Weigh the lorry
        </Button>
        {weighed && <span className="soft">{weighed}</span>}
      </div>
    </section>
  );
}

function Shown({ figure, unit, name }: { figure: string; unit: string; name: string }) {
  return (
    <span className="stand-in-figure">
      <b>{figure}</b> <small>{unit}</small>
      <i>{name}</i>
    </span>
  );
}
