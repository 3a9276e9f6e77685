import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { api, asked } from "../api/client";
import { useMe } from "../api/queries";
import { DialogForm } from "../ui/DialogForm";
import { Fault } from "../ui/Fault";
import { TextField } from "../ui/TextField";
import { AskPassword } from "./AskPassword";
import { library } from "./library";

interface Own {
  email: string;
  verified: boolean;
  primary: boolean;
}
const KEY = ["addresses"];

/** The address that one signs in with: whether it is confirmed, another one, and the organisation's own way. */
export function Address() {
  const cache = useQueryClient();
  const me = useMe().data;
  const found = useQuery({ queryKey: KEY, queryFn: async () => (await library<Own[]>("account/email")).data ?? [] });
  const [moving, setMoving] = useState(false);
  const [said, setSaid] = useState("");
  const [fault, setFault] = useState<unknown>(null);
  const now = found.data?.find((one) => one.primary);
  const next = found.data?.find((one) => !one.primary && !one.verified);
  const confirm = (email: string) =>
    library("account/email", "PUT", { email })
      .then(() => setSaid(`A mail is on its way to ${email}: open its link within three days.`))
      .catch(setFault);
  const moved = (email: string) => {
    void cache.invalidateQueries({ queryKey: KEY });
    setSaid(`A mail is on its way to ${email}. Until its link is opened you sign in with ${me?.username}.`);
  };
  return (
    <section>
      <h2>Your address</h2>
      <Fault of={found.error ?? fault} />
      <div className="cell-row">
        <span>
          {me?.username}
          {now && <small className="soft d-block">{now.verified ? "confirmed" : "not confirmed"}</small>}
        </span>
        <span>
          {now && !now.verified && (
            <Button variant="link" onClick={() => void confirm(now.email)}>
              Confirm it by mail
            </Button>
          )}
          <Button variant="link" onClick={() => setMoving(true)}>
            Change it
          </Button>
        </span>
      </div>
      {next && (
        <div className="cell-row">
          <span>
            {next.email}
            <small className="soft d-block">waits for its link to be opened</small>
          </span>
          <Button variant="link" onClick={() => void confirm(next.email)}>
            Mail it again
          </Button>
        </div>
      )}
      {said && <p role="status">{said}</p>}
      {moving && (
        <AskPassword onDone={() => setMoving(false)}>
          <Move onDone={() => setMoving(false)} onMoved={moved} />
        </AskPassword>
      )}
      {me && <OwnWay address={me.username} />}
    </section>
  );
}

function Move({ onDone, onMoved }: { onDone: () => void; onMoved: (email: string) => void }) {
  const [email, setEmail] = useState("");
  const keep = async () => {
    await library("account/email", "POST", { email });
    onMoved(email);
  };
  return (
    <DialogForm title="Another address" keep="Mail a link there" onKeep={keep} onDone={onDone}>
      {(problem) => (
        <TextField
          name="email"
          label="Address that you will sign in with"
          type="email"
          value={email}
          onChange={setEmail}
          problem={problem}
          hint="what you entered stays under your name"
        />
      )}
    </DialogForm>
  );
}

function OwnWay({ address }: { address: string }) {
  const house = useQuery({
    queryKey: ["ways", address],
    queryFn: () => asked(api.GET("/api/ways", { params: { query: { address } } })),
  }).data?.house;
  const linked = useQuery({
    queryKey: ["linked"],
    queryFn: async () => (await library<{ provider: { id: string } }[]>("account/providers")).data ?? [],
    enabled: !!house,
  }).data;
  const [connecting, setConnecting] = useState(false);
  if (!house || !linked) return null;
  const there = linked.some((one) => one.provider.id === house.id);
  return (
    <div className="cell-row">
      <span>
        {house.name}
        <small className="soft d-block">
          {there ? "opens this account" : `the own way of ${house.organisation} to sign in`}
        </small>
      </span>
      {!there && (
        <Button variant="link" onClick={() => setConnecting(true)}>
          Connect it
        </Button>
      )}
      {connecting && (
        <AskPassword onDone={() => setConnecting(false)}>
          <Connect house={house.id} name={house.name} onDone={() => setConnecting(false)} />
        </AskPassword>
      )}
    </div>
  );
}

function Connect({ house, name, onDone }: { house: string; name: string; onDone: () => void }) {
  const keep = async () => {
    const params = { path: { house_id: house } };
    const begun = await asked(api.POST("/api/houses/{house_id}/begin", { params, body: { connect: true } }));
    window.location.assign(begun.location);
    await new Promise(() => {});
  };
  return (
    <DialogForm title={name} keep="Go there" onKeep={keep} onDone={onDone}>
      {() => (
        <p>You sign in there once; from then on it opens your account here, in every organisation you belong to.</p>
      )}
    </DialogForm>
  );
}
