import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link, useParams } from "react-router";
import { api, asked, Problem, type Schemas } from "../api/client";
import { meet } from "../api/session";
import { Fault, Waiting } from "../ui/Fault";
import { TextField } from "../ui/TextField";
import { useEntering } from "./entering";
import { library } from "./library";
import { Outside } from "./Outside";

/** Where the link of an invitation leads: what it is to, and, for somebody new, their name and password. */
export function Invited() {
  const { secret = "" } = useParams();
  const found = useQuery({
    queryKey: ["invited", secret],
    queryFn: () => asked(api.GET("/api/invited/{secret}", { params: { path: { secret } } })),
    retry: false,
  });
  if (found.isPending) return <Waiting />;
  return (
    <Outside title={found.data ? `You are invited to ${found.data.organisation}` : "Invitation"}>
      <Fault of={found.error} />
      {found.data && (
        <p>
          {found.data.by} would like you to be a {found.data.role} there.
        </p>
      )}
      {found.data && (found.data.known ? <Known /> : <Join secret={secret} invited={found.data} />)}
      {!found.data && (
        <p className="sign-in-ways">
          <Link to="/sign-in">Sign in</Link>
        </p>
      )}
    </Outside>
  );
}

function Known() {
  return (
    <>
      <p>You sign in here already. Sign in, and say whether you come.</p>
      <Link to="/sign-in" className="btn btn-primary w-100">
        Sign in
      </Link>
    </>
  );
}

function Join({ secret, invited }: { secret: string; invited: Schemas["Invited"] }) {
  const enter = useEntering("/");
  const [name, setName] = useState(invited.name);
  const [password, setPassword] = useState("");
  const [fault, setFault] = useState<unknown>(null);
  const problem = fault instanceof Problem ? fault : null;
  const submit = async (event: React.FormEvent) => {
    event.preventDefault();
    try {
      await asked(api.POST("/api/invited/{secret}", { params: { path: { secret } }, body: { name, password } }));
      meet("");
      await library("auth/login", "POST", { username: invited.address, password });
      await enter();
    } catch (raised) {
      setFault(raised);
    }
  };
  return (
    <Form onSubmit={submit} noValidate>
      {fault != null && !problem?.errors.length && <Fault of={fault} />}
      <TextField
        name="address"
        label="Address that you sign in with"
        value={invited.address}
        onChange={() => {}}
        disabled
      />
      <TextField
        name="name"
        label="Your name, as it stands on records"
        value={name}
        onChange={setName}
        problem={problem}
      />
      <TextField
        name="password"
        label="Password, ten characters or more"
        type="password"
        value={password}
        onChange={setPassword}
        problem={problem}
      />
      <Button type="submit" className="w-100">
        Come in
      </Button>
    </Form>
  );
}
