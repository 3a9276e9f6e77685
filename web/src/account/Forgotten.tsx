import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link, useLocation } from "react-router";
import { Problem } from "../api/client";
import { Fault } from "../ui/Fault";
import { TextField } from "../ui/TextField";
import { library } from "./library";
import { Outside } from "./Outside";

/** A link to choose a new password by goes to the address; whether anybody has it is told to nobody. */
export function Forgotten() {
  const [address, setAddress] = useState((useLocation().state as { address?: string } | null)?.address ?? "");
  const [sentTo, setSentTo] = useState("");
  const [fault, setFault] = useState<unknown>(null);
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    setFault(null);
    library("auth/password/request", "POST", { email: address })
      .then(() => setSentTo(address))
      .catch(setFault);
  };
  const problem = fault instanceof Problem && fault.errors.length ? fault : null;
  return (
    <Outside title="A new password">
      {fault != null && !problem && <Fault of={fault} />}
      {sentTo ? (
        <p role="status">
          If somebody signs in with {sentTo}, a mail with a link is on its way. It is good for two hours. Nothing came?
          Look among unwanted mails, or ask a lead of your organisation.
        </p>
      ) : (
        <Form onSubmit={submit} noValidate>
          <TextField
            name="email"
            label="Address"
            type="email"
            value={address}
            onChange={setAddress}
            problem={problem}
          />
          <Button type="submit" className="w-100">
            Mail me a link
          </Button>
        </Form>
      )}
      <p className="sign-in-ways">
        <Link to="/sign-in">Back to sign in</Link>
      </p>
    </Outside>
  );
}
