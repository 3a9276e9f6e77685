import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Problem } from "../api/client";
import { DialogForm } from "../ui/DialogForm";
import { Fault } from "../ui/Fault";
import { TextField } from "../ui/TextField";
import { counted, day } from "../ui/words";
import { library } from "./library";
import { AskPassword } from "./AskPassword";
import { Code } from "./Code";

interface Factor {
  type: "totp" | "webauthn" | "recovery_codes";
  id?: number;
  name?: string;
  created_at: number;
  unused_code_count?: number;
}
interface Codes {
  unused_codes: string[];
}
const KEY = ["factors"];
const useFactors = () =>
  useQuery({ queryKey: KEY, queryFn: async () => (await library<Factor[]>("account/authenticators")).data ?? [] });

type Doing = "code" | "key" | "codes" | { remove: Factor } | null;

/** Second factors of one's own: codes by time, security keys and passkeys, recovery codes. */
export function Factors({ onChange }: { onChange?: () => void }) {
  const cache = useQueryClient();
  const found = useFactors();
  const [doing, setDoing] = useState<Doing>(null);
  const [shown, setShown] = useState<string[] | null>(null);
  const done = () => {
    setDoing(null);
    void cache.invalidateQueries({ queryKey: KEY });
    onChange?.();
  };
  const all = found.data ?? [];
  const real = all.filter((one) => one.type !== "recovery_codes");
  const spare = all.find((one) => one.type === "recovery_codes");
  return (
    <section className="factors">
      <h2>Second factor</h2>
      <Fault of={found.error} />
      {found.data && !real.length && (
        <p>Beside the password, something that you have: a code of an app on your phone, or a key or passkey.</p>
      )}
      {real.map((one) => (
        <div key={one.id ?? one.type} className="cell-row">
          <span>
            {one.type === "totp" ? "Codes of an authenticator app" : one.name}
            <small className="soft d-block">since {day(new Date(one.created_at * 1000).toISOString())}</small>
          </span>
          <Button
            variant="link"
            onClick={() => setDoing({ remove: one })}
            aria-label={`Take away: ${one.name ?? "codes of an app"}`}
          >
            Take away
          </Button>
        </div>
      ))}
      {spare && (
        <div className="cell-row">
          <span>
            Recovery codes
            <small className="soft d-block">
              {counted(spare.unused_code_count ?? 0, "left", "left")}, each opens once
            </small>
          </span>
          <Button variant="link" onClick={() => setDoing("codes")}>
            Make new ones
          </Button>
        </div>
      )}
      {shown && (
        <div className="say">
          <strong>Recovery codes: write them down, they are shown this once</strong>
          <p className="recovery-codes">{shown.join("  ")}</p>
        </div>
      )}
      <p className="factor-acts">
        {!all.some((one) => one.type === "totp") && (
          <Button variant="outline-primary" onClick={() => setDoing("code")}>
            Set up an app
          </Button>
        )}
        <Button variant="outline-primary" onClick={() => setDoing("key")}>
          Add a key or passkey
        </Button>
      </p>
      {doing && (
        <AskPassword onDone={() => setDoing(null)}>
          {doing === "code" && <SetUpApp onDone={done} onCodes={setShown} />}
          {doing === "key" && <AddKey onDone={done} onCodes={setShown} />}
          {doing === "codes" && <NewCodes onDone={done} onCodes={setShown} />}
          {typeof doing === "object" && <TakeAway factor={doing.remove} onDone={done} />}
        </AskPassword>
      )}
    </section>
  );
}

interface Act {
  onDone: () => void;
  onCodes: (codes: string[]) => void;
}

const firstCodes = async (onCodes: Act["onCodes"]) => {
  const codes = await library<Codes>("account/authenticators/recovery-codes");
  if (codes.status === 200 && codes.data.unused_codes) onCodes(codes.data.unused_codes);
};

function SetUpApp({ onDone, onCodes }: Act) {
  const [code, setCode] = useState("");
  const asked = useQuery({
    queryKey: ["app to set up"],
    queryFn: () => library("account/authenticators/totp"),
    gcTime: 0,
    staleTime: Infinity,
  });
  const keep = async () => {
    await library("account/authenticators/totp", "POST", { code: code.replace(/\s/g, "") });
    await firstCodes(onCodes);
  };
  const { secret = "", totp_url = "" } = asked.data?.meta ?? {};
  return (
    <DialogForm title="Set up an authenticator app" keep="It is set up" onKeep={keep} onDone={onDone} ready={!!code}>
      {(problem) => (
        <>
          <p>Scan this with the app on your phone, or type the key into it; then write the code that it shows.</p>
          <Fault of={asked.error} />
          {totp_url && <Code text={totp_url} />}
          <p className="num key-to-type">{secret.replace(/(.{4})/g, "$1 ")}</p>
          <TextField name="code" label="Code that the app shows" value={code} onChange={setCode} problem={problem} />
        </>
      )}
    </DialogForm>
  );
}

function AddKey({ onDone, onCodes }: Act) {
  const [name, setName] = useState("");
  const keep = async () => {
    const { startRegistration } = await import("@simplewebauthn/browser");
    const asked = await library<{ creation_options: { publicKey: never } }>(
      "account/authenticators/webauthn?passwordless",
    );
    let credential;
    try {
      credential = await startRegistration({ optionsJSON: asked.data.creation_options.publicKey });
    } catch {
      throw new Problem(400, "No key was shown", "Put it in or touch it, and try again.", []);
    }
    await library("account/authenticators/webauthn", "POST", { name, credential });
    await firstCodes(onCodes);
  };
  return (
    <DialogForm title="Add a key or passkey" keep="Show it now" onKeep={keep} onDone={onDone}>
      {(problem) => (
        <TextField
          name="name"
          label="What you call it"
          hint="such as: phone, or key on my ring"
          value={name}
          onChange={setName}
          problem={problem}
        />
      )}
    </DialogForm>
  );
}

function NewCodes({ onDone, onCodes }: Act) {
  const keep = async () => {
    const made = await library<Codes>("account/authenticators/recovery-codes", "POST", {});
    onCodes(made.data.unused_codes);
  };
  return (
    <DialogForm title="New recovery codes" keep="Make them" onKeep={keep} onDone={onDone}>
      {() => <p>The ones of before open nothing any more.</p>}
    </DialogForm>
  );
}

function TakeAway({ factor, onDone }: { factor: Factor; onDone: () => void }) {
  const keep = () =>
    factor.type === "totp"
      ? library("account/authenticators/totp", "DELETE")
      : library("account/authenticators/webauthn", "DELETE", { authenticators: [factor.id] });
  return (
    <DialogForm title={factor.name ?? "Codes of an app"} keep="Take it away" onKeep={keep} onDone={onDone}>
      {() => <p>It is not asked for any more when you sign in.</p>}
    </DialogForm>
  );
}
