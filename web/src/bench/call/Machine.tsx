import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useBench } from "../../job/useJob";
import { counted, sentence } from "../../ui/words";
import { useHand } from "../hand";
import { lookAt, useLive } from "../live/live";
import { Watch } from "./Watch";
import { curedAt, type Look, lookedAt, makeLook, nextLook, notedAt, stepOf, type Suspect } from "./looking";
import { whySkipped } from "../why";

const minutes = (look: Look) => `about ${look.minutes === 1 ? "a minute" : `${look.minutes} minutes`}`;

/** The look to make next, with its minutes and what it tells; a tap answers it, or goes to where it is entered. */
export function LookNext() {
  const bench = useBench();
  const look = nextLook(bench);
  if (!look || !bench.open) return null;
  const left = bench.job.machine.looks_left - 1;
  return (
    <section className="look-next" aria-label="Look next">
      <small>
        Look next, {minutes(look)}
        {look.needs &&
          `; needs ${look.needs === "running" || look.needs === "stopped" ? `it ${look.needs}` : look.needs}`}
      </small>
      <h3>{look.words}</h3>
      <p>Tells: {look.tells_of.join("; ")}.</p>
      <Answers key={look.key} look={look} skips />
      {left > 0 && <small>Then at most {counted(left, "look")} more.</small>}
    </section>
  );
}

/** What one answers to a look: two words, or the way to where it is entered. */
function Answers({ look, skips }: { look: Look; skips?: boolean }) {
  const bench = useBench();
  const hand = useHand();
  const place = stepOf(bench, look);
  const answer = (text: string) => void bench.enter({ path: lookedAt(look.key), text });
  const { linked } = useLive();
  const practice = bench.job.practice && !place;
  const seen = useMutation({ mutationFn: () => lookAt(bench.job.id, look.key) });
  return (
    <div className="look-answers">
      {seen.data && <p className="look-seen">{seen.data.text}</p>}
      {practice && !seen.data ? (
        <Button disabled={seen.isPending} onClick={() => seen.mutate()}>
          Look there
        </Button>
      ) : place ? (
        <Button onClick={() => makeLook(bench, hand, look)}>Go there</Button>
      ) : (
        <>
          <Button variant="outline-primary" onClick={() => answer("fine")}>
            {look.fine}
          </Button>
          {look.more.length === 0 && (
            <Button variant="outline-primary" onClick={() => answer("not-fine")}>
              {look.not_fine}
            </Button>
          )}
          {look.more.map((words) => (
            <Button
              key={words}
              variant="outline-primary"
              onClick={() => {
                void bench.enter({ path: notedAt(look.key), text: words });
                answer("not-fine");
              }}
            >
              {words}
            </Button>
          ))}
          {look.watched && linked && !practice && <Watch look={look} />}
        </>
      )}
      {skips && bench.job.machine.may_skip && (
        <Button variant="link" onClick={() => hand.ask(whySkipped(look))}>
          skip it, and why
        </Button>
      )}
    </div>
  );
}

/** A suspect that is shown: it can be put right here, and what was read before then counts no longer. */
export function PutRight() {
  const bench = useBench();
  const { machine } = bench.job;
  const found = machine.suspects.filter((one) => one.state === "shown");
  if (!found.length || !bench.open) return null;
  return (
    <div className="put-right">
      {found.map((one) => (
        <Button
          key={one.key}
          variant="outline-primary"
          onClick={() => void bench.enter({ path: curedAt(one.key), text: "yes" })}
        >
          Put right{found.length > 1 ? `: ${one.title}` : ""}
        </Button>
      ))}
      <small>What was read before stays as found, and counts no longer.</small>
    </div>
  );
}

const STANDS = new Set<Suspect["state"]>(["shown", "likely", "open"]);

/** What else it could be: a line a suspect, its state by shape and word, and what speaks for and against it. */
export function CouldBe() {
  const bench = useBench();
  const { machine } = bench.job;
  const asked = machine.looks.length > 0 || machine.call === "find-fault";
  const [all, setAll] = useState(false);
  const [open, setOpen] = useState(false);
  if (machine.call === "not-ready" && !machine.suspects.some((one) => one.state === "shown")) return null;
  const standing = machine.suspects.filter((one) => STANDS.has(one.state) && (one.passes || one.state !== "open"));
  const cleared = machine.suspects.filter((one) => !STANDS.has(one.state));
  if (!asked && !open)
    return (
      <Button variant="link" className="could-be-open" onClick={() => setOpen(true)}>
        What else it could be
      </Button>
    );
  return (
    <section className="could-be" aria-label="What it could be">
      <h3>What it could be</h3>
      <ul>
        {standing.map((one) => (
          <SuspectLine key={one.key} suspect={one} />
        ))}
        {all && cleared.map((one) => <SuspectLine key={one.key} suspect={one} />)}
      </ul>
      {cleared.length > 0 && !all && (
        <Button variant="link" onClick={() => setAll(true)}>
          {counted(cleared.length, "thing")} ruled out, and how
        </Button>
      )}
    </section>
  );
}

function SuspectLine({ suspect }: { suspect: Suspect }) {
  const bench = useBench();
  const [open, setOpen] = useState(false);
  const looks = bench.job.machine.others.filter((look) => look.tells_of.includes(suspect.title));
  const said = suspect.speaks_for[0] ?? suspect.against[0];
  return (
    <li className={`suspect-${suspect.state}`}>
      <button type="button" className="suspect" aria-expanded={open} onClick={() => setOpen(!open)}>
        <StateShape state={suspect.state} />
        <span>
          {suspect.title[0]!.toUpperCase() + suspect.title.slice(1)}
          <small>
            {suspect.state_in_words}
            {said && `: ${said}`}
          </small>
        </span>
      </button>
      {open && (
        <div className="suspect-more">
          {suspect.speaks_for.map((text) => (
            <p key={text}>
              <b>For it:</b> {text}
            </p>
          ))}
          {suspect.against.map((text) => (
            <p key={text}>
              <b>Against it:</b> {text}
            </p>
          ))}
          {bench.open &&
            looks.map((look) => (
              <div key={look.key}>
                <p>
                  {look.words} <small>{minutes(look)}</small>
                </p>
                <Answers look={look} />
              </div>
            ))}
          {suspect.state !== "ruled-out" && suspect.state !== "said" && (
            <p className="soft">
              If it is that: {suspect.cure} {suspect.again}
            </p>
          )}
        </div>
      )}
    </li>
  );
}

/** The states of a suspect as shapes: a lozenge, half of a disc, a ring, a dash. */
function StateShape({ state }: { state: Suspect["state"] }) {
  return (
    <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true">
      {state === "shown" && <path d="M8 0 16 8 8 16 0 8Z" fill="var(--fault)" />}
      {state === "likely" && (
        <>
          <circle cx="8" cy="8" r="6.5" fill="none" stroke="var(--fault)" strokeWidth="2.5" />
          <path d="M8 1.5a6.5 6.5 0 0 0 0 13Z" fill="var(--fault)" />
        </>
      )}
      {state === "open" && <circle cx="8" cy="8" r="6.5" fill="none" stroke="currentColor" strokeWidth="2.5" />}
      {!STANDS.has(state) && <path d="M1 6.8h14v2.4H1z" fill="var(--soft)" />}
    </svg>
  );
}

/** What a comparison that is in order cannot see, once, below the call. */
export function Unseen() {
  const bench = useBench();
  const { aside } = bench.job.machine;
  if (!aside.length || !bench.open) return null;
  return (
    <>
      {aside.slice(0, 2).map((look) => (
        <div key={look.key} className="unseen">
          <p>
            This test cannot see that {look.tells_of.join(", or that ")}. {sentence(look.words)}
          </p>
          <Answers look={look} />
        </div>
      ))}
    </>
  );
}
