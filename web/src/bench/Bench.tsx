import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import Button from "react-bootstrap/Button";
import { Link, useParams } from "react-router";
import { api, asked, type DrawingView, type PartView, type StepView } from "../api/client";
import { useMe } from "../api/queries";
import { Drawing } from "../drawings/Drawing";
import { LookAt } from "../drawings/Spot";
import { at } from "../job/path";
import { type Bench as BenchState, BenchContext, useBench, useJob } from "../job/useJob";
import { AttachmentsOf, useAttachments } from "../attachments/attachments";
import { useDroppedAttachments } from "../attachments/dropped";
import { Viewer } from "../attachments/Viewer";
import { Fault, Waiting } from "../ui/Fault";
import { Top } from "../ui/Layout";
import { AskWhy } from "./AskWhy";
import { CallBar, CallPanel } from "./call/CallPanel";
import { nextLook, PLACES } from "./call/looking";
import { type Asked, bodyOf, focusOnStep, type Hand, HandContext, useHand } from "./hand";
import { Kept } from "./Kept";
import { Late } from "./Late";
import { useKeyboard } from "./keyboard";
import { AllKeys, Keys, useKeys } from "./Keys";
import { LiveLink } from "./live/live";
import { LivePanel } from "./live/Panel";
import { firstOpen, nextStepOf, progressOf, sheetOf } from "./progress";
import { RunSheet } from "./RunSheet";
import { StepBody } from "./steps/StepBody";

export function Bench() {
  const { id = "" } = useParams();
  const { bench, error } = useJob(id);
  if (!bench) return error ? <Unreached error={error} /> : <Waiting />;
  return (
    <BenchContext value={bench}>
      <AttachmentsOf job={id} open={bench.open}>
        <LiveLink>
          <Workspace key={id} bench={bench} />
        </LiveLink>
      </AttachmentsOf>
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
  // What a reason is asked for is held here: no answer that comes meanwhile takes away what is being typed.
  const [why, setWhy] = useState<Asked | null>(null);
  const [keys, setKeys] = useState(false);
  const sheet = useMutation({
    mutationFn: (whole: boolean) => asked(api.PATCH("/api/me", { body: { sheet: whole ? "whole" : "steps" } })),
    onMutate: (whole) => me && cache.setQueryData(["me"], { ...me, sheet: whole ? "whole" : "steps" }),
  });
  const whole = me?.sheet === "whole";
  const part = bench.part(hand.part);
  const steps = bench.method(part).steps;
  const step = steps.find((one) => one.key === hand.step) ?? steps[0];

  const inHand = useMemo<Hand>(
    () => ({
      ...hand,
      go: (part, step) => {
        setHand({ part, step });
        sessionStorage.setItem(`hand ${bench.job.id}`, JSON.stringify({ part, step }));
        focusOnStep(part, step);
      },
      row: (list) => rows[list],
      take: (list, row) => setRows((held) => ({ ...held, [list]: row })),
      ask: setWhy,
    }),
    [bench.job.id, hand, rows],
  );
  useKeys(inHand, bench, setKeys);
  useKeyboard();
  useDroppedAttachments(bench.open);
  const viewed = useAttachments()?.shown;
  // Whoever opens the bench can type at once, after what was typed before and is not sent yet.
  const read = bench.box.read;
  useEffect(() => {
    const begun = bodyOf(hand.part, hand.step)?.contains(document.activeElement);
    if (read && !begun) focusOnStep(hand.part, hand.step, false);
  }, [read]); // eslint-disable-line react-hooks/exhaustive-deps

  return (
    <HandContext value={inHand}>
      <title>{`${bench.job.system.name} · Wary Beacon`}</title>
      <Top nav={false}>
        <div className="bench-name">
          <Link to={`/systems/${bench.job.system.id}`}>{bench.job.system.name}</Link>
          <small>
            {[bench.job.system.channel, bench.job.system.material, bench.job.occasion_words]
              .filter(Boolean)
              .join(" · ")}
          </small>
        </div>
        {bench.job.practice && <span className="practice-flag">practice</span>}
        <Kept />
      </Top>
      <div className={`bench${whole ? " bench-whole" : ""}`} data-judged={bench.here.works ? "here" : "there"}>
        <RunSheet whole={whole} onWhole={(next) => sheet.mutate(next)} />
        <main className="mid">
          <StepPicker />
          <Late />
          {viewed ? (
            <Viewer zone={bench.job.system.time_zone} />
          ) : (
            <div className={`figure${part.drawing && STAYS.has(part.drawing.shape) ? " figure-stays" : ""}`}>
              <DrawingOf part={part} step={step} />
            </div>
          )}
          {!viewed && <WhereToLook />}
          {bench.open && <LivePanel step={step} />}
          {whole
            ? sheetOf(bench).map((one) => (
                <StepBody key={`${one.part.key} ${one.step.key}`} part={one.part} step={one.step} />
              ))
            : step && <StepBody key={`${part.key} ${step.key}`} part={part} step={step} />}
          <Keys onAll={() => setKeys(true)}>{!whole && step && <NextStep part={part} step={step} />}</Keys>
        </main>
        <CallPanel part={part} />
        <CallBar part={part} />
      </div>
      {why && <AskWhy asked={why} onDone={() => setWhy(null)} />}
      <AllKeys show={keys} onHide={() => setKeys(false)} />
    </HandContext>
  );
}

/** Drawings in which a list is seen at a glance: they stay while its rows go by. */
const STAYS = new Set<DrawingView["shape"]>(["fills", "samples", "stairs"]);

function remembered(bench: BenchState): { part: string; step: string } | null {
  const text = sessionStorage.getItem(`hand ${bench.job.id}`);
  if (!text) return null;
  const held = JSON.parse(text) as { part: string; step: string };
  const part = bench.job.parts.find((one) => one.key === held.part);
  return part && bench.method(part).steps.some((step) => step.key === held.step) ? held : null;
}

/** The drawing of the part in hand; lower where the rows of a list need the room. */
function DrawingOf({ part, step }: { part: PartView; step?: StepView }) {
  const bench = useBench();
  const hand = useHand();
  if (!part.drawing) return null;
  const list = step?.kind === "rows" ? step.rows.list : step?.kind === "tally" ? (step.list ?? "runs") : "";
  const rows = list ? bench.rows(at(part.key, list)) : [];
  const crowded = step?.kind === "rows" || (step?.kind === "tally" && (rows.length > 2 || bench.job.practice));
  const taken = rows.findIndex((row) => row.row === hand.row(at(part.key, list)));
  return (
    <LookAt.Provider value={(bench.open && nextLook(bench)?.where) || ""}>
      <Drawing drawing={part.drawing} compact={crowded} taken={taken} />
    </LookAt.Provider>
  );
}

/** Where on the machine the next look is made, beside its drawing. */
function WhereToLook() {
  const bench = useBench();
  const look = bench.open ? nextLook(bench) : undefined;
  if (!look || !PLACES[look.where]) return null;
  return (
    <p className="figure-look">
      <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
        <path d="M6 0 12 6 6 12 0 6Z" fill="var(--keep)" />
      </svg>
      Look at {PLACES[look.where]}
    </p>
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

function NextStep({ part, step }: { part: PartView; step: StepView }) {
  const bench = useBench();
  const hand = useHand();
  const next = nextStepOf(bench, part, step);
  if (!next) return null;
  const leaves = next.part.key !== part.key;
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
