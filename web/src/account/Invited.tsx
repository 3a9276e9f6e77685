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
      {found.data && (found.data.known ? <Known /> : <New secret={secret} invited={found.data} />)}
      {!found.data && (
        <p className="sign-in-ways">
          <Link to="/sign-in">Sign in</Link>
        </p>
      )}
    </Outside>
  );
}

/** Whose organisation lets people in by its own way alone comes that way, and chooses no password. */
function New({ secret, invited }: { secret: string; invited: Schemas["Invited"] }) {
  const ways = useQuery({
    queryKey: ["ways", invited.address],
    queryFn: () => asked(api.GET("/api/ways", { params: { query: { address: invited.address } } })),
  });
  const house = ways.data?.house;
  if (ways.isPending) return null;
  return house?.only ? <ByHouse house={house} /> : <Join secret={secret} invited={invited} />;
}

function ByHouse({ house }: { house: Schemas["Way"] }) {
  const [fault, setFault] = useState<unknown>(null);
  const go = () =>
    asked(
      api.POST("/api/houses/{house_id}/begin", { params: { path: { house_id: house.id } }, body: { connect: false } }),
    )
      .then((begun) => window.location.assign(begun.location))
      .catch(setFault);
  return (
    <>
      <Fault of={fault} />
      <Button className="w-100" onClick={() => void go()}>
        Come by {house.name}
      </Button>
    </>
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
