import { useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import type { PartView, StepView } from "../api/client";
import { at } from "../job/path";
import { useBench } from "../job/useJob";
import type { WaitingAttachment } from "../job/store";
import { bodyOf } from "../bench/hand";
import type { Attachment } from "./box";
import { fileOf, isPicture, smallOf, useAttachments, useWaiting } from "./attachments";

const ACCEPT = "image/jpeg,image/png,image/webp,image/heic,image/heif,application/pdf";

interface Place {
  path: string;
  words: string;
}

/** The field that was last in hand in a step, by its path and what it is called. */
function useLastField(part: string, step: string): Place | null {
  const [last, setLast] = useState<Place | null>(null);
  useEffect(() => {
    const body = bodyOf(part, step);
    const note = (event: FocusEvent) => {
      const field = (event.target as HTMLElement).closest<HTMLInputElement>("input[data-path]");
      if (field?.dataset.path && field.type !== "checkbox")
        setLast({ path: field.dataset.path, words: field.labels?.[0]?.textContent ?? "this field" });
    };
    body?.addEventListener("focusin", note);
    // The field that has the focus when the step is drawn is in hand already.
    requestAnimationFrame(() => {
      const now = document.activeElement;
      if (now && body?.contains(now)) note({ target: now } as unknown as FocusEvent);
    });
    return () => body?.removeEventListener("focusin", note);
  }, [part, step]);
  return last;
}

/** The row that a path lies in, where it lies in one. */
function rowPlace(path: string, words: string): Place | null {
  const found = /^((?:[a-z0-9-]+\/)?[a-z_]+\.[a-z0-9]+)\./.exec(path);
  return found && !path.includes("inputs.") && !path.includes("plates.") ? { path: found[1]!, words } : null;
}

/** Whether a paper belongs to a step: to the step itself, to one of its fields, or to a row of its list. */
function belongs(path: string, part: PartView, step: StepView): boolean {
  const own = (key: string) => path === at(part.key, key) || path.startsWith(`${at(part.key, key)}.`);
  const lists =
    step.kind === "tally"
      ? [step.list ?? "runs"]
      : step.kind === "rows"
        ? [step.rows.list]
        : step.kind === "sheet"
          ? [step.list]
          : [];
  return (
    path === at(part.key, `step.${step.key}`) ||
    lists.some(own) ||
    (step.fields ?? []).some((key) => own(`inputs.${key}`) || path === `inputs.${key}` || path === `plates.${key}`)
  );
}

/** The photographs of a step, and a button that takes one of what is in hand. */
export function AttachmentStrip({ part, step }: { part: PartView; step: StepView }) {
  const bench = useBench();
  const attachments = useAttachments();
  const last = useLastField(part.key, step.key);
  const [to, setTo] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const whole = step.kind === "close";
  if (!attachments) return null;
  const mine = attachments.kept.filter((one) => whole || belongs(one.path, part, step));
  const waiting = attachments.waiting.filter((one) => whole || belongs(one.path, part, step));
  const row = last && rowPlace(last.path, "this row");
  const places: Place[] = [
    ...(last ? [last] : []),
    ...(row ? [row] : []),
    { path: at(part.key, `step.${step.key}`), words: `the step “${step.title}”` },
    { path: "", words: "the job as a whole" },
  ];
  const chosen = places.find((place) => place.path === to) ?? places[whole ? places.length - 1 : 0]!;
  const take = (files: FileList | null) => {
    if (files?.length) attachments.add([...files], chosen.path);
  };
  if (!bench.open && !mine.length && !attachments.refused.length) return null;
  return (
    <section
      className={whole ? "attachments" : "attachments attachments-small"}
      aria-label="Photographs"
      data-attachments={chosen.path}
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        event.stopPropagation();
        take(event.dataTransfer.files);
      }}
    >
      {mine.map((one) => (
        <Thumb key={one.id} paper={one} whole={whole} />
      ))}
      {waiting.map((one) => (
        <Waits key={one.id} paper={one} />
      ))}
      {bench.open && (
        <div className="attachments-add">
          <Button variant="outline-primary" onClick={() => input.current?.click()}>
            Photograph
          </Button>
          <input
            ref={input}
            type="file"
            accept={ACCEPT}
            multiple
            tabIndex={-1}
            className="visually-hidden"
            aria-label={`Photograph or PDF of ${chosen.words}`}
            onChange={(event) => {
              take(event.target.files);
              event.target.value = "";
            }}
          />
          <label>
            <span>of</span>
            <select
              className="form-select"
              value={chosen.path}
              onChange={(event) => setTo(event.target.value)}
              aria-label="What the photograph belongs to"
            >
              {places.map((place) => (
                <option key={place.path} value={place.path}>
                  {place.words}
                </option>
              ))}
            </select>
          </label>
        </div>
      )}
      {attachments.refused.map((one) => (
        <NotTaken key={one.id} paper={one} />
      ))}
    </section>
  );
}

/** A photograph, small; at the close with where it belongs, and whether it goes on the certificate. */
function Thumb({ paper, whole }: { paper: Attachment; whole: boolean }) {
  const attachments = useAttachments()!;
  const bench = useBench();
  const [why, setWhy] = useState<string | null>(null);
  // What was ticked is shown at once, and for good when the server has it.
  const [ticked, setTicked] = useState<boolean | null>(null);
  const choose = (on: boolean) => {
    setTicked(on);
    void attachments.change(paper.id, { on_certificate: on }).finally(() => setTicked(null));
  };
  const picture = isPicture(paper);
  const aside = () => {
    if (why?.trim()) void attachments.change(paper.id, { set_aside: why.trim() });
    setWhy(null);
  };
  return (
    <figure className={`paper${paper.set_aside ? " paper-aside" : ""}`}>
      {picture ? (
        <button
          type="button"
          onClick={() => attachments.show(paper)}
          aria-label={`Look at ${paper.name}, of ${paper.belongs_to}`}
        >
          <img src={smallOf(paper)} alt="" loading="lazy" />
        </button>
      ) : (
        <a href={fileOf(paper)} className="paper-pdf" aria-label={`${paper.name}, of ${paper.belongs_to}`}>
          PDF
          <small>{paper.pages} p.</small>
        </a>
      )}
      {whole && (
        <figcaption>
          {paper.belongs_to}
          {paper.set_aside && <small>set aside: {paper.set_aside}</small>}
          {bench.open && !paper.set_aside && (
            <label className="paper-choose">
              <input
                type="checkbox"
                className="form-check-input"
                checked={ticked ?? paper.on_certificate}
                onChange={(event) => choose(event.target.checked)}
              />
              on the certificate
            </label>
          )}
          {bench.open && !paper.set_aside && why === null && (
            <Button variant="link" onClick={() => setWhy("")} aria-label={`Set aside ${paper.name}`}>
              Set aside
            </Button>
          )}
          {why !== null && (
            <input
              className="form-control"
              aria-label="Why it is set aside"
              placeholder="why"
              autoFocus
              maxLength={200}
              value={why}
              onChange={(event) => setWhy(event.target.value)}
              onBlur={aside}
              onKeyDown={(event) => {
                if (event.key === "Enter") event.currentTarget.blur();
                if (event.key === "Escape") setWhy(null);
              }}
            />
          )}
        </figcaption>
      )}
    </figure>
  );
}

function Waits({ paper }: { paper: WaitingAttachment }) {
  const url = useWaiting(paper.file);
  const attachments = useAttachments()!;
  return (
    <figure className="paper paper-waits">
      {paper.file.type.startsWith("image/") && url ? <img src={url} alt="" /> : <span className="paper-pdf">PDF</span>}
      <figcaption>{attachments.held ? "waiting" : "on the way"}</figcaption>
    </figure>
  );
}

/** A file that the server did not take: it stays here, to be sent again or kept elsewhere, until it is thrown away. */
function NotTaken({ paper }: { paper: WaitingAttachment }) {
  const attachments = useAttachments()!;
  const url = useWaiting(paper.file);
  const [sure, setSure] = useState(false);
  return (
    <div className="say fault not-taken" role="alert">
      <strong>{paper.name} is not kept on the server</strong>
      <p>{paper.refused} It stays on this device.</p>
      <div className="begin">
        <Button variant="outline-primary" onClick={() => attachments.again(paper.id)}>
          Send it again
        </Button>
        <a className="btn btn-outline-primary" href={url || undefined} download={paper.name}>
          Save a copy
        </a>
        <Button variant="link" onClick={() => (sure ? attachments.forget(paper.id) : setSure(true))}>
          {sure ? "Yes, throw it away" : "Throw it away"}
        </Button>
      </div>
    </div>
  );
}

/** Beside a field: the photograph of it, small; a tap shows it large where the drawing is. */
export function AttachmentMark({ path }: { path: string }) {
  const attachments = useAttachments();
  const mine = attachments?.kept.filter((one) => one.path === path && !one.set_aside && isPicture(one)) ?? [];
  const latest = mine.at(-1);
  if (!attachments || !latest) return null;
  const open = attachments.shown?.id === latest.id;
  return (
    <button
      type="button"
      className="paper-mark"
      aria-pressed={open}
      aria-label={open ? "Put the photograph away" : "Read it from the photograph"}
      // The field keeps the focus: it is typed while the picture is looked at.
      onMouseDown={(event) => event.preventDefault()}
      onClick={() => attachments.show(open ? null : latest)}
    >
      <img src={smallOf(latest)} alt="" />
    </button>
  );
}
