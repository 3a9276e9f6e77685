import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Page } from "../ui/Layout";
import { Factors } from "./Factors";

/** What somebody sees whose organisation asks for a second factor that they do not have yet. */
export function FactorFirst() {
  const cache = useQueryClient();
  const [done, setDone] = useState(false);
  return (
    <Page title="A second factor first">
      <h1>A second factor first</h1>
      <p>Your organisation asks for one. Set it up once; everything else is as you left it.</p>
      <Factors onChange={() => setDone(true)} />
      {done && (
        <Button onClick={() => void cache.invalidateQueries({ queryKey: ["me"] })}>
          I wrote the codes down: go on
        </Button>
      )}
    </Page>
  );
}
