import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { DialogForm } from "../ui/DialogForm";
import { Fault } from "../ui/Fault";
import { NotYet, Page } from "../ui/Layout";
import { Said, TextField } from "../ui/TextField";
import { counted, moment } from "../ui/words";

type View = Schemas["ProgramsView"];
/** What is shown this once: a token, or the secret of a webhook. */
interface Once {
  of: string;
  text: string;
}

/** Which other programs may ask for something here, and which are told of what happens? */
export function Programs() {
  const found = useQuery({ queryKey: ["programs"], queryFn: () => asked(api.GET("/api/programs")) });
  const [making, setMaking] = useState<"token" | "webhook" | null>(null);
  const [once, setOnce] = useState<Once | null>(null);
  if (!found.data) return <NotYet error={found.error} />;
  const view = found.data;
  const living = view.webhooks.filter((one) => !one.ended_at);
  return (
    <Page title="Other programs">
      <h1>
        Other programs
        <small>{counted(view.programs.filter((one) => !one.revoked_at).length, "token")} in use</small>
      </h1>
      <p>
        A maintenance or planning system asks here with a token of its own, and is told of what happens by webhooks.
        What it may ask stands in <Link to="/programs/description">the description</Link>.
      </p>
      {once && (
        <p className="say" role="status">
          <strong>Copy it now; it is not shown again ({once.of})</strong>
          <code className="seal-code">{once.text}</code>
        </p>
      )}
      <section>
        <h2>Tokens</h2>
        <ul className="line-list">
          {view.programs.map((one) => (
            <Token key={one.id} token={one} view={view} />
          ))}
        </ul>
        <Button variant="outline-primary" onClick={() => setMaking("token")}>
          Make a token
        </Button>
      </section>
      <section className="mt-4">
        <h2>Webhooks</h2>
        <ul className="line-list">
          {living.map((one) => (
            <Hook key={one.id} hook={one} view={view} />
          ))}
        </ul>
        <Button variant="outline-primary" onClick={() => setMaking("webhook")}>
          Add an address
        </Button>
      </section>
      {view.messages.length > 0 && (
        <section className="mt-4">
          <h2>Told lately</h2>
          <ul className="line-list">
            {view.messages.map((one) => (
              <Told key={one.id} told={one} ended={!living.some((hook) => hook.id === one.webhook)} />
            ))}
          </ul>
        </section>
      )}
      {making === "token" && <MakeToken view={view} onMade={setOnce} onDone={() => setMaking(null)} />}
      {making === "webhook" && <MakeHook view={view} onMade={setOnce} onDone={() => setMaking(null)} />}
    </Page>
  );
}

const inWords = (words: readonly string[], choices: View["scopes"]) =>
  words.map((word) => choices.find((one) => one.word === word)?.says ?? word).join("; ");

/** An act on the list, after which it is asked for anew. */
function useAct() {
  const cache = useQueryClient();
  const [fault, setFault] = useState<unknown>(null);
  const act = (what: Promise<unknown>) =>
    void what.then(() => cache.invalidateQueries({ queryKey: ["programs"] })).catch(setFault);
  return [act, fault] as const;
}

function Token({ token, view }: { token: View["programs"][number]; view: View }) {
  const [act, fault] = useAct();
  const [sure, setSure] = useState(false);
  const revoke = () =>
    act(asked(api.DELETE("/api/programs/{program_id}", { params: { path: { program_id: token.id } } })));
  return (
    <li className={token.revoked_at ? "soft" : undefined}>
      <span>
        <b>{token.name}</b>
        <small>
          may {inWords(token.scopes, view.scopes)}; made by {token.made_by}, {moment(token.made_at)}; begins with{" "}
          {token.begins_with}
        </small>
        <Fault of={fault} />
      </span>
      <span>{token.used_at ? `used ${moment(token.used_at)}` : "not used yet"}</span>
      <span className="line-acts">
        {token.revoked_at ? (
          `revoked ${moment(token.revoked_at)}`
        ) : (
          <Button variant={sure ? "danger" : "outline-primary"} onClick={() => (sure ? revoke() : setSure(true))}>
            {sure ? "Yes, revoke it" : `Revoke ${token.name}`}
          </Button>
        )}
      </span>
    </li>
  );
}

function Hook({ hook, view }: { hook: View["webhooks"][number]; view: View }) {
  const [act, fault] = useAct();
  const [sure, setSure] = useState(false);
  const end = () => act(asked(api.DELETE("/api/webhooks/{webhook_id}", { params: { path: { webhook_id: hook.id } } })));
  return (
    <li>
      <span>
        <b className="text-break">{hook.url}</b>
        <small>
          told that {inWords(hook.topics, view.topics)}; by {hook.made_by}, {moment(hook.made_at)}
        </small>
        <Fault of={fault} />
      </span>
      <span />
      <span className="line-acts">
        <Button variant={sure ? "danger" : "outline-primary"} onClick={() => (sure ? end() : setSure(true))}>
          {sure ? "Yes, end it" : "End it"}
        </Button>
      </span>
    </li>
  );
}

/** What became of a message, in words. */
function becameOf(one: View["messages"][number]) {
  const tries = counted(one.tries, "try", "tries");
  if (one.taken_at) return one.tries > 1 ? `taken at try ${one.tries}` : "taken";
  if (one.given_up_at) return `given up after ${tries}: ${one.said}`;
  if (one.tries) return `${tries}: ${one.said}; again ${one.next_at ? moment(one.next_at) : "soon"}`;
  return "on its way";
}

function Told({ told, ended }: { told: View["messages"][number]; ended: boolean }) {
  const [act, fault] = useAct();
  const again = () =>
    act(asked(api.POST("/api/messages/{message_id}/again", { params: { path: { message_id: told.id } } })));
  return (
    <li>
      <span>
        <b>{told.about}</b> {told.topic_words}
        <small className="text-break">
          {told.url}, {moment(told.at)}
        </small>
        <Fault of={fault} />
      </span>
      <span className={told.given_up_at ? "wrong-text" : undefined}>{becameOf(told)}</span>
      <span className="line-acts">
        {!ended && (
          <Button variant="link" onClick={again} aria-label={`Send again: ${told.about}, ${told.topic_words}`}>
            Send again
          </Button>
        )}
      </span>
    </li>
  );
}

interface MakeProps {
  view: View;
  onMade: (once: Once) => void;
  onDone: () => void;
}

function MakeToken({ view, onMade, onDone }: MakeProps) {
  const cache = useQueryClient();
  const [name, setName] = useState("");
  const [scopes, setScopes] = useState<Schemas["ProgramIn"]["scopes"]>(["read"]);
  const make = async () => {
    const made = await asked(api.POST("/api/programs", { body: { name, scopes } }));
    onMade({ of: made.name, text: made.token ?? "" });
    void cache.invalidateQueries({ queryKey: ["programs"] });
  };
  return (
    <DialogForm title="A token for another program" keep="Make it" onKeep={make} onDone={onDone}>
      {(problem) => (
        <>
          <TextField name="name" label="Which program?" value={name} onChange={setName} problem={problem} long={80} />
          <Ticks legend="It may" choices={view.scopes} chosen={scopes} onChange={setScopes} />
          <Said problem={problem} path="scopes" />
        </>
      )}
    </DialogForm>
  );
}

function MakeHook({ view, onMade, onDone }: MakeProps) {
  const cache = useQueryClient();
  const [url, setUrl] = useState("");
  const [topics, setTopics] = useState<Schemas["WebhookIn"]["topics"]>(["job.closed", "fault.found"]);
  const make = async () => {
    const made = await asked(api.POST("/api/webhooks", { body: { url, topics } }));
    onMade({ of: made.url, text: made.secret ?? "" });
    void cache.invalidateQueries({ queryKey: ["programs"] });
  };
  return (
    <DialogForm title="An address that is told" keep="Add it" onKeep={make} onDone={onDone}>
      {(problem) => (
        <>
          <TextField
            name="url"
            label="Where to"
            value={url}
            onChange={setUrl}
            problem={problem}
            long={500}
            hint="such as https://maintenance.example/told; each message is signed"
          />
          <Ticks legend="It is told that" choices={view.topics} chosen={topics} onChange={setTopics} />
          <Said problem={problem} path="topics" />
        </>
      )}
    </DialogForm>
  );
}

interface TicksProps<T extends string> {
  legend: string;
  choices: View["scopes"];
  chosen: T[];
  onChange: (chosen: T[]) => void;
}

/** Several of a few. */
function Ticks<T extends string>({ legend, choices, chosen, onChange }: TicksProps<T>) {
  return (
    <fieldset className="ticks">
      <legend className="fs-6">{legend}</legend>
      {choices.map(({ word, says }) => {
        const held = chosen.includes(word as T);
        return (
          <Form.Check
            key={word}
            id={`tick-${word}`}
            label={says}
            checked={held}
            onChange={() => onChange(held ? chosen.filter((one) => one !== word) : [...chosen, word as T])}
          />
        );
      })}
    </fieldset>
  );
}
