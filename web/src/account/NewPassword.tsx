import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link, useParams } from "react-router";
import { Problem } from "../api/client";
import { Fault } from "../ui/Fault";
import { TextField } from "../ui/TextField";
import { library } from "./library";
import { Outside } from "./Outside";

/** Where the link of a mail leads: a new password is chosen. */
export function NewPassword() {
  const { secret = "" } = useParams();
  const link = useQuery({
    queryKey: ["password", secret],
    queryFn: () => library("auth/password/reset", "GET", undefined, { "X-Password-Reset-Key": secret }),
    retry: false,
  });
  const [password, setPassword] = useState("");
  const [done, setDone] = useState(false);
  const [fault, setFault] = useState<unknown>(null);
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    library("auth/password/reset", "POST", { key: secret, password })
      .then(() => setDone(true))
      .catch(setFault);
  };
  const wrong = link.error ?? (fault instanceof Problem && fault.at("password") ? null : fault);
  return (
    <Outside title="A new password">
      {wrong != null && <Ended of={wrong} />}
      {done ? (
        <p role="status">It is changed, and every device is signed out.</p>
      ) : (
        link.data && (
          <Form onSubmit={submit} noValidate>
            <TextField
              name="password"
              label="New password, ten characters or more"
              type="password"
              value={password}
              onChange={setPassword}
              problem={fault instanceof Problem ? fault : null}
            />
            <Button type="submit" className="w-100">
              Change it
            </Button>
          </Form>
        )
      )}
      <p className="sign-in-ways">
        <Link to="/sign-in">Sign in</Link>
        {!done && <Link to="/forgotten">Ask for another link</Link>}
      </p>
    </Outside>
  );
}

/** What is wrong with a link: its own sentence, where the server says one. */
export function Ended({ of }: { of: unknown }) {
  const text = of instanceof Problem ? of.at("key") : undefined;
  return text ? (
    <p className="wrong-text" role="alert">
      {text}
    </p>
  ) : (
    <Fault of={of} />
  );
}
