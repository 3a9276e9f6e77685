import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Link, useParams } from "react-router";
import { api, asked, Problem } from "../api/client";
import { Fault } from "../ui/Fault";
import { Outside } from "./Outside";

/** Where a mail's link leads that asks whether a second factor was lost. A mail program that opens it changes nothing. */
export function FactorLost() {
  const { secret = "" } = useParams();
  const [done, setDone] = useState(false);
  const [fault, setFault] = useState<unknown>(null);
  // A link that has ended does nothing any more; whatever else went wrong may be tried again.
  const ended = fault instanceof Problem && fault.status === 409;
  const say = () =>
    asked(api.POST("/api/factor-lost", { body: { secret } }))
      .then(() => setDone(true))
      .catch(setFault);
  return (
    <Outside title="Is your second factor lost?">
      {fault != null && <Fault of={fault} />}
      {done && <p role="status">It is taken away. Sign in with your password, and set up another.</p>}
      {!done && !ended && (
        <>
          <p>Say so, and it is taken away, and every device is signed out. What you entered stays.</p>
          <Button className="w-100" onClick={() => void say()}>
            Yes, I lost it
          </Button>
        </>
      )}
      <p className="sign-in-ways">
        <Link to="/sign-in">Sign in</Link>
      </p>
    </Outside>
  );
}
