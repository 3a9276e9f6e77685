import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect, useMemo, useState } from "react";
import Button from "react-bootstrap/Button";
import Modal from "react-bootstrap/Modal";
import { Link, useParams } from "react-router";
import { api, asked, type PartView } from "../api/client";
import { useMe } from "../api/queries";
import { FigureOf } from "../figures/FigureOf";
import { Fault, Waiting } from "../ui/Fault";
import { Top } from "../ui/Layout";
import { counted } from "../ui/words";
import { CallBar, CallPanel } from "./CallPanel";
import { focusOn, type Hand, HandContext, useHand } from "./hand";
import { LiveLink } from "./live";
import { firstOpen, progressOf, sheetOf } from "./progress";
import { RunSheet } from "./RunSheet";
import { SetAside } from "./SetAside";
import { StandIn } from "./StandIn";
import { StepBody } from "./steps";
import { at, type Bench as BenchState, BenchContext, useBench, useJob } from "./useJob";

export function Bench() {
  const { id = "" } = useParams();
  const { bench, error } = useJob(id);
  if (!bench) return error ? <Unreached error={error} /> : <Waiting />;
  return (
    <BenchContext value={bench}>
      <LiveLink>
        <Workspace key={id} bench={bench} />
      </LiveLink>
    </BenchContext>
  );
}

function Unreached({ error }: { error: unknown }) {
  return (
    <>
      <Top />
      <main className="page">
        <Fault of={error} />
        <Link to="/">To the round</Link>
      </main>
    </>
  );
}

function Workspace({ bench }: { bench: BenchState }) {
  const me = useMe().data;
  const cache = useQueryClient();
  const [hand, setHand] = useState(() => remembered(bench) ?? firstOpen(bench));
  const [rows, setRows] = useState<Record<string, string | undefined>>({});
  const [asking, setAsking] = useState<{ list: string; row: string } | null>(null);
  const [keys, setKeys] = useState(false);
  const sheet = useMutation({
    mutationFn: (whole: boolean) => asked(api.PATCH("/api/me", { body: { sheet: whole ? "whole" : "steps" } })),
    onMutate: (whole) => me && cache.setQueryData(["me"], { ...me, sheet: whole ? "whole" : "steps" }),
  });
  const whole = me?.sheet === "whole";
  const part = bench.part(hand.part);
  const steps = bench.methods.get(part.method)?.steps ?? [];
  const step = steps.find((one) => one.key === hand.step) ?? steps[0];

  const inHand = useMemo<Hand>(
    () => ({
      ...hand,
      go: (part, step) => {
        setHand({ part, step });
        sessionStorage.setItem(`hand ${bench.job.id}`, JSON.stringify({ part, step }));
        requestAnimationFrame(() => {
          const body = document.getElementById(`step-${part}-${step}`);
          body?.scrollIntoView({ block: "start" });
          const first = body?.querySelector<HTMLElement>("[data-entry]");
          first?.focus({ preventScroll: true });
        });
      },
      row: (list) => rows[list],
      take: (list, row) => setRows((held) => ({ ...held, [list]: row })),
      aside: (list, row) => setAsking({ list, row }),
    }),
    [bench.job.id, hand, rows],
  );
  useKeys(inHand, bench, part, step, setKeys);

  return (
    <HandContext value={inHand}>
      <title>{`${bench.job.system.name} · Wary Beacon`}</title>
      <Top nav={false}>
        <div className="bench-name">
          <Link to={`/systems/${bench.job.system.id}`}>{bench.job.system.name}</Link>
          <small>
            {[bench.job.system.channel, bench.job.system.material, occasionWords(bench)].filter(Boolean).join(" · ")}
          </small>
        </div>
        {bench.job.practice && <span className="practice-flag">practice</span>}
        <KeptState />
      </Top>
      <div className={`bench${whole ? " bench-whole" : ""}`}>
        <RunSheet whole={whole} onWhole={(next) => sheet.mutate(next)} />
        <main className="mid">
          <StepPicker />
          <div className="figure">
            <FigureOf part={part} step={step} />
          </div>
          {bench.job.practice && <StandIn />}
          {whole
            ? sheetOf(bench).map((one) => (
                <StepBody key={`${one.part.key} ${one.step.key}`} part={one.part} step={one.step} />
              ))
            : step && <StepBody key={`${part.key} ${step.key}`} part={part} step={step} />}
          <Keys onAll={() => setKeys(true)}>{!whole && <NextStep />}</Keys>
        </main>
        <CallPanel part={part} />
        <CallBar part={part} />
      </div>
      {asking && (
        <SetAside
          {...asking}
          onDone={() => {
            setAsking(null);
          }}
        />
      )}
      <AllKeys show={keys} onHide={() => setKeys(false)} />
    </HandContext>
  );
}

function remembered(bench: BenchState): { part: string; step: string } | null {
  const text = sessionStorage.getItem(`hand ${bench.job.id}`);
  if (!text) return null;
  const held = JSON.parse(text) as { part: string; step: string };
  const part = bench.job.parts.find((one) => one.key === held.part);
  return bench.methods.get(part?.method ?? "")?.steps.some((step) => step.key === held.step) ? held : null;
}

const OCCASIONS: Record<string, string> = {
  routine: "routine visit",
  first: "first calibration",
  repair: "after a repair",
  complaint: "after a complaint",
  season: "start of season",
};
const occasionWords = (bench: BenchState) => OCCASIONS[bench.field("occasion").text] ?? "";

/** “14 entries kept”, or what waits and why. It says kept only of what the server has. */
function KeptState() {
  const { job, box, open } = useBench();
  const waiting = box.waiting.length;
  if (!open) return <span className="kept">closed, {counted(job.entries, "entry", "entries")}</span>;
  const late = box.held !== "";
  const text =
    waiting && late
      ? `${waiting} waiting to be sent`
      : `${counted(job.entries, "entry", "entries")} kept${waiting ? `, ${waiting} on the way` : ""}`;
  const why = {
    "": "",
    offline: "server out of reach",
    "signed-out": "sign in again to send them",
    gone: "this job is no longer here",
  }[box.held];
  return (
    <span className={`kept${late ? " kept-late" : ""}`} role="status">
      <i aria-hidden="true" />
      <span>
        {text}
        {late && <small>{why}</small>}
      </span>
      {box.held === "signed-out" && <Link to="/sign-in">Sign in</Link>}
    </span>
  );
}

/** On small screens the sheet is one line: the step in hand, and the ones beside it. */
function StepPicker() {
  const bench = useBench();
  const hand = useHand();
  return (
    <select
      className="form-select step-picker"
      aria-label="Step"
      value={`${hand.part} ${hand.step}`}
      onChange={(event) => {
        const [part = "", step = ""] = event.target.value.split(" ");
        hand.go(part, step);
      }}
    >
      {sheetOf(bench).map(({ part, step, title }, number) => {
        const { done, says } = progressOf(bench, part, step);
        return (
          <option key={`${part.key} ${step.key}`} value={`${part.key} ${step.key}`}>
            {done ? "✓" : number + 1} {bench.job.parts.length > 1 ? `${title}: ` : ""}
            {step.title}
            {says && ` (${says})`}
          </option>
        );
      })}
    </select>
  );
}

function NextStep() {
  const bench = useBench();
  const hand = useHand();
  const sheet = sheetOf(bench);
  const here = sheet.findIndex(({ part, step }) => part.key === hand.part && step.key === hand.step);
  const next = sheet[here + 1];
  if (!next) return null;
  const leaves = next.part.key !== hand.part;
  return (
    <Button
      variant="outline-primary"
      className="next-step"
      data-entry=""
      onClick={() => hand.go(next.part.key, next.step.key)}
    >
      Next: {leaves ? next.title.toLowerCase() : next.step.title}
    </Button>
  );
}

const KEYS: [string, string][] = [
  ["Enter", "next field"],
  ["Shift Enter", "the field before"],
  ["↑ ↓", "the run above, the run below"],
  ["n", "new run"],
  ["x", "set this run aside"],
  ["Ctrl Z", "take back the last entry"],
  ["/", "to the round, to find a system"],
  ["?", "this list"],
];

const SHORT = [
  ["Enter", "next"],
  ["n", "new run"],
  ["x", "set aside"],
  ["Ctrl Z", "undo"],
];

function Keys({ onAll, children }: { onAll: () => void; children: ReactNode }) {
  return (
    <div className="keys">
      {SHORT.map(([key, word]) => (
        <span key={key}>
          <kbd>{key}</kbd> {word}
        </span>
      ))}
      <button type="button" className="btn btn-link" onClick={onAll}>
        <kbd>?</kbd> all keys
      </button>
      {children}
    </div>
  );
}

function AllKeys({ show, onHide }: { show: boolean; onHide: () => void }) {
  return (
    <Modal show={show} onHide={onHide} centered>
      <Modal.Header closeButton>
        <Modal.Title>Keys</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <dl className="key-list">
          {KEYS.map(([key, does]) => (
            <div key={key}>
              <dt>
                <kbd>{key}</kbd>
              </dt>
              <dd>{does}</dd>
            </div>
          ))}
        </dl>
        <p className="soft mb-0">
          The letters work outside a field, and in one that is still empty. None of them is needed.
        </p>
      </Modal.Body>
    </Modal>
  );
}

/** The keys of the bench. Letters count outside fields, and in a figure's field that is still empty. */
function useKeys(
  hand: Hand,
  bench: BenchState,
  part: PartView,
  step: { runs?: string | null } | undefined,
  onAll: (show: boolean) => void,
) {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const field =
        event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement ? event.target : null;
      if (document.querySelector(".modal.show, .offcanvas.show")) return;
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
        if (field?.dataset.path && field.value !== (bench.field(field.dataset.path).text ?? "")) return;
        event.preventDefault();
        void bench.undo().then((path) => path && focusOn(path));
        return;
      }
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.target instanceof HTMLSelectElement) return;
      if (field && field.type !== "checkbox" && field.type !== "radio") {
        if (field.value !== "" || field.inputMode !== "decimal") return;
      }
      const list = step?.runs ? at(part.key, step.runs) : null;
      const row = list ? hand.row(list) : undefined;
      if (event.key === "?") onAll(true);
      else if (event.key === "n" && list) {
        hand.take(list, undefined);
        const first = document.querySelector<HTMLElement>(".dock [data-entry]");
        requestAnimationFrame(() => first?.focus());
      } else if (event.key === "x" && list) {
        const rows = bench.rows(list);
        const last = row ?? rows.at(-1)?.row;
        if (!last) return;
        hand.aside(list, last);
      } else if (event.key === "/") location.assign("/?find");
      else return;
      event.preventDefault();
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  });
}
