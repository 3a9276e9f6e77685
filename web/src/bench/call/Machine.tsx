import { useMutation } from "@tanstack/react-query";
import { useId, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { useBench } from "../../job/useJob";
import { counted, sentence } from "../../ui/words";
import { useHand } from "../hand";
import { lookAt, useLive } from "../live/live";
import { Watch } from "./Watch";
import { curedAt, type Look, lookedAt, makeLook, nextLook, notedAt, stepOf, type Suspect } from "./looking";
import { whySkipped } from "../why";

const minutes = (of: number) => `about ${of <= 1 ? "a minute" : `${Math.ceil(of)} minutes`}`;

/** What to look at next, with its minutes: one look and what it tells, or those that are made in one walk. */
export function LookNext() {
  const bench = useBench();
  const look = nextLook(bench);
  if (!look || !bench.open) return null;
  const { machine } = bench.job;
  const walk = machine.looks.filter((one) => machine.card.includes(one.key));
  if (walk.length > 1) return <Walk key={machine.card_title} looks={walk} />;
  const left = machine.looks_left - 1;
  return (
    <section className="look-next" aria-label="Look next">
      <small>
        Look next, {minutes(look.minutes)}
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

/** Looks that are made in one walk: a tick each, and all are kept together. */
function Walk({ looks }: { looks: Look[] }) {
  const bench = useBench();
  const { machine } = bench.job;
  const [ticked, setTicked] = useState<string[]>([]);
  const [some, setSome] = useState(false);
  // The panel and the sheet of a small screen are both on the page: each has names of its own.
  const own = useId();
  const all = looks.every((look) => ticked.includes(look.key));
  const keep = () => looks.forEach((look) => void bench.enter({ path: lookedAt(look.key), text: "fine" }));
  return (
    <section className="look-next" aria-label="Look next">
      <small>Look next, one walk, {minutes(machine.card_minutes)}</small>
      <h3>{machine.card_title}</h3>
      <ul className="walk">
        {looks.map((look) => (
          <li key={look.key}>
            <Form.Check
              id={`${own}-${look.key}`}
              label={look.words}
              checked={ticked.includes(look.key)}
              onChange={({ target }) =>
                setTicked(target.checked ? [...ticked, look.key] : ticked.filter((one) => one !== look.key))
              }
            />
            {bench.job.practice && <LookThere look={look} />}
            {some && !ticked.includes(look.key) && <Answers look={look} skips />}
          </li>
        ))}
      </ul>
      <div className="look-answers">
        <Button disabled={!all} onClick={keep}>
          All {looks.length} in order
        </Button>
        {!some && (
          <Button variant="link" onClick={() => setSome(true)}>
            something is not
          </Button>
        )}
      </div>
    </section>
  );
}

/** In practice: what is to be seen there. */
function LookThere({ look }: { look: Look }) {
  const bench = useBench();
  const seen = useMutation({ mutationFn: () => lookAt(bench.job.id, look.key) });
  if (seen.data) return <p className="look-seen">{seen.data.text}</p>;
  return (
    <Button variant="link" disabled={seen.isPending} onClick={() => seen.mutate()}>
      Look there
    </Button>
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
          {look.lacking && (
            <Button variant="outline-primary" onClick={() => answer("not-here")}>
              It has none
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

/** So many suspects are shown with their chances; the others stand behind one line. */
const LIKELIEST = 3;
/** What is less likely than one in two hundred is not believed to be the matter. */
const BELIEVED = 0.005;

/** How likely something else is, and what: the likeliest with their chances, the others behind a line, and what was looked at. */
export function CouldBe() {
  const bench = useBench();
  const { machine } = bench.job;
  const asked = machine.looks.length > 0 || machine.call === "find-fault" || machine.otherwise !== "";
  const [all, setAll] = useState(false);
  const [open, setOpen] = useState(false);
  if (machine.call === "not-ready" && !machine.suspects.some((one) => one.state === "shown")) return null;
  const ordered = byChance(machine.suspects);
  const likeliest = ordered.filter((one) => one.state === "shown" || one.share >= BELIEVED).slice(0, LIKELIEST);
  const behind = ordered.filter((one) => !likeliest.includes(one));
  if (!asked && !open)
    return (
      <Button variant="link" className="could-be-open" onClick={() => setOpen(true)}>
        What else it could be
      </Button>
    );
  return (
    <section className="could-be" aria-label="What it could be">
      {machine.otherwise ? (
        <h3 className="otherwise">
          Something other than the figure <b>{machine.otherwise}</b>
        </h3>
      ) : (
        <h3>What it could be</h3>
      )}
      <ul>
        {[...likeliest, ...(all ? behind : [])].map((one) => (
          <SuspectLine key={one.key} suspect={one} />
        ))}
      </ul>
      {behind.length > 0 && !all && (
        <Button variant="link" onClick={() => setAll(true)}>
          and {behind.length} more{machine.rest && `, together ${machine.rest}`}
        </Button>
      )}
      {machine.looked_at && (
        <p className="looked-at">
          Looked at <small>{machine.looked_at}</small>
        </p>
      )}
      {machine.seen_before && (
        <p className="looked-at">
          Seen before <small>{machine.seen_before}</small>
        </p>
      )}
    </section>
  );
}

/** What is shown first, then the likeliest. */
const byChance = (suspects: Suspect[]) =>
  [...suspects].sort((a, b) => Number(b.state === "shown") - Number(a.state === "shown") || b.share - a.share);

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
            {suspect.state === "shown" && "shown: "}
            {said ?? suspect.state_in_words}
          </small>
        </span>
        {suspect.state !== "shown" && <b>{suspect.chance}</b>}
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
                  {look.words} <small>{minutes(look.minutes)}</small>
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
