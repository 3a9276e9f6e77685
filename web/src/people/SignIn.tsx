import { useEffect, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link, useLocation, useSearchParams } from "react-router";
import { useEntering } from "../account/entering";
import { byKey, library, waitsFor } from "../account/library";
import { Outside } from "../account/Outside";
import { api, asked, Problem, type Schemas } from "../api/client";
import { meet } from "../api/session";
import { Fault } from "../ui/Fault";

const REFUSED: Record<string, string> = {
  address: "did not say which address is yours. Whoever runs it can let it say so.",
  unproven: "says that your address is not confirmed there. Confirm it there first.",
  foreign: "answered for an address that is not of your organisation.",
  nobody: "knows you, but nobody here has invited you yet. Ask a lead of your organisation.",
  elsewhere:
    "may not open this account, since it belongs to another organisation too. Sign in with your password, and connect it under your name.",
  ended: "knows you, but you are not in the organisation here any more. Ask a lead.",
  cancelled: "was left before it was done.",
  away: "does not answer, or not as it should. Try again in a moment, or tell a lead.",
};

/** Signing in: by a password, by a key, or by the organisation's own way; then a second factor, where there is one. */
export function SignIn() {
  const back = (useLocation().state as { back?: string } | null)?.back ?? "/";
  const enter = useEntering(back);
  const [said] = useSearchParams();
  const [fault, setFault] = useState<unknown>(null);
  const [factors, setFactors] = useState<string[] | null>(null);

  const through = async (way: () => Promise<Awaited<ReturnType<typeof library>>>) => {
    setFault(null);
    try {
      meet("");
      let answer = await way();
      if (answer.status === 409) {
        // Somebody is signed in in this browser still.
        await asked(api.POST("/api/sign-out"));
        answer = await way();
      }
      const waits = waitsFor(answer);
      if (waits) setFactors(waits);
      else await enter();
    } catch (problem) {
      setFault(problem);
    }
  };
  // Back from the organisation's own way: the session is there, or waits for a second factor.
  const came = said.has("came");
  useEffect(() => {
    if (came) void through(() => library("auth/session"));
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [came]);

  const why = REFUSED[said.get("refused") ?? ""];
  return (
    <Outside title={factors ? "Second factor" : "Sign in"}>
      {why && (
        <p className="wrong-text" role="alert">
          Your organisation's own sign-in {why}
        </p>
      )}
      <Fault of={fault} />
      {factors ? <Second factors={factors} through={through} /> : <First through={through} setFault={setFault} />}
    </Outside>
  );
}

type Through = (way: () => Promise<Awaited<ReturnType<typeof library>>>) => Promise<void>;

function First({ through, setFault }: { through: Through; setFault: (fault: unknown) => void }) {
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const [house, setHouse] = useState<Schemas["Way"] | null>(null);
  const look = () => {
    if (!/@.+\./.test(username)) return setHouse(null);
    void asked(api.GET("/api/ways", { params: { query: { address: username } } }))
      .then((found) => setHouse(found.house ?? null))
      .catch(() => setHouse(null));
  };
  const byHouse = async (one: Schemas["Way"]) => {
    meet("");
    try {
      const params = { path: { house_id: one.id } };
      const begun = await asked(api.POST("/api/houses/{house_id}/begin", { params, body: { connect: false } }));
      window.location.assign(begun.location);
    } catch (problem) {
      setFault(problem);
    }
  };
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    void through(() => library("auth/login", "POST", { username, password }));
  };
  return (
    <>
      <Form onSubmit={submit}>
        <Form.Group className="mb-3" controlId="username">
          <Form.Label>Address</Form.Label>
          <Form.Control
            type="email"
            autoComplete="username webauthn"
            autoFocus
            required
            value={username}
            onChange={(event) => setUsername(event.target.value)}
            onBlur={look}
          />
        </Form.Group>
        {house && (
          <Button
            variant={house.only ? "primary" : "outline-primary"}
            className="w-100 mb-3"
            onClick={() => void byHouse(house)}
          >
            {house.name}, of {house.organisation}
          </Button>
        )}
        <Form.Group className="mb-4" controlId="password">
          <Form.Label>Password</Form.Label>
          <Form.Control
            type="password"
            autoComplete="current-password"
            required
            value={password}
            onChange={(event) => setPassword(event.target.value)}
          />
        </Form.Group>
        <Button type="submit" variant={house?.only ? "outline-primary" : "primary"} className="w-100">
          Sign in
        </Button>
      </Form>
      <p className="sign-in-ways">
        <Button variant="link" onClick={() => void through(() => byKey("auth/webauthn/login"))}>
          With a passkey
        </Button>
        <Link to="/forgotten" state={{ address: username }}>
          Password forgotten?
        </Link>
      </p>
    </>
  );
}

function Second({ factors, through }: { factors: string[]; through: Through }) {
  const [code, setCode] = useState("");
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    void through(() => library("auth/2fa/authenticate", "POST", { code: code.replace(/\s/g, "") }));
  };
  if (!factors.length)
    return <Fault of={new Problem(401, "Not signed in", "Begin once more with your address and password.", [])} />;
  return (
    <>
      {factors.includes("webauthn") && (
        <Button className="w-100 mb-4" onClick={() => void through(() => byKey("auth/webauthn/authenticate"))}>
          Show your security key
        </Button>
      )}
      {factors.some((one) => one !== "webauthn") && (
        <Form onSubmit={submit}>
          <Form.Group className="mb-4" controlId="code">
            <Form.Label>{factors.includes("totp") ? "Code of your authenticator app" : "Recovery code"}</Form.Label>
            <Form.Control
              inputMode={factors.includes("recovery_codes") ? "text" : "numeric"}
              autoComplete="one-time-code"
              autoFocus
              required
              value={code}
              onChange={(event) => setCode(event.target.value)}
            />
            {factors.includes("totp") && factors.includes("recovery_codes") && (
              <Form.Text>or one of your recovery codes, if the app is lost</Form.Text>
            )}
          </Form.Group>
          <Button type="submit" className="w-100">
            Go on
          </Button>
        </Form>
      )}
    </>
  );
}
