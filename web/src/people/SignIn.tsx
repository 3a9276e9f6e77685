import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { useLocation, useNavigate } from "react-router";
import { api, asked } from "../api/client";
import { left, meet } from "../api/session";
import { keep } from "../job/kept";
import { Fault } from "../ui/Fault";
import { Mark } from "../ui/Layout";

export function SignIn() {
  const navigate = useNavigate();
  const cache = useQueryClient();
  const back = (useLocation().state as { back?: string } | null)?.back ?? "/";
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const [fault, setFault] = useState<unknown>(null);

  const submit = async (event: React.FormEvent) => {
    event.preventDefault();
    meet("");
    try {
      const me = await asked(api.POST("/api/sign-in", { body: { username, password } }));
      // Whoever left here without signal is signed out by this.
      left();
      meet(me.id);
      cache.clear();
      cache.setQueryData(["me"], me);
      void keep("query", JSON.stringify(["me"]), { data: me, at: Date.now() });
      navigate(back, { replace: true });
    } catch (problem) {
      setFault(problem);
    }
  };
  return (
    <main className="sign-in">
      <title>Sign in · Wary Beacon</title>
      <div className="top-mark fs-4 mb-4">
        <Mark />
        Wary Beacon
      </div>
      <h1 className="h4 mb-3">Sign in</h1>
      <Fault of={fault} />
      <Form onSubmit={submit}>
        <Form.Group className="mb-3" controlId="username">
          <Form.Label>Address</Form.Label>
          <Form.Control
            type="email"
            autoComplete="username"
            autoFocus
            required
            value={username}
            onChange={(event) => setUsername(event.target.value)}
          />
        </Form.Group>
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
        <Button type="submit" className="w-100">
          Sign in
        </Button>
      </Form>
    </main>
  );
}
